"""What may cure something forbidden: a piece that no circuit knows of taken off, and what findings offer."""

from collections.abc import Mapping

from percorso.changes.edits import SetFate
from percorso.findings.finding import Finding, Remedy
from percorso.findings.operating_state import behaviour
from percorso.house_rules import HouseRules
from percorso.states.forbidden import What
from percorso.states.paths import why
from percorso.states.proof import Forbidden, Proof, replayed
from percorso.vehicle.segments import Wire

SNEAKS = ("relays-joined", "back-feed")
HELPS: Mapping[What, tuple[str, ...]] = {  # the rules whose cure may help against what happens
    "runs and must not": SNEAKS,
    "fed past its own contact": SNEAKS,
    "trigger alive": SNEAKS,
    "engine outlasts its key": SNEAKS,
    "ignition fed with the key off": SNEAKS,
    "fed from its wrong end": SNEAKS,
    "latched after its key": SNEAKS,
    "feeds joined": SNEAKS,
    "coil half pulled": ("coil-half-pulled",),
    "over its rating": ("fuse-opens",),
}


def cures(proof: Proof, forbidden: Forbidden, rules: HouseRules) -> tuple[Remedy, ...]:
    """What can be tried against something forbidden of a plan; its proof with the edits says whether it helps."""
    helps = HELPS.get(forbidden.what)
    if helps is None:
        return ()
    solution, vehicle = replayed(proof, forbidden), proof.network.vehicle
    path = why(solution, forbidden.part).whole if forbidden.part else ()
    known = {segment for circuit in vehicle.circuits.values() for segment in circuit.whole_path}
    unknown = [vehicle.segments[each] for each in dict.fromkeys(path) if each in vehicle.segments and each not in known]
    off = (
        Remedy(f"{each.designation} taken off", (SetFate(segment_id=each.id, fate="removed"),))
        for each in unknown
        if isinstance(each.spec, Wire) and helps == SNEAKS
    )
    findings = (each for each in behaviour(proof.network, solution, rules) if each.rule in helps)
    offered = (each.cure for each in findings if each.cure and _is_about(each, forbidden.part, path))
    return tuple({each.effect: each for each in (*off, *offered)}.values())


def _is_about(finding: Finding, part: str, path: tuple[str, ...]) -> bool:
    """Whether a finding is about the part, or about segments that have a part in it."""
    return part in finding.device_ids or not set(path).isdisjoint(finding.segment_ids)
