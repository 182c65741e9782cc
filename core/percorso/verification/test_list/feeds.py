"""Tests of a circuit under load: its source, what its device gets, what is lost out and back, then piece by piece."""

from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise

from percorso.network.operating_point import Network
from percorso.vehicle.model import SIDES, Circuit, Side, Vehicle, stations
from percorso.verification.measurements import Situation
from percorso.verification.test_list.asked import AskedTest, TestGroup, TestTarget, of_circuit, voltage, with_target

SIDE_NAMES: dict[Side, str] = {"supply": "supply drop", "return": "return drop"}
BY_ITSELF = ("exciter", "sense")  # families that have tests of their own


def feed_tests(network: Network, circuit: Circuit, live: Situation) -> Iterator[AskedTest]:
    """Tests of a circuit where it is loaded."""
    vehicle = network.vehicle
    allowed = circuit.target.allowed_drop_v(circuit.source_v, vehicle.nominal_v)
    group: TestGroup = "cranking" if live.state == "cranking" else "under load"
    out, back = stations(vehicle, circuit, "supply"), stations(vehicle, circuit, "return")
    if out and back:
        source = voltage(out[0], back[-1], live)
        yield of_circuit(circuit, "source", "at its source", group, source)
        at_device = of_circuit(circuit, "device", f"at {circuit.device}", group, voltage(out[-1], back[0], live))
        least = circuit.target.value if circuit.target.kind == "min_device_v" else None
        yield with_target(at_device, None if least is None else TestTarget("at least", least, "the circuit's target"))
    for side in SIDES:
        if circuit.path(side):
            yield from _side_tests(vehicle, circuit, side, allowed, live, group)


def _side_tests(
    vehicle: Vehicle, circuit: Circuit, side: Side, allowed_v: float, live: Situation, group: TestGroup
) -> Iterator[AskedTest]:
    """The drop of one side, and of each piece of it where the whole is not within."""
    points = stations(vehicle, circuit, side)
    limit = TestTarget("at most", allowed_v, "allowed out and back")
    whole = of_circuit(circuit, side, SIDE_NAMES[side], group, voltage(points[0], points[-1], live))
    yield with_target(whole, limit)
    pieces = list(zip(circuit.path(side), pairwise(points), strict=True))
    if len(pieces) < 2:
        return
    for segment_id, (start, end) in pieces:
        title = f"{vehicle.segments[segment_id].designation} alone"
        piece = of_circuit(circuit, f"{side}-{segment_id}", title, group, voltage(start, end, live))
        yield replace(piece, only_if=whole.id)
