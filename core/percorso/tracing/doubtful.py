"""Readings that are not believed as they stand: no physics allows them, or two of one thing contradict each other."""

from collections import Counter
from collections.abc import Hashable, Sequence
from dataclasses import dataclass

from percorso.network.branches import usual_resistance_ohm
from percorso.tracing.complaints import Observation
from percorso.vehicle.devices import Battery
from percorso.vehicle.model import Vehicle
from percorso.verification.judging.outcomes import are_alike
from percorso.verification.measured.instruments import error
from percorso.verification.measured.measurements import Measurement

MOST_TIMES = 5  # the nominal voltage: more than an alternator that runs away gives, from memory
CHARGING_TIMES = 1.25  # the nominal voltage: what drives a current into a short
MARGIN = 2  # a current may be so many times what is computed: cold copper, a better battery; from memory
ALIKE_SHARE = 0.1  # two readings of one thing that differ by less do not contradict each other, from memory
ALIKE_LEAST = 0.2  # V, A or Ω
COUNTS_AS = 3  # readings: one thing read oftener says no more, for the same metal is off alike each time


@dataclass(frozen=True)
class Doubtful:
    """Readings that are not believed as they stand, by their places, and why."""

    readings: tuple[int, ...]
    why: str


def impossible(vehicle: Vehicle, measurement: Measurement) -> str:
    """Why no physics allows a reading; empty where it does."""
    value = abs(measurement.value or 0.0)
    if measurement.quantity == "voltage" and value > MOST_TIMES * vehicle.nominal_v:
        most_v = MOST_TIMES * vehicle.nominal_v
        return f"not believed: nothing in a {vehicle.nominal_v:g} V vehicle makes more than {most_v:g} V"
    if measurement.quantity == "current" and value > (most := _most_a(vehicle, measurement.segment or "")):
        return f"not believed: a dead short drives no more than {float(f'{most:.2g}'):g} A through it"
    return ""


def _most_a(vehicle: Vehicle, segment_id: str) -> float:
    """The current through a segment with nothing but itself and the batteries in the circuit, A."""
    batteries = [each.spec for each in vehicle.devices.values() if isinstance(each.spec, Battery)]
    gives = sum(1 / (each.resistance_ohm or usual_resistance_ohm(each, vehicle.nominal_v)) for each in batteries)
    segment = vehicle.segments.get(segment_id)
    own_ohm = 1 / segment.conductance_s(vehicle.zone_temperature_c) if segment else 0.0
    return MARGIN * CHARGING_TIMES * vehicle.nominal_v / (own_ohm + (1 / gives if gives else 0.0) + 1e-6)


def counting_of(vehicle: Vehicle, known: Sequence[Observation]) -> list[float]:
    """How much of each of all that is known counts."""
    times = Counter(each.key for each in known if isinstance(each, Measurement))
    return [
        0.0
        if isinstance(each, Measurement) and impossible(vehicle, each)
        else min(1.0, COUNTS_AS / max(times[each.key], 1))
        for each in known
    ]


def doubtful_of(vehicle: Vehicle, known: Sequence[Observation], start: int) -> tuple[Doubtful, ...]:
    """What is not believed of all that is known; readings are counted from ``start``."""
    found, of_one = list[Doubtful](), dict[Hashable, list[int]]()
    for place, each in enumerate(known):
        if isinstance(each, Measurement):
            why = impossible(vehicle, each)
            if why:
                found.append(Doubtful((start + place,), why))
            else:
                of_one.setdefault(each.key, []).append(place)
    for places in of_one.values():
        readings = [one for place in places if isinstance(one := known[place], Measurement)]
        other = next((place for place, one in zip(places, readings, strict=True) if _differ(readings[0], one)), None)
        if other is not None:
            both = start + places[0], start + other
            found.append(Doubtful(both, "these two contradict each other: read it once more"))
        if len(places) > COUNTS_AS:
            all_of_it = tuple(start + place for place in places)
            found.append(Doubtful(all_of_it, f"read {len(places)} times, which counts as {COUNTS_AS}"))
    return tuple(found)


def _differ(one: Measurement, other: Measurement) -> bool:
    """Whether two readings of the same thing differ by more than an instrument and a moment do."""
    if one.value is None or other.value is None:
        return not are_alike(one.outcome, other.outcome)
    off = sum(error(each.with_what, each.quantity, each.value or 0.0) for each in (one, other))
    allowed = off + max(ALIKE_LEAST, ALIKE_SHARE * max(abs(one.value), abs(other.value)))
    return abs(one.value - other.value) > allowed
