"""The ladder of a wire or a fuse on its circuit: every standard step with what it would do, the rest as it is."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

from percorso.circuits.design_case import Planned
from percorso.circuits.voltage_profile import Leg, Profile
from percorso.circuits.worst_currents import Flows
from percorso.components.conductors import ConductorSize, Series, copper_mass_kg, find_size
from percorso.components.fuses import FuseChoice, Inrush, choose_fuse, fuse_ratings_a, holds
from percorso.components.insulation import family
from percorso.house_rules import HouseRules, School
from percorso.sizing.practice import floor_for
from percorso.sizing.protection_zones import (
    Guarding,
    fuse_in_front_a,
    fuse_that_stays,
    inrush_through,
    least_fuse_a,
    load_of_guard_a,
    path,
    thinnest_behind_a,
)
from percorso.sizing.wire_ends import wire_ends
from percorso.sizing.wire_size import Candidate, Duty, OtherUse, SizeChoice, WireTask, size_wire
from percorso.vehicle.copper import lasts_s
from percorso.vehicle.model import Circuit, Segment, Vehicle, passing
from percorso.vehicle.resistance import FUSE_DROP_AT_RATING_V, ends_resistance_ohm
from percorso.vehicle.segments import HOT_ZONES, Fuse, Wire


@dataclass(frozen=True)
class Rung:
    """One step of a segment's ladder; ``change`` is what to write into its spec to take it."""

    label: str
    area_mm2: float | None
    change: Mapping[str, str | float | None]
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
    school: School | None  # that chose a size; none chooses a rating

    @property
    def recommended(self) -> Rung | None:
        """The recommended rung, None when nothing fits."""
        return next((rung for rung in self.rungs if rung.recommended), None)


def ladders(
    plan: Planned, circuit: Circuit, solved: Profile, series: Series | None = None, only: str | None = None
) -> dict[str, Ladder]:
    """The size ladder of each wire and the rating ladder of each fuse of a circuit, by segment id, in path order.

    ``solved`` is the circuit's profile at design current; ``series`` overrides the wires' own; ``only`` names the one
    segment whose ladder is wanted.
    """
    vehicle, worst, rules = plan.vehicle, plan.worst, plan.rules
    made: dict[str, Ladder] = {}
    for leg in solved.legs:
        spec = vehicle.segments[leg.segment_id].spec
        if only not in (None, leg.segment_id):
            continue
        if isinstance(spec, Wire):
            task = wire_task(plan, circuit, solved, leg.segment_id, spec)
            made[leg.segment_id] = _wire_ladder(vehicle.segments[leg.segment_id], spec, task, solved, rules, series)
        elif isinstance(spec, Fuse):
            stands = thinnest_behind_a(vehicle, circuit, leg.segment_id, rules)
            load_a = load_of_guard_a(vehicle, worst, leg.segment_id, rules)
            inrush = inrush_through(vehicle, leg.segment_id)
            least_a = least_fuse_a(vehicle, leg.segment_id, rules)
            asked = choose_fuse(load_a, stands if stands is not None else math.inf, rules, spec.family, inrush, least_a)
            choice = fuse_that_stays(vehicle, leg.segment_id, spec, asked, rules) or asked
            made[leg.segment_id] = _fuse_ladder(leg, spec, choice, inrush, solved)
    return made


def wire_task(plan: Planned, circuit: Circuit, solved: Profile, segment_id: str, spec: Wire) -> WireTask:
    """The sizing task of one wire while the rest of its circuit stays as it is."""
    leg, vehicle = solved.leg(segment_id), plan.vehicle
    duty = wire_duty(vehicle, plan.worst, segment_id, spec, fuse_in_front_a(vehicle, circuit, segment_id), plan.rules)
    return WireTask(
        current_a=leg.current_a,
        length_m=spec.length_m,
        source_v=circuit.source_v,
        allowed_drop_v=solved.allowed_drop_v,
        elsewhere_drop_v=_elsewhere_v(solved, leg, spec),
        temperature_c=None if vehicle.copper == "own temperature" else vehicle.zone_temperature_c[spec.zone],
        seconds=lasts_s(circuit.state),
        duty=_without_help(duty, circuit, leg),
        others=tuple(
            _other_use(each, plan.profiles[each.id], plan.rules, segment_id, spec)
            for each in plan.passing(segment_id)
            if each.id != circuit.id and each.id in plan.profiles
        ),
        family=circuit.family,
        wants_fuse=circuit.family == "feed"
        and not any(isinstance(each.spec, Guarding) for each in path(vehicle, circuit)),
    )


def wire_duty(
    vehicle: Vehicle, worst: Flows, segment_id: str, spec: Wire, fuse_a: float | None, rules: HouseRules
) -> Duty:
    """What a wire must stand where it lies."""
    return Duty(
        continuous_a=worst.continuous(segment_id).current_a,
        cranking_a=worst.cranking_a(segment_id),
        fuse_in_front_a=fuse_a,
        air_c=vehicle.zone_temperature_c[spec.zone],
        engine_space=spec.zone in HOT_ZONES,
        insulation=spec.insulation,
        bundle=spec.bundle,
        ends=wire_ends(vehicle, vehicle.segments[segment_id], spec),
        floor=floor_for(vehicle, vehicle.segments[segment_id], rules),
        rarely_full=any(each.family == "charging" for each in passing(vehicle, segment_id)),
    )


def _elsewhere_v(solved: Profile, leg: Leg, spec: Wire) -> float:
    """What a circuit loses besides the copper of one of its wires, V."""
    return solved.total_drop_v - leg.drop_v + leg.current_a * ends_resistance_ohm(spec)


def _other_use(circuit: Circuit, solved: Profile, rules: HouseRules, segment_id: str, spec: Wire) -> OtherUse:
    """What another circuit may lose with the wire: it stays within or close if it is, and else gets no worse."""
    leg, present = solved.leg(segment_id), solved.total_drop_v
    levels = (rules.aimed_fraction(circuit.family) * solved.allowed_drop_v, solved.allowed_drop_v, present)
    most = next(each for each in levels if present <= each)
    return OtherUse(circuit.name, leg.current_a, _elsewhere_v(solved, leg, spec), most)


def _without_help(duty: Duty, circuit: Circuit, leg: Leg) -> Duty:
    """What a wire must stand once all of its circuit's current comes through it: what lies beside may open."""
    beside_a = max(circuit.design_current_a - leg.current_a, 0.0)
    if circuit.state == "cranking":
        return replace(duty, cranking_a=duty.cranking_a + beside_a)
    return replace(duty, continuous_a=duty.continuous_a + beside_a)


def size_change(spec: Wire, size: str) -> dict[str, str | float | None]:
    """What to write into a wire's spec for another size; insulation that is not made in it becomes the usual one."""
    is_made = spec.insulation is None or family(spec.insulation).is_made_in(find_size(size).area_mm2)
    return {"size": size} if is_made else {"size": size, "insulation": None}


def _wire_ladder(
    segment: Segment, spec: Wire, task: WireTask, solved: Profile, rules: HouseRules, series: Series | None
) -> Ladder:
    present = find_size(spec.size)
    choice = size_wire(task, series or present.series, rules)
    stays = segment.origin == "existing" and rules.school != "light" and _does_as_well(present, choice)
    recommended = present.name if stays else choice.size
    summary = f"{present.name} is there and meets everything; {choice.size} would do" if stays else choice.reason
    mass = copper_mass_kg(spec.conductor, spec.length_m)

    def rung(tried: Candidate) -> Rung:
        return Rung(
            label=tried.size,
            area_mm2=tried.area_mm2,
            change=size_change(spec, tried.size),
            drop_v=tried.drop_v,
            ampacity_a=tried.ampacity_a,
            refused=tuple(tried.refused.values()),
            gained_v=solved.total_drop_v - tried.drop_v,
            extra_copper_kg=tried.copper_mass_kg - mass,
            present=tried.size == present.name,
            recommended=tried.size == recommended,
        )

    return Ladder(segment.id, tuple(rung(tried) for tried in choice.candidates), summary, rules.school)


def _does_as_well(present: ConductorSize, choice: SizeChoice) -> bool:
    """Whether a thicker wire than the chosen one meets everything too: nobody pulls it out for a thinner one."""
    tried = {each.size: each for each in choice.candidates}.get(present.name)
    return bool(tried and choice.chosen and not tried.refused and choice.chosen.area_mm2 < tried.area_mm2)


def _fuse_ladder(leg: Leg, spec: Fuse, choice: FuseChoice, inrush: Inrush | None, solved: Profile) -> Ladder:
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
                refused=_fuse_refusals(rating, choice, inrush),
                gained_v=solved.total_drop_v - drop,
                extra_copper_kg=0.0,
                present=rating == spec.rating_a,
                recommended=rating == choice.rating_a,
            )
        )
    return Ladder(leg.segment_id, tuple(rungs), choice.reason, None)


def _fuse_refusals(rating_a: float, choice: FuseChoice, inrush: Inrush | None) -> tuple[str, ...]:
    refused = []
    if rating_a < choice.lowest_a * (1 - 1e-9):
        refused.append(f"tires under its load, which needs {choice.lowest_a:.3g} A")
    if not holds(rating_a, inrush) and inrush:
        refused.append(f"may open in the {inrush.current_a:.3g} A inrush")
    if rating_a > choice.highest_a:
        refused.append(f"thinnest wire good for {choice.highest_a:.3g} A")
    return tuple(refused)
