"""Chooses the size of one wire: every size that is made, with the reason it is refused or recommended."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from percorso.ampacity import CRANKS_FOR_S, Ampacity, cable_ampacity, cranking_ampacity_a
from percorso.conductors import (
    ConductorSize,
    MetricStandard,
    Series,
    copper_mass_kg,
    resistance_ohm,
    stocked_sizes,
)
from percorso.heating import Cable, cable
from percorso.house_rules import HouseRules
from percorso.insulation import Insulation, fitting_insulation
from percorso.protection import FuseChoice, choose_fuse
from percorso.specs import ZONE_TEMPERATURE_C, Zone

Criterion = Literal["voltage drop", "short circuit", "ampacity", "cranking", "fuse", "thinnest allowed"]
Governing = Criterion | Literal["smallest size made", "no circuit"]
SMALLEST_MADE: Governing = "smallest size made"


@dataclass(frozen=True)
class Duty:
    """What a wire must stand whatever it loses, and where it lies."""

    continuous_a: float
    cranking_a: float = 0.0  # a starter's short current is not held to the continuous ampacity
    fuse_in_front_a: float | None = None
    zone: Zone = "cabin"
    insulation: Insulation | None = None
    bundle: int = 1
    zone_temperature_c: Mapping[Zone, float] = field(default_factory=lambda: ZONE_TEMPERATURE_C)

    def ampacity(self, size: ConductorSize, rules: HouseRules) -> Ampacity:
        """What a size may carry here."""
        return cable_ampacity(self.cable(size), self.zone, self.bundle, rules, self.zone_temperature_c)

    def cable(self, size: ConductorSize) -> Cable:
        """A size in this insulation, or in what is usual where it is not made in it."""
        return cable(size, fitting_insulation(self.insulation, size.area_mm2))


def refusals(size: ConductorSize, duty: Duty, rules: HouseRules) -> dict[Criterion, str]:
    """Why a size does not stand its duty, by criterion; empty where it does."""
    refused: dict[Criterion, str] = {}
    stands = duty.ampacity(size, rules).allowed_a
    if size.area_mm2 < rules.thinnest_wire_mm2 * (1 - 1e-9):
        refused["thinnest allowed"] = f"thinner than the house's {rules.thinnest_wire_mm2:g} mm²"
    if stands < duty.continuous_a * (1 - 1e-9):
        refused["ampacity"] = f"good for {stands:.3g} A, {duty.continuous_a:.3g} A flow"
    air_c = duty.zone_temperature_c[duty.zone]
    if duty.cranking_a > stands and cranking_ampacity_a(duty.cable(size), air_c) < duty.cranking_a:
        refused["cranking"] = f"too warm after {CRANKS_FOR_S:g} s of {duty.cranking_a:.0f} A"
    if duty.fuse_in_front_a is not None and stands < duty.fuse_in_front_a:
        refused["fuse"] = f"too thin for its {duty.fuse_in_front_a:g} A fuse"
    return refused


@dataclass(frozen=True)
class WireTask:
    """One wire to be sized: what flows through it, how far and how warm, and what it must respect."""

    current_a: float
    length_m: float  # total conductor length of this wire
    source_v: float
    allowed_drop_v: float  # for the whole circuit
    elsewhere_drop_v: float = 0.0  # what the rest of the circuit already loses
    temperature_c: float = 20.0
    metric_standard: MetricStandard = "iso-6722-1"
    duty: Duty | None = None  # None: its current for long, in a cabin, without a fuse in front

    @property
    def stands(self) -> Duty:
        """What it must stand."""
        return self.duty or Duty(self.current_a)


@dataclass(frozen=True)
class Candidate:
    """One size tried: what it would do, and by criterion why it is refused."""

    size: str
    area_mm2: float
    resistance_ohm: float
    drop_v: float  # of the whole circuit with this size
    load_v: float
    ampacity_a: float
    fuse_a: float | None
    copper_mass_kg: float
    refused: Mapping[Criterion, str]


@dataclass(frozen=True)
class SizeChoice:
    """The smallest size that meets everything, with all that were tried; ``size`` is None when none does."""

    size: str | None
    governed_by: str | None
    reason: str
    fuse: FuseChoice | None
    candidates: tuple[Candidate, ...]

    @property
    def chosen(self) -> Candidate | None:
        """The candidate that was chosen."""
        return next((tried for tried in self.candidates if tried.size == self.size), None)


def size_wire(task: WireTask, series: Series, rules: HouseRules) -> SizeChoice:
    """Smallest stocked size of ``series`` that meets drop, ampacity and the fuse in front; and the fuse it wants."""
    sizes = stocked_sizes(series, task.metric_standard)
    candidates = tuple(_try_size(size, task, rules) for size in sizes)
    fitting = next((index for index, tried in enumerate(candidates) if not tried.refused), None)
    if fitting is None:
        return SizeChoice(None, None, _why_impossible(task, candidates[-1]), None, candidates)
    chosen = candidates[fitting]
    governed_by = " and ".join(candidates[fitting - 1].refused) if fitting else SMALLEST_MADE
    reason = f"{chosen.size} is the smallest that meets everything; governed by {governed_by}"
    fuse = choose_fuse(task.current_a, chosen.ampacity_a, rules)
    return SizeChoice(chosen.size, governed_by, reason, fuse, candidates)


def _try_size(size: ConductorSize, task: WireTask, rules: HouseRules) -> Candidate:
    resistance = resistance_ohm(size, task.length_m, task.temperature_c, task.metric_standard)
    drop = task.elsewhere_drop_v + task.current_a * resistance
    ampacity = task.stands.ampacity(size, rules).allowed_a
    over: dict[Criterion, str] = {}
    if drop > task.allowed_drop_v:
        over["voltage drop"] = f"over by {drop - task.allowed_drop_v:.2g} V"
    return Candidate(
        size=size.name,
        area_mm2=size.area_mm2,
        resistance_ohm=resistance,
        drop_v=drop,
        load_v=task.source_v - drop,
        ampacity_a=ampacity,
        fuse_a=choose_fuse(task.current_a, ampacity, rules).rating_a,
        copper_mass_kg=copper_mass_kg(size, task.length_m),
        refused=over | refusals(size, task.stands, rules),
    )


def _why_impossible(task: WireTask, thickest: Candidate) -> str:
    if task.elsewhere_drop_v >= task.allowed_drop_v:
        return (
            f"no wire is thick enough: the rest of the circuit alone loses {task.elsewhere_drop_v:.3g} V of the "
            f"{task.allowed_drop_v:.3g} V allowed; mend that first"
        )
    return (
        f"no stocked size does it: even {thickest.size} is refused ({'; '.join(thickest.refused.values())}); "
        "allow more drop, shorten the path or split the feed"
    )
