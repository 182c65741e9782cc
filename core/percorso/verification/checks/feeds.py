"""Tests of a circuit under load: its source, what its device gets, what is lost out and back, then piece by piece."""

from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise

from percorso.network.operating_point import Network
from percorso.vehicle.model import SIDES, Circuit, Side, Vehicle, stations
from percorso.verification.checks.asked import Check, CheckGroup, CheckTarget, of_circuit, voltage, with_target
from percorso.verification.measured.measurements import Situation

SIDE_NAMES: dict[Side, str] = {"supply": "supply drop", "return": "return drop"}
BY_ITSELF = ("exciter", "sense")  # families that have tests of their own


def feed_checks(network: Network, circuit: Circuit, live: Situation) -> Iterator[Check]:
    """Tests of a circuit where it is loaded."""
    vehicle = network.vehicle
    allowed = circuit.target.allowed_drop_v(circuit.source_v, vehicle.nominal_v)
    group: CheckGroup = "cranking" if live.state == "cranking" else "under load"
    out, back = stations(vehicle, circuit, "supply"), stations(vehicle, circuit, "return")
    if out and back:
        source = voltage(out[0], back[-1], live)
        yield of_circuit(circuit, "source", "at its source", group, source)
        at_device = of_circuit(circuit, "device", f"at {circuit.device}", group, voltage(out[-1], back[0], live))
        least = circuit.target.value if circuit.target.kind == "min_device_v" else None
        yield with_target(at_device, None if least is None else CheckTarget("at least", least, "the circuit's target"))
    for side in SIDES:
        if circuit.path(side):
            yield from _side_checks(vehicle, circuit, side, allowed, live, group)


def _side_checks(
    vehicle: Vehicle, circuit: Circuit, side: Side, allowed_v: float, live: Situation, group: CheckGroup
) -> Iterator[Check]:
    """The drop of one side, and of each piece of it where the whole is not within."""
    points = stations(vehicle, circuit, side)
    limit = CheckTarget("at most", allowed_v, "allowed out and back")
    whole = of_circuit(circuit, side, SIDE_NAMES[side], group, voltage(points[0], points[-1], live))
    yield with_target(whole, limit)
    pieces = list(zip(circuit.path(side), pairwise(points), strict=True))
    if len(pieces) < 2:
        return
    for segment_id, (start, end) in pieces:
        title = f"{vehicle.segments[segment_id].designation} alone"
        piece = of_circuit(circuit, f"{side}-{segment_id}", title, group, voltage(start, end, live))
        yield replace(piece, only_if=whole.id)
