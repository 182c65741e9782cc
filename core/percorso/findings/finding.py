"""What a rule notices: where, why and how grave, said as a colleague would, and the cure as data."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Literal

from percorso.changes.edits import Edit
from percorso.vehicle.model import Circuit, Vehicle

Severity = Literal["error", "caution", "hint"]
MOST_NAMED = 3  # of the assumed parts a finding rests on
SEVERITIES: tuple[Severity, ...] = ("error", "caution", "hint")


@dataclass(frozen=True)
class Remedy:
    """What to do about a finding, said in a few words, and the edits that do it."""

    effect: str
    edits: tuple[Edit, ...]


@dataclass(frozen=True)
class Finding:
    """Something wrong or doubtful: what, where, why, and what cures it; ``rule`` names the rule that says so.

    ``assumed`` are the designations of parts of it that nobody looked at: then it is so by what is usual.
    """

    severity: Severity
    title: str
    reason: str
    segment_ids: tuple[str, ...]
    cure: Remedy | None = None
    point_ids: tuple[str, ...] = ()
    device_ids: tuple[str, ...] = ()
    rule: str = ""
    assumed: tuple[str, ...] = ()


def concerns(finding: Finding, circuit: Circuit, beside: Iterable[str] = ()) -> bool:
    """Whether a finding is about a circuit's segments, what lies ``beside`` them, or its device."""
    about = set(finding.segment_ids)
    return not about.isdisjoint({*circuit.whole_path, *beside}) or circuit.device_id in finding.device_ids


def gravest_first(found: Iterable[Finding], vehicle: Vehicle) -> tuple[Finding, ...]:
    """Findings in the order in which they matter, each said once, and never as a fact where metal is assumed."""
    once = {(each.title, each.segment_ids, each.device_ids): _as_known(each, vehicle) for each in found}
    return tuple(sorted(once.values(), key=lambda finding: SEVERITIES.index(finding.severity)))


def _as_known(finding: Finding, vehicle: Vehicle) -> Finding:
    parts = [
        *(vehicle.segments.get(each) for each in finding.segment_ids),
        *(vehicle.devices.get(each) for each in finding.device_ids),
    ]
    assumed = tuple(dict.fromkeys(each.designation for each in parts if each and each.known == "assumed"))
    if not assumed or finding.assumed:
        return finding
    named, more = ", ".join(assumed[:MOST_NAMED]), len(assumed) - MOST_NAMED
    usual = f"By what is usual: nobody looked at {named}{f' and {more} more' if more > 0 else ''} yet."
    return replace(finding, reason=f"{finding.reason} {usual}".strip(), assumed=assumed)
