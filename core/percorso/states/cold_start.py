"""How cold it may be for a starter still to crank its engine, what stands in the way then, and what cures would win."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from percorso.components.batteries import WARM_C
from percorso.components.conductors import find_size, stocked_sizes
from percorso.house_rules import COLDEST_C
from percorso.network.mornings import LEAST_POSTS_V, LEAST_SPEED, Cranking, cranked
from percorso.vehicle.devices import Battery, Starter
from percorso.vehicle.model import Circuit, Device, Segment, Vehicle, passing
from percorso.vehicle.resistance import segment_resistance_ohm, sound_at_most_ohm
from percorso.vehicle.segments import Wire, changed_spec

ColdStartLimit = Literal["battery", "cable", "ground", "trigger"]
STEP_K, WITHIN_K = 5.0, 0.25
USUAL_LOSS_V = {"cable": 0.5, "ground": 0.3, "trigger": 1.2}  # of 12 V, common practice
LOST: Mapping[ColdStartLimit, str] = {
    "battery": "in the battery",
    "cable": "on the way to it",
    "ground": "in the return",
    "trigger": "on the way to its trigger",
}
UNFED_V = 0.5  # at a solenoid that no closed contact leads to: what leaks there is less
SIZES_MORE, BATTERY_TIMES = 2, 1.25  # what a cure takes: wire two sizes thicker, a battery a quarter stronger
WORTH_K = 0.5  # a cure that wins less is not told


@dataclass(frozen=True)
class Win:
    """A cure, and how much colder it may be with it, K."""

    what: str
    kelvin: float


@dataclass(frozen=True)
class ColdStart:
    """The coldest morning on which a starter cranks, °C (None: on none), what limits it, and the way there.

    ``limit`` is None where it cranks at the coldest that is tried.
    """

    device_id: str
    coldest_c: float | None
    limit: ColdStartLimit | None
    why: str
    curve: tuple[Cranking, ...]
    wins: tuple[Win, ...]


def cold_starts(vehicle: Vehicle) -> list[ColdStart]:
    """Every starter of a vehicle at one stage that a battery feeds."""
    has_battery = next(vehicle.devices_of(Battery), None) is not None
    return [_cold_start(vehicle, each) for each, _ in vehicle.devices_of(Starter)] if has_battery else []


def _cold_start(vehicle: Vehicle, starter: Device) -> ColdStart:
    steps = [WARM_C - STEP_K * step for step in range(int((WARM_C - COLDEST_C) / STEP_K) + 1)]
    curve = tuple(cranked(vehicle, starter, each) for each in steps)
    fails = next((each for each in curve if not each.starts(vehicle.nominal_v)), None)
    if fails is None:
        said = f"It cranks at {COLDEST_C:.0f} °C, and colder is not tried."
        return ColdStart(starter.id, COLDEST_C, None, said, curve, ())
    coldest_c = _coldest_c(vehicle, starter, fails.outside_c, fails.outside_c + STEP_K)
    limit, why = _limit(vehicle, fails)
    return ColdStart(starter.id, coldest_c, limit, why, curve, tuple(_wins(vehicle, starter, coldest_c)))


def _coldest_c(vehicle: Vehicle, starter: Device, fails_c: float, starts_c: float) -> float | None:
    """The coldest morning on which it still cranks, between two, °C; None where it does on none."""
    if starts_c > WARM_C:
        if not cranked(vehicle, starter, WARM_C).starts(vehicle.nominal_v):
            return None
        starts_c = WARM_C
    while starts_c - fails_c > WITHIN_K:
        middle_c = (fails_c + starts_c) / 2
        starts = cranked(vehicle, starter, middle_c).starts(vehicle.nominal_v)
        fails_c, starts_c = (fails_c, middle_c) if starts else (middle_c, starts_c)
    return starts_c


def _limit(vehicle: Vehicle, fails: Cranking) -> tuple[ColdStartLimit, str]:
    """What stands in the way where it fails first: what loses the most of what is usual for it."""
    per_12 = vehicle.nominal_v / 12
    at, least_v = f"at {fails.outside_c:.0f} °C", LEAST_POSTS_V * per_12
    if fails.is_triggered and (fails.speed or 0.0) >= LEAST_SPEED:
        return "battery", f"Only {fails.posts_v:.1f} V are left at its posts {at}, and {least_v:.1f} V should be."
    if fails.pull_in_v > 0 and (fails.trigger_v or 0.0) < UNFED_V:
        return "trigger", "Nothing feeds its solenoid while cranking."
    posts_v = least_v if fails.posts_v is None else fails.posts_v
    lost: dict[ColdStartLimit, tuple[float, float]] = {
        "battery": (fails.rest_v - posts_v, max(fails.rest_v - least_v, 0.1)),
        "cable": (fails.plus_lost_v or 0.0, USUAL_LOSS_V["cable"] * per_12),
        "ground": (fails.ground_lost_v or 0.0, USUAL_LOSS_V["ground"] * per_12),
        "trigger": (fails.trigger_lost_v or 0.0, USUAL_LOSS_V["trigger"] * per_12),
    }
    lost.pop("trigger" if fails.is_triggered else "cable")
    limit = max(lost, key=lambda each: lost[each][0] / lost[each][1])
    lost_v, usual_v = lost[limit]
    where = f"{lost_v:.1f} V are lost {LOST[limit]} {at}, where {usual_v:.1f} V are usual"
    return limit, f"{where}: it {fails.does}."


def _wins(vehicle: Vehicle, starter: Device, coldest_c: float | None) -> Iterator[Win]:
    """Cures that win something, the best first."""
    from_c = WARM_C + STEP_K if coldest_c is None else coldest_c
    tried = [(what, _coldest_c(cured, starter, COLDEST_C, from_c)) for what, cured in _cures(vehicle, starter)]
    wins = [Win(what, from_c - colder_c) for what, colder_c in tried if colder_c is not None]
    yield from sorted((each for each in wins if each.kelvin >= WORTH_K), key=lambda each: -each.kelvin)


def _cures(vehicle: Vehicle, starter: Device) -> Iterator[tuple[str, Vehicle]]:
    """What may be mended, each by itself: the vehicle with it."""
    for device, spec in vehicle.devices_of(Battery):
        if spec.state_of_charge_percent < 100:
            yield f"{device.name} charged full", _with_battery(vehicle, device, state_of_charge_percent=100.0)
        if spec.cold_cranking_a is not None and spec.chemistry != "LiFePO4":
            stronger = round(spec.cold_cranking_a * BATTERY_TIMES, -1)
            cured = _with_battery(vehicle, device, cold_cranking_a=stronger, resistance_ohm=None)
            yield f"{device.name} of {stronger:.0f} A instead of {spec.cold_cranking_a:.0f} A", cured
    for circuit in vehicle.circuits.values():
        if circuit.device_id == starter.id:
            yield from _thicker(vehicle, circuit)
    for segment in vehicle.segments.values():
        most_ohm = sound_at_most_ohm(segment.spec)
        if most_ohm is not None and segment_resistance_ohm(segment.spec) > most_ohm:
            sound = changed_spec(segment.spec, {"resistance_ohm": None})
            yield f"{segment.designation} as a sound one", _with(vehicle, [replace(segment, spec=sound)])


def _thicker(vehicle: Vehicle, circuit: Circuit) -> Iterator[tuple[str, Vehicle]]:
    """A circuit of a starter with its own wires of one side thicker: a trigger's wires are not the starter's cables."""
    for path in (circuit.supply, circuit.return_path):
        own = [each for each in path if circuit.family == "starting" or not _is_cable(vehicle, each)]
        wires = [segment for each in own if isinstance((segment := vehicle.segments[each]).spec, Wire)]
        thicker = [larger for each in wires if (larger := _larger(each))]
        if thicker:
            now = {each.id: each.spec.size for each in thicker if isinstance(each.spec, Wire)}
            was = {each.id: each.spec.size for each in wires if isinstance(each.spec, Wire)}
            sizes = {f"{size} instead of {was[each]}" for each, size in now.items()}
            names = ", ".join(each.designation for each in thicker)
            said = sizes.pop() if len(sizes) == 1 else "two sizes thicker"
            yield f"{names}: {said}", _with(vehicle, thicker)


def _is_cable(vehicle: Vehicle, segment_id: str) -> bool:
    """Whether a starter's own current passes a segment."""
    return any(each.family == "starting" for each in passing(vehicle, segment_id))


def _larger(segment: Segment) -> Segment | None:
    """A wire two sizes thicker in its series; None where none is made."""
    assert isinstance(segment.spec, Wire)
    present = find_size(segment.spec.size)
    more = [each for each in stocked_sizes(present.series) if each.area_mm2 > present.area_mm2 * (1 + 1e-9)]
    if not more:
        return None
    size = more[min(SIZES_MORE, len(more)) - 1].name
    return replace(segment, spec=changed_spec(segment.spec, {"size": size, "insulation": None}))


def _with(vehicle: Vehicle, segments: Iterable[Segment]) -> Vehicle:
    return replace(vehicle, segments={**vehicle.segments, **{each.id: each for each in segments}})


def _with_battery(vehicle: Vehicle, device: Device, **values: float | None) -> Vehicle:
    stronger = replace(device, spec=device.spec.model_copy(update=values))
    return replace(vehicle, devices={**vehicle.devices, device.id: stronger})
