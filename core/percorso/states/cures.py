"""What may cure something forbidden: a piece that no circuit knows of taken off, and what findings offer."""

from collections.abc import Iterator

from percorso.changes.edits import SetFate
from percorso.findings.finding import Cure, Finding
from percorso.findings.operating_state import behaviour
from percorso.house_rules import HouseRules
from percorso.states.paths import why
from percorso.states.proof import Forbidden, Proof, replayed
from percorso.vehicle.segments import Wire


def cures(proof: Proof, forbidden: Forbidden, rules: HouseRules) -> tuple[Cure, ...]:
    """What can be tried against something forbidden; whether it helps is for the proof of the edited job to say."""
    solution, vehicle = replayed(proof, forbidden), proof.network.vehicle
    path = why(solution, forbidden.part).parts if forbidden.part else ()
    known = {segment for circuit in vehicle.circuits.values() for segment in circuit.whole_path}
    unknown = [vehicle.segments[each] for each in path if each in vehicle.segments and each not in known]
    off = (
        Cure(f"{each.designation} taken off", (SetFate(segment_id=each.id, fate="removed"),))
        for each in unknown
        if isinstance(each.spec, Wire)
    )
    offered = _offered(behaviour(proof.network, solution, rules), forbidden.part, path)
    return tuple({each.effect: each for each in (*off, *offered)}.values())


def _offered(findings: tuple[Finding, ...], part: str, path: tuple[str, ...]) -> Iterator[Cure]:
    """Cures of findings about the part, or about segments its current passes."""
    for each in findings:
        if each.cure and (part in each.device_ids or not set(path).isdisjoint(each.segment_ids)):
            yield each.cure
