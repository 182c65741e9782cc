"""The ladder of a wire or a fuse on its circuit: every standard step with what it would do, the rest as it is."""

from collections.abc import Mapping
from dataclasses import dataclass

from percorso.conductors import Series, copper_mass_kg, find_size
from percorso.flows import Flows
from percorso.guarding import Guarding, fuse_in_front_a, inrush_through, load_of_guard_a, path, thinnest_behind_a
from percorso.house_rules import HouseRules, School
from percorso.insulation import family
from percorso.profile import Leg, Profile
from percorso.protection import FuseChoice, Inrush, choose_fuse, fuse_ratings_a, holds
from percorso.sizing import Candidate, Duty, WireTask, size_wire
from percorso.specs import FUSE_DROP_AT_RATING_V, HOT_ZONES, Fuse, Wire, ends_resistance_ohm
from percorso.terminations import wire_ends
from percorso.vehicle import Circuit, Vehicle


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
    vehicle: Vehicle, circuit: Circuit, solved: Profile, worst: Flows, rules: HouseRules, series: Series | None = None
) -> dict[str, Ladder]:
    """The size ladder of each wire and the rating ladder of each fuse of a circuit, by segment id, in path order.

    ``solved`` is the circuit's profile, ``worst`` what flows in all states; ``series`` overrides the wires' own.
    """
    made: dict[str, Ladder] = {}
    for leg in solved.legs:
        spec = vehicle.segments[leg.segment_id].spec
        if isinstance(spec, Wire):
            task = wire_task(vehicle, circuit, solved, worst, leg.segment_id, spec)
            made[leg.segment_id] = _wire_ladder(leg.segment_id, spec, task, solved, rules, series)
        elif isinstance(spec, Fuse):
            stands = thinnest_behind_a(vehicle, circuit, leg.segment_id, rules)
            load_a, inrush = (
                load_of_guard_a(vehicle, worst, leg.segment_id, rules),
                inrush_through(vehicle, leg.segment_id),
            )
            choice = choose_fuse(load_a, stands if stands is not None else float("inf"), rules, spec.family, inrush)
            made[leg.segment_id] = _fuse_ladder(leg, spec, choice, inrush, solved)
    return made


def wire_task(
    vehicle: Vehicle, circuit: Circuit, solved: Profile, worst: Flows, segment_id: str, spec: Wire
) -> WireTask:
    """The sizing task of one wire while the rest of its circuit stays as it is."""
    leg = solved.leg(segment_id)
    return WireTask(
        current_a=leg.current_a,
        length_m=spec.length_m,
        source_v=circuit.source_v,
        allowed_drop_v=solved.allowed_drop_v,
        elsewhere_drop_v=solved.total_drop_v - leg.drop_v + leg.current_a * ends_resistance_ohm(spec),
        temperature_c=vehicle.zone_temperature_c[spec.zone],
        duty=wire_duty(vehicle, worst, segment_id, spec, fuse_in_front_a(vehicle, circuit, segment_id)),
        wants_fuse=circuit.family == "feed"
        and not any(isinstance(each.spec, Guarding) for each in path(vehicle, circuit)),
    )


def wire_duty(vehicle: Vehicle, worst: Flows, segment_id: str, spec: Wire, fuse_a: float | None) -> Duty:
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
    )


def size_change(spec: Wire, size: str) -> dict[str, str | float | None]:
    """What to write into a wire's spec for another size; insulation that is not made in it becomes the usual one."""
    is_made = spec.insulation is None or family(spec.insulation).is_made_in(find_size(size).area_mm2)
    return {"size": size} if is_made else {"size": size, "insulation": None}


def _wire_ladder(
    segment_id: str, spec: Wire, task: WireTask, solved: Profile, rules: HouseRules, series: Series | None
) -> Ladder:
    present = find_size(spec.size)
    choice = size_wire(task, series or present.series, rules)
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
            recommended=tried.size == choice.size,
        )

    return Ladder(segment_id, tuple(rung(tried) for tried in choice.candidates), choice.reason, rules.school)


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
        refused.append(f"tires under its load, which asks for {choice.lowest_a:.3g} A")
    if not holds(rating_a, inrush) and inrush:
        refused.append(f"may open in the {inrush.current_a:.3g} A inrush")
    if rating_a > choice.highest_a:
        refused.append(f"thinnest wire stands {choice.highest_a:.3g} A")
    return tuple(refused)
