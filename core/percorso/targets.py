"""What a circuit must meet: the kinds of target, and the ones that are usual for its purpose."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from percorso import tables

Family = Literal["charging", "starting", "ground", "feed", "control", "exciter", "sense"]
FAMILIES: tuple[Family, ...] = get_args(Family)
# Feeds come in two: in general, and to what suffers from low voltage.
Purpose = Literal[Family, "electronics and pumps"]
PURPOSES: tuple[Purpose, ...] = get_args(Purpose)
FAMILY_NAMES: Mapping[Family, str] = {  # in the order of work
    "charging": "Charging",
    "starting": "Starting",
    "ground": "Ground",
    "feed": "Power feeds",
    "control": "Control",
    "exciter": "Exciter",
    "sense": "Sense",
}
PURPOSE_NAMES: Mapping[Purpose, str] = {
    "charging": "Charging",
    "starting": "Starting",
    "ground": "Grounds",
    "feed": "Feeds in general",
    "electronics and pumps": "Feeds of electronics and pumps",
    "control": "Control",
    "exciter": "Exciter",
    "sense": "Sense",
}
TargetKind = Literal["max_drop_v", "max_drop_percent", "min_device_v"]
SENSITIVE = ("constant power", "constant current", "pump")  # kinds of load that suffer from low voltage


@dataclass(frozen=True)
class Target:
    """What a circuit must meet: ``value`` is V, or % of nominal for ``max_drop_percent``."""

    kind: TargetKind
    value: float

    def allowed_drop_v(self, source_v: float, nominal_v: float) -> float:
        """The drop out and back that just meets the target, V; negative when no drop at all would."""
        if self.kind == "max_drop_v":
            return self.value
        if self.kind == "max_drop_percent":
            return nominal_v * self.value / 100
        return source_v - self.value


def usual_targets() -> tuple[tuple[Purpose, Target], ...]:
    """The usual target of each purpose; the table names the practice it comes from."""
    rows: Mapping[str, dict[str, str]] = {row["purpose"]: row for row in tables.rows("drop_targets")}
    return tuple((each, _of_row(rows[each])) for each in PURPOSES)


def _of_row(row: Mapping[str, str]) -> Target:
    kind: TargetKind = "max_drop_v" if row["target"] == "max_drop_v" else "max_drop_percent"
    return Target(kind, float(row["value"]))


def purpose_of(family: Family, load_kind: str | None) -> Purpose:
    """The purpose of a circuit of a family that feeds a kind of load."""
    return "electronics and pumps" if family == "feed" and load_kind in SENSITIVE else family


def family_of(purpose: Purpose) -> Family:
    """The family of circuits that have a purpose."""
    return "feed" if purpose == "electronics and pumps" else purpose
