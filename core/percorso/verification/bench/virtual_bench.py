"""What instruments would show of a vehicle, on sound metal or with hidden faults, exactly or with their noise."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from percorso.errors import PercorsoError
from percorso.faults.model import Fault, with_faults
from percorso.network.operating_point import Network
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import Breaker, Fuse
from percorso.vehicle.stages import vehicle_at
from percorso.verification.bench.metering import Metering, Shown
from percorso.verification.bench.prepared_vehicle import prepared, remaining_faults
from percorso.verification.measured.instruments import range_for
from percorso.verification.measured.measurements import Measurement, Situation, by_ids

BLOWS_TIMES = 2.0  # of its rating: a blade fuse opens within seconds, ISO 8820-3, from memory


def measure(
    vehicle: Vehicle, measurements: Sequence[Measurement], faults: Sequence[Fault] = (), noise: int | None = None
) -> list[Measurement]:
    """The same measurements with the ``value`` or ``outcome`` that an instrument would show, parts and points by id.

    ``noise`` is the seed of an instrument's errors and makes it round to its last digit; without it the value is exact.
    A voltage or a current is the mean where something chatters. Neither value nor outcome where an instrument shows
    none. Raises PercorsoError, whose ``field`` begins with the place
    of the measurement, or with ``"faults"``.
    """
    random = None if noise is None else np.random.default_rng(noise)
    benches: dict[tuple[object, ...], Bench] = {}
    found = []
    for place, each in enumerate(measurements):
        try:
            if each.situation.key not in benches:
                benches[each.situation.key] = Bench(vehicle, each.situation, faults)
            shown, measurement = benches[each.situation.key].show(each)
        except PercorsoError as error:
            path = error.field if error.field[:1] == ("faults",) else (place, *error.field)
            raise type(error)(str(error), field=path) from error
        found.append(measurement.model_copy(update=_read(measurement, shown, random)))
    return found


class Bench:
    """A vehicle with faults in one situation; fuses that cannot carry it have blown, or have ``blown`` before."""

    def __init__(
        self,
        vehicle: Vehicle,
        situation: Situation,
        faults: Sequence[Fault],
        blown: frozenset[str] = frozenset(),
    ) -> None:
        self._situation = situation
        try:
            sound = vehicle_at(replace(vehicle, opened=vehicle.opened | blown), situation.stage)
            faulty = with_faults(sound, faults)
            left = remaining_faults(sound, situation.preparations, faults)
            if len(left) < len(faults):
                faulty = with_faults(sound, left)
        except PercorsoError as error:
            raise type(error)(str(error), field=("faults", *error.field)) from error
        blown_by_hand = {each.part for each in left if each.fault == "blown"}
        opened = blown | {each.id for each in faulty.segments.values() if blown_by_hand & {each.id, each.designation}}
        made = prepared(faulty, situation.preparations)
        network, now = without_blown(Network(made), situation)
        self.vehicle, self._blown = network.vehicle, opened | now
        self._metering = Metering(network, situation.state, situation.inputs)

    def show(self, measurement: Measurement) -> tuple[Shown, Measurement]:
        """What an instrument shows here, and the measurement by ids. Raises MeasurementError and StateError."""
        asked = by_ids(self.vehicle, measurement)
        return self.show_all([asked])[0], asked

    def show_all(self, measurements: Sequence[Measurement]) -> list[Shown]:
        """What instruments show one at a time; points and parts go by id. Raises StateError."""
        blown = Shown(outcome="blown")
        at_fuse = [each.quantity == "seen" and each.segment in self._blown for each in measurements]
        others = iter(
            self._metering.show([each for each, is_blown in zip(measurements, at_fuse, strict=True) if not is_blown])
        )
        return [blown if is_blown else next(others) for is_blown in at_fuse]


def without_blown(network: Network, situation: Situation) -> tuple[Network, frozenset[str]]:
    """The network once the fuses have opened that carry far more than their rating, the worst first; and which."""
    blown: set[str] = set()
    while True:
        flow = network.solve(situation.state, situation.inputs, look_ahead=False).flow_a
        rated = {each.id: spec.rating_a for each, spec in network.vehicle.segments_of(Fuse)}
        rated |= {each.id: spec.rating_a for each, spec in network.vehicle.segments_of(Breaker)}
        over = {each: abs(flow.get(each, 0.0)) / rating for each, rating in rated.items()}
        worst = max(over, key=over.__getitem__, default=None)
        if worst is None or over[worst] <= BLOWS_TIMES:
            return network, frozenset(blown)
        blown.add(worst)
        vehicle = network.vehicle
        network = Network(replace(vehicle, opened=vehicle.opened | {worst}))


def _read(measurement: Measurement, shown: Shown, random: np.random.Generator | None) -> dict[str, object]:
    """What is written down of what is shown."""
    value = shown.value
    if value is None or random is None:
        return {"value": value, "outcome": shown.outcome}
    reading = range_for(measurement.with_what, measurement.quantity, value)
    if reading is None:
        return {"value": None, "outcome": shown.outcome}
    noisy = value + random.normal(0, reading.error(value) / 1.96)
    return {"value": round(round(noisy / reading.digit) * reading.digit, 9), "outcome": shown.outcome}
