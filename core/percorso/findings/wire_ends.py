"""Wires thicker than what their ends go into is made for, and what would take them."""

from collections.abc import Iterator

from percorso.changes.edits import ChangeSegment, ResizeCircuit
from percorso.circuits.design_case import Planned
from percorso.components.conductors import find_size
from percorso.findings.finding import Finding, Remedy
from percorso.findings.rules import named
from percorso.sizing.wire_ends import WireEnd, wire_ends
from percorso.vehicle.model import Segment
from percorso.vehicle.segments import Wire


@named(
    "end-too-small",
    says="a wire does not go into what it ends in",
    when="it is thicker than the terminal, base, holder or connector is made for",
    source="makers' data, from memory",
    cure="a ring, a relay with studs, a bolted fuse",
)
def wire_end_findings(plan: Planned) -> Iterator[Finding]:
    """Every wire that does not go into what it ends in; of its ends the first is said."""
    for segment, spec in plan.segments(Wire):
        size = find_size(spec.size)
        end = next((each for each in wire_ends(plan.vehicle, segment, spec) if each.refuses(size)), None)
        if end is not None:
            title, reason = f"{segment.designation} {size.name} does not go into {end.what}.", end.refuses(size)
            where = tuple(dict.fromkeys(each for each in (segment.id, end.part_id) if each))
            yield Finding("error", title, f"{reason[0].upper()}{reason[1:]}.", where, _cure(plan, segment, end))


def _cure(plan: Planned, segment: Segment, end: WireEnd) -> Remedy | None:
    if end.part_id:
        return Remedy(end.heavier, (ChangeSegment(segment_id=end.part_id, change=dict(end.change)),))
    circuits = plan.passing(segment.id)
    return Remedy(f"size {circuits[0].name} anew", (ResizeCircuit(circuit_id=circuits[0].id),)) if circuits else None
