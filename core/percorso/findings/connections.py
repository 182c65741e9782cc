"""Bad connections, by their measured resistance or by what they are, and mending as the cure."""

from collections.abc import Iterator

from percorso.changes.edits import ChangeSegment
from percorso.circuits.design_case import Planned
from percorso.findings.finding import Finding, Remedy
from percorso.findings.rules import named
from percorso.vehicle.model import Segment
from percorso.vehicle.resistance import is_bad_connection, sound_at_most_ohm
from percorso.vehicle.resistance import segment_resistance_ohm as resistance_of
from percorso.vehicle.segments import Fuse, Joint, Splice


@named(
    "connection-bad",
    says="a bad connection",
    when="its resistance is beyond what is usual, or it is twisted and taped, or sits on paint or rust",
    source="typical resistances, from memory; common practice",
    cure="repaired",
)
def connection_findings(plan: Planned) -> Iterator[Finding]:
    """Every bad connection."""
    return (found for each in plan.pieces if (found := bad_connection(each)))


def bad_connection(segment: Segment) -> Finding | None:
    """Resistance beyond what such a connection usually has: a tired terminal, a holder, a corroded lug."""
    spec, name = segment.spec, segment.designation
    change: dict[str, str | None] = {"resistance_ohm": None}
    if isinstance(spec, Splice) and spec.condition == "twisted and taped":
        title, reason = f"{name} is twisted and taped.", "It works loose and corrodes; crimp it."
        change |= {"condition": "crimped"}
    elif isinstance(spec, Joint) and spec.condition == "lug on paint or rust":
        title = f"{name} sits on paint or rust."
        reason = f"It has {resistance_of(spec) * 1000:.3g} mΩ; clean it to bright metal, fasten it, grease it."
        change |= {"condition": "ring on clean stud"}
    elif is_bad_connection(spec) and (most := sound_at_most_ohm(spec)):
        kind = "fuse in its holder" if isinstance(spec, Fuse) else spec.kind
        title = f"{name} has {resistance_of(spec) * 1000:.3g} mΩ."
        reason = f"A sound {kind} has {most * 1000:.3g} mΩ at most: the connection is bad, not the part."
    else:
        return None
    cure = Remedy(f"{name} repaired", (ChangeSegment(segment_id=segment.id, change=change),))
    return Finding("caution", title, reason, (segment.id,), cure)
