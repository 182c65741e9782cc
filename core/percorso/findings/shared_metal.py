"""What other circuits' current takes of a circuit's allowance on metal they share, and what betters that metal."""

from collections.abc import Iterator

from percorso.changes.edits import AddSegment
from percorso.circuits.design_case import Planned
from percorso.circuits.voltage_profile import Leg
from percorso.findings.connections import bad_connection
from percorso.findings.finding import Finding, Remedy
from percorso.findings.rules import named
from percorso.vehicle.model import Circuit
from percorso.vehicle.segments import Wire
from percorso.vehicle.states import IN_STATE

SAME_AGAIN_M = 0.5  # length of a cable beside a stretch that has no wire to go by, common practice
PART_OF_IT = 0.05  # of what others lose, from which on a piece is worth naming
GROUND_SIZE = "25 mm2"  # a ground cable where no wire is there to go by, common practice


@named(
    "shared-allowance",
    says="what a circuit shares with others takes its allowance",
    when="it is within its target alone, and over with what others lose on the same metal in its state",
    source="Ohm's law; common practice",
    cure="a bad connection repaired, or a cable beside the shared path",
)
def sharing_findings(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    """A circuit that keeps its target by itself and not while others load what it shares with them."""
    solved = plan.profiles[circuit.id]
    shared = {leg.segment_id: _others_v(plan, circuit, leg) for leg in solved.legs}
    others_v = sum(shared.values())
    if not solved.total_drop_v <= solved.allowed_drop_v < solved.total_drop_v + others_v:
        return
    most = max(shared, key=lambda each: shared[each])
    stretch = _around(most, [leg for leg in solved.legs if shared[leg.segment_id] >= PART_OF_IT * others_v])
    names = ", ".join(plan.name(leg.segment_id) for leg in stretch)
    title = f"What {circuit.name} shares with others takes its allowance."
    which = f" on {names}" if len(stretch) == 1 else f" on {names}, most of it on {plan.name(most)}"
    reason = (
        f"{IN_STATE[circuit.state].capitalize()}, other circuits drop {others_v:.2f} V{which}; "
        f"its own current drops {solved.total_drop_v:.2f} V; {solved.allowed_drop_v:.2f} V allowed. "
        "Thicker wire of its own does not help: better the shared way."
    )
    bad = bad_connection(plan.vehicle.segments[most])
    cure = bad.cure if bad else _cable_beside(plan, stretch)
    yield Finding("caution", title, reason, tuple(leg.segment_id for leg in stretch), cure)


def _others_v(plan: Planned, circuit: Circuit, leg: Leg) -> float:
    """What others lose on a leg in the circuit's state, V."""
    forward = plan.vehicle.segments[leg.segment_id].from_point == leg.start_point
    flowing = plan.worst.with_others_a(circuit, leg, forward=forward)
    return (flowing - leg.current_a) * leg.resistance_ohm


def _around(segment_id: str, legs: list[Leg]) -> list[Leg]:
    """Of some legs those that follow on each other around a segment."""
    groups: list[list[Leg]] = []
    for leg in legs:
        if groups and groups[-1][-1].end_point == leg.start_point:
            groups[-1].append(leg)
        else:
            groups.append([leg])
    return next(group for group in groups if any(leg.segment_id == segment_id for leg in group))


def _cable_beside(plan: Planned, stretch: list[Leg]) -> Remedy:
    """A second cable of the thickest size there, from the one end of a stretch to the other."""
    wires = [spec for leg in stretch if isinstance(spec := plan.vehicle.segments[leg.segment_id].spec, Wire)]
    size = max(wires, key=lambda wire: wire.conductor.area_mm2).size if wires else GROUND_SIZE
    zone = wires[0].zone if wires else "engine bay"
    length = sum(wire.length_m for wire in wires) or SAME_AGAIN_M
    cable = {"kind": "wire", "size": size, "length_m": round(length, 2), "zone": zone}
    edit = AddSegment(from_point=stretch[0].start_point, to_point=stretch[-1].end_point, spec=cable)
    first, last = (plan.vehicle.points[each].name for each in (edit.from_point, edit.to_point))
    return Remedy(f"a {size} cable beside it, from {first} to {last}", (edit,))
