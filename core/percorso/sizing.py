"""Chooses wire sizes and fuses along a circuit: every standard step with the reason it is refused or recommended."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from percorso.conductors import (
    ConductorSize,
    MetricStandard,
    Series,
    copper_mass_kg,
    find_size,
    resistance_ohm,
    stocked_sizes,
)
from percorso.heating import table_ampacity_a
from percorso.house_rules import HouseRules
from percorso.profile import Leg, Profile
from percorso.protection import FuseChoice, choose_fuse, fuse_ratings_a
from percorso.specs import FUSE_DROP_AT_RATING_V, HOT_ZONES, Fuse, Wire
from percorso.vehicle import Circuit, Vehicle

Criterion = Literal["voltage drop", "ampacity", "fuse"]
SMALLEST_MADE = "smallest size made"


@dataclass(frozen=True)
class WireTask:
    """One wire to be sized: what flows through it, how far and how warm, and what it must respect."""

    current_a: float
    length_m: float  # total conductor length of this wire
    source_v: float
    allowed_drop_v: float  # for the whole circuit
    elsewhere_drop_v: float = 0.0  # what the rest of the circuit already loses
    temperature_c: float = 20.0
    engine_space: bool = False
    continuous: bool = True  # a starter's short current is not held to the continuous ampacity
    fuse_in_front_a: float | None = None
    metric_standard: MetricStandard = "iso-6722-1"


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
    ampacity = table_ampacity_a(size, engine_space=task.engine_space)
    refused: dict[Criterion, str] = {}
    if drop > task.allowed_drop_v:
        refused["voltage drop"] = f"over by {drop - task.allowed_drop_v:.2g} V"
    if task.continuous and ampacity < task.current_a:
        refused["ampacity"] = f"good for {ampacity:.3g} A, {task.current_a:.3g} A flow"
    if task.fuse_in_front_a is not None and ampacity < task.fuse_in_front_a:
        refused["fuse"] = f"too thin for its {task.fuse_in_front_a:g} A fuse"
    return Candidate(
        size=size.name,
        area_mm2=size.area_mm2,
        resistance_ohm=resistance,
        drop_v=drop,
        load_v=task.source_v - drop,
        ampacity_a=ampacity,
        fuse_a=choose_fuse(task.current_a, ampacity, rules).rating_a,
        copper_mass_kg=copper_mass_kg(size, task.length_m),
        refused=refused,
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


@dataclass(frozen=True)
class Rung:
    """One step of a segment's ladder; ``change`` is what to write into its spec to take it."""

    label: str
    area_mm2: float | None
    change: Mapping[str, str | float]
    drop_v: float  # of the whole circuit
    ampacity_a: float | None
    refused: tuple[str, ...]
    gained_v: float  # against the present step
    extra_copper_kg: float
    present: bool
    recommended: bool


@dataclass(frozen=True)
class Ladder:
    """Every standard step of one segment, thinnest first, and what governs the recommendation."""

    segment_id: str
    rungs: tuple[Rung, ...]
    summary: str

    @property
    def recommended(self) -> Rung | None:
        """The recommended rung, None when nothing fits."""
        return next((rung for rung in self.rungs if rung.recommended), None)


def ladders(
    vehicle: Vehicle, circuit: Circuit, solved: Profile, rules: HouseRules, series: Series | None = None
) -> dict[str, Ladder]:
    """The size ladder of each wire and the rating ladder of each fuse of a circuit, by segment id, in path order.

    ``solved`` is the circuit's profile; ``series`` overrides the wires' own (AWG or metric).
    """
    made: dict[str, Ladder] = {}
    for leg in solved.legs:
        spec = vehicle.segments[leg.segment_id].spec
        if isinstance(spec, Wire):
            task = wire_task(vehicle, circuit, solved, leg.segment_id, spec)
            made[leg.segment_id] = _wire_ladder(leg.segment_id, spec, task, solved, rules, series)
        elif isinstance(spec, Fuse):
            stands = thinnest_behind_a(vehicle, circuit, leg.segment_id)
            made[leg.segment_id] = _fuse_ladder(leg, spec, stands, solved, rules)
    return made


def wire_task(vehicle: Vehicle, circuit: Circuit, solved: Profile, segment_id: str, spec: Wire) -> WireTask:
    """The sizing task of one wire while the rest of its circuit stays as it is."""
    leg = solved.leg(segment_id)
    return WireTask(
        current_a=leg.current_a,
        length_m=spec.length_m,
        source_v=circuit.source_v,
        allowed_drop_v=solved.allowed_drop_v,
        elsewhere_drop_v=solved.total_drop_v - leg.drop_v,
        temperature_c=vehicle.zone_temperature_c[spec.zone],
        engine_space=spec.zone in HOT_ZONES,
        continuous=circuit.state != "cranking",
        fuse_in_front_a=fuse_in_front_a(vehicle, circuit, segment_id),
    )


def fuse_in_front_a(vehicle: Vehicle, circuit: Circuit, segment_id: str) -> float | None:
    """Rating of the smallest fuse between the source and a segment, A; None when nothing guards it."""
    order = (*circuit.supply, *circuit.return_path)
    before = (vehicle.segments[other].spec for other in order[: order.index(segment_id)])
    return min((spec.rating_a for spec in before if isinstance(spec, Fuse)), default=None)


def thinnest_behind_a(vehicle: Vehicle, circuit: Circuit, fuse_id: str) -> float | None:
    """Ampacity of the weakest wire behind a fuse, A; None when no wire follows it."""
    order = (*circuit.supply, *circuit.return_path)
    behind = (vehicle.segments[other].spec for other in order[order.index(fuse_id) + 1 :])
    return min((wire_ampacity_a(spec) for spec in behind if isinstance(spec, Wire)), default=None)


def wire_ampacity_a(spec: Wire) -> float:
    """Table ampacity of a wire in its zone, A."""
    return table_ampacity_a(find_size(spec.size), engine_space=spec.zone in HOT_ZONES)


def _wire_ladder(
    segment_id: str, spec: Wire, task: WireTask, solved: Profile, rules: HouseRules, series: Series | None
) -> Ladder:
    present = find_size(spec.size)
    choice = size_wire(task, series or present.series, rules)
    mass = copper_mass_kg(present, spec.length_m)
    rungs = tuple(
        Rung(
            label=tried.size,
            area_mm2=tried.area_mm2,
            change={"size": tried.size},
            drop_v=tried.drop_v,
            ampacity_a=tried.ampacity_a,
            refused=tuple(tried.refused.values()),
            gained_v=solved.total_drop_v - tried.drop_v,
            extra_copper_kg=tried.copper_mass_kg - mass,
            present=tried.size == present.name,
            recommended=tried.size == choice.size,
        )
        for tried in choice.candidates
    )
    return Ladder(segment_id, rungs, choice.reason)


def _fuse_ladder(leg: Leg, spec: Fuse, stands: float | None, solved: Profile, rules: HouseRules) -> Ladder:
    choice = choose_fuse(leg.current_a, stands if stands is not None else float("inf"), rules, spec.family)
    rungs = []
    for rating in fuse_ratings_a(spec.family):
        resistance = FUSE_DROP_AT_RATING_V / rating if rating != spec.rating_a else leg.resistance_ohm
        drop = solved.total_drop_v - leg.drop_v + leg.current_a * resistance
        rungs.append(
            Rung(
                label=f"{rating:g} A",
                area_mm2=None,
                change={"rating_a": rating},
                drop_v=drop,
                ampacity_a=None,
                refused=_fuse_refusals(rating, choice, leg.current_a),
                gained_v=solved.total_drop_v - drop,
                extra_copper_kg=0.0,
                present=rating == spec.rating_a,
                recommended=rating == choice.rating_a,
            )
        )
    return Ladder(leg.segment_id, tuple(rungs), choice.reason)


def _fuse_refusals(rating_a: float, choice: FuseChoice, load_a: float) -> tuple[str, ...]:
    refusals = []
    if rating_a < choice.lowest_a * (1 - 1e-9):
        refusals.append(f"tires under {load_a:.3g} A; asks for {choice.lowest_a:.3g} A")
    if rating_a > choice.highest_a:
        refusals.append(f"thinnest wire stands {choice.highest_a:.3g} A")
    return tuple(refusals)
