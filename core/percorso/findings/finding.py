"""What a rule notices: where, why and how grave, said as a colleague would, and the cure as data."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from percorso.changes.edits import Edit
from percorso.vehicle.model import Circuit

Severity = Literal["error", "caution", "hint"]
SEVERITIES: tuple[Severity, ...] = ("error", "caution", "hint")


@dataclass(frozen=True)
class Remedy:
    """What to do about a finding, said in a few words, and the edits that do it."""

    effect: str
    edits: tuple[Edit, ...]


@dataclass(frozen=True)
class Finding:
    """Something wrong or doubtful: what, where, why, and what cures it; ``rule`` names the rule that says so."""

    severity: Severity
    title: str
    reason: str
    segment_ids: tuple[str, ...]
    cure: Remedy | None = None
    point_ids: tuple[str, ...] = ()
    device_ids: tuple[str, ...] = ()
    rule: str = ""


def concerns(finding: Finding, circuit: Circuit, beside: Iterable[str] = ()) -> bool:
    """Whether a finding is about a circuit's segments, what lies ``beside`` them, or its device."""
    about = set(finding.segment_ids)
    return not about.isdisjoint({*circuit.whole_path, *beside}) or circuit.device_id in finding.device_ids


def gravest_first(found: Iterable[Finding]) -> tuple[Finding, ...]:
    """Findings in the order in which they matter, each said once."""
    once = {(each.title, each.segment_ids, each.device_ids): each for each in found}
    return tuple(sorted(once.values(), key=lambda finding: SEVERITIES.index(finding.severity)))
