"""A pump feed small enough for a pocket calculator, shared by the tests of the circuit modules."""

from typing import Any

from percorso.targets import Target
from percorso.vehicle.model import Circuit, Point, Segment, Vehicle
from percorso.vehicle.segments import SEGMENT_SPEC

PARTS: dict[str, tuple[str, str, dict[str, Any]]] = {
    "F1": ("stud", "f", {"kind": "fuse", "rating_a": 25, "resistance_ohm": 0.004}),
    "W1": ("f", "plus", {"kind": "wire", "size": "10 AWG", "length_m": 4.572, "insulation": "silicone"}),
    "W2": ("minus", "lug", {"kind": "wire", "size": "10 AWG", "length_m": 4.572, "insulation": "silicone"}),
    "G1": ("lug", "post", {"kind": "joint", "resistance_ohm": 0.001}),
}
COLD = {"cabin": 20.0, "engine bay": 20.0, "near exhaust": 20.0, "outside": 20.0}


def pump_feed(allowed_v: float = 1.0, **changes: dict[str, Any]) -> tuple[Vehicle, Circuit]:
    """20 A from a 13 V stud through 25 A fuse, 15 ft out and 15 ft back of 10 AWG at 20 °C; ``changes`` by part.

    Silicone cable is made to ASTM gauges, those of the handbooks.
    """
    segments = {
        name: Segment(name, name, start, end, SEGMENT_SPEC.validate_python(spec | changes.get(name, {})))
        for name, (start, end, spec) in PARTS.items()
    }
    points = {name: Point(name, name.title()) for name in ("stud", "f", "plus", "minus", "lug", "post")}
    circuit = Circuit(
        id="pump",
        name="Pump",
        family="feed",
        device="Pump",
        design_current_a=20,
        source_v=13,
        target=Target("max_drop_v", allowed_v),
        source_point="stud",
        supply=("F1", "W1"),
        return_point="minus",
        return_path=("W2", "G1"),
    )
    return Vehicle(12, points, segments, {"pump": circuit}, COLD), circuit
