"""Traces what is wrong with a vehicle: suspects from readings, what is acquitted, the next best tests, when to stop."""

from collections.abc import Collection, Hashable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from percorso.errors import MeasurementError, TraceError
from percorso.faults.library import Way, library
from percorso.faults.model import Fault, with_faults
from percorso.network.branches import has_source
from percorso.network.operating_point import Network
from percorso.tracing.evidence import SIDE
from percorso.tracing.next_test import NextTest, Weighed, best_of, candidates, likeliest, weigh
from percorso.tracing.pairs import Pair, is_lost, pairs_of, without
from percorso.tracing.predictions import Predictions
from percorso.tracing.proof import Stop, stop_at
from percorso.tracing.suspects import Hypotheses, Posterior, Reading, posterior
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.stages import vehicle_at
from percorso.verification.expected import expect
from percorso.verification.measurements import Measurement, Situation, by_ids
from percorso.verification.preparations import LampInPlace
from percorso.verification.situation import prepared

ENOUGH = 0.95  # of one part, to stop
SHOWN = 0.001  # a suspect below is not shown
ACQUITTED = 0.05  # of what it was before the readings, or less
EXPLAINS = 0.1  # of what the best fault gives a reading
LIKELY = 0.5  # of what the best fault gives a reading, that sound metal gives it
SHOWN_TESTS = 3
MOST_SITUATIONS = 4


@dataclass(frozen=True)
class Suspect:
    """One way a part can be bad, how probable that is, and the readings it explains, by their places."""

    part: str
    fault: str
    probability: float
    ohm: tuple[float, float] | None
    explains: tuple[int, ...]
    other: str | None = None
    because: tuple[str, ...] = ()


@dataclass(frozen=True)
class Acquitted:
    """A part that is not it, and the reading that says so most, by its place."""

    part: str
    by: int


@dataclass(frozen=True)
class Trace:
    """What readings say. ``not_described``: how probable something is that is not in the vehicle's description, and
    ``sound``: that nothing is bad at all; ``is_as_planned`` where sound metal explains every reading.
    """

    suspects: tuple[Suspect, ...]
    acquitted: tuple[Acquitted, ...]
    next: tuple[NextTest, ...]
    stop: Stop | None
    not_described: float
    sound: float
    pairs: tuple[Pair, ...] = ()
    is_as_planned: bool = False


class Tracer:
    """A vehicle at a stage that is traced; what was computed for one reading is kept for the next."""

    def __init__(
        self, vehicle: Vehicle, stage: Stage, suspected: Collection[str] = (), ways: tuple[Way, ...] | None = None
    ) -> None:
        """``ways`` are those to choose from, if not every one. Raises TraceError where nothing feeds the vehicle."""
        self._whole, self._stage = vehicle, stage
        self.vehicle = vehicle_at(vehicle, stage)
        if not has_source(self.vehicle):
            raise TraceError("nothing feeds this vehicle: without a battery or an alternator nothing can be traced")
        self._hypotheses = Hypotheses.of(library(self.vehicle, suspected) if ways is None else ways)
        self._with_one: dict[int, Tracer] = {}
        self._situations: dict[Hashable, Predictions] = {}
        self._spreads: dict[Hashable, float] = {}

    @cached_property
    def _faults(self) -> list[Fault | None]:
        return [None, *(fault for way in self._hypotheses.ways for fault in way.faults)]

    def trace(self, readings: Sequence[Measurement], *, tests: bool = True) -> Trace:
        """What readings say together. Raises MeasurementError, whose ``field`` begins with the place of a reading."""
        known = [self._by_ids(place, each) for place, each in enumerate(readings)]
        found = self._posterior(known)
        pairs: tuple[Pair, ...] = ()
        if is_lost(found):
            pairs = pairs_of(found, self._faults, lambda first: self._beside(first)._posterior(known))
        left = 1 - sum(each.probability for each in pairs)
        suspects = tuple(replace(each, probability=each.probability * left) for each in self._suspects(found))
        stop = self._stop(found, left, suspects, known)
        return Trace(
            suspects,
            self._acquitted(found, known),
            self._upcoming(found, pairs, known) if tests and stop is None else (),
            stop,
            found.not_described * left,
            float(found.probability[0]) * left,
            pairs,
            bool(known) and bool((found.share[:, 0] > LIKELY).all()),
        )

    def _stop(
        self, found: Posterior, left: float, suspects: Sequence[Suspect], readings: Sequence[Measurement]
    ) -> Stop | None:
        """The end, once one part alone is probable enough."""
        parts = found.of_parts()
        best = max(parts, key=parts.__getitem__, default="")
        if not best or parts[best] * left < ENOUGH:
            return None
        way = next(each for each in suspects if each.part == best)
        return stop_at(self.vehicle, best, way.fault, readings)

    def _upcoming(
        self, found: Posterior, pairs: Sequence[Pair], readings: Sequence[Measurement]
    ) -> tuple[NextTest, ...]:
        """The next best tests; of two faults those that tell the second, beside the likeliest first."""
        if not pairs:
            return self._next(found, readings)
        beside = self._beside(pairs[0].first)
        return beside._next(beside._posterior(readings), readings)

    def _beside(self, first: int) -> "Tracer":
        """A tracer of the vehicle that has one fault already, for another beside it."""
        if first not in self._with_one:
            fault = self._faults[first]
            made = self.vehicle if fault is None else with_faults(self.vehicle, [fault])
            others = without(self._hypotheses.ways, fault.part if fault else "")
            self._with_one[first] = Tracer(made, self._stage, ways=others)
        return self._with_one[first]

    def _by_ids(self, place: int, measurement: Measurement) -> Measurement:
        try:
            if measurement.value is None and measurement.outcome is None:
                raise MeasurementError("say what was read: a value or a word", field=("value",))
            if measurement.situation.stage != self._stage:
                said = f"this is of the vehicle as {measurement.situation.stage}, and it is traced as {self._stage}"
                raise MeasurementError(said, field=("situation", "stage"))
            made = prepared(self.vehicle, measurement.situation.preparations)
            return by_ids(made, measurement)
        except MeasurementError as error:
            raise MeasurementError(str(error), field=(place, *error.field)) from error

    def _predictions(self, situation: Situation) -> Predictions:
        if situation.key not in self._situations:
            self._situations[situation.key] = Predictions(self._whole, self.vehicle, situation, self._faults)
        return self._situations[situation.key]

    def _spread(self, measurements: Sequence[Measurement]) -> list[float]:
        """One standard deviation of what is read on sound metal, of measurements in one situation."""
        fresh = [each for each in measurements if each.key not in self._spreads]
        if fresh:
            situation = fresh[0].situation
            network = Network(prepared(self.vehicle, situation.preparations))
            for each, one in zip(fresh, expect(network, situation, fresh), strict=True):
                wide = 0.0 if one.low is None or one.high is None else (one.high - one.low) / (2 * SIDE)
                self._spreads[each.key] = wide
        return [self._spreads[each.key] for each in measurements]

    def _posterior(self, readings: Sequence[Measurement]) -> Posterior:
        together: dict[Hashable, list[Measurement]] = {}
        for each in readings:
            together.setdefault(each.situation.key, []).append(each)
        weighed: dict[int, Reading] = {}
        for those in together.values():
            predicted = self._predictions(those[0].situation).show(those)
            for each, one, spread in zip(those, predicted, self._spread(those), strict=True):
                weighed[id(each)] = Reading(each, one, spread)
        return posterior(self._hypotheses, [weighed[id(each)] for each in readings])

    def _suspects(self, found: Posterior) -> tuple[Suspect, ...]:
        ways = self._hypotheses.ways
        totals = found.of_ways
        suspects = []
        for way in np.argsort(totals)[::-1].tolist():
            if totals[way] < SHOWN:
                break
            one, here = ways[way], self._hypotheses.way == way
            likeliest = int(np.flatnonzero(here)[np.argmax(found.probability[here])])
            explains = tuple(np.flatnonzero(found.share[:, likeliest] > EXPLAINS).tolist())
            suspects.append(
                Suspect(one.part, one.fault, float(totals[way]), found.ohm(way), explains, one.other, one.because)
            )
        return tuple(suspects)

    def _acquitted(self, found: Posterior, readings: Sequence[Measurement]) -> tuple[Acquitted, ...]:
        """Parts that the readings speak against, each with the one that does most."""
        if not readings:
            return ()
        before = posterior(self._hypotheses, []).of_parts()
        after = found.of_parts()
        acquitted = []
        for part, was in before.items():
            if after[part] > ACQUITTED * was:
                continue
            here = np.array([way >= 0 and self._hypotheses.ways[way].part == part for way in self._hypotheses.way])
            acquitted.append(Acquitted(part, int(np.argmin(found.share[:, here].max(axis=1)))))
        return tuple(acquitted)

    def _next(self, found: Posterior, readings: Sequence[Measurement]) -> tuple[NextTest, ...]:
        read = [each.situation for each in (*map(_with_lamp, readings), *readings)]
        situations = {each.key: each for each in read or self._usual_situations()}
        done = {each.key for each in readings}
        before = readings[-1].situation if readings else None
        which = likeliest(found)
        weighed: list[Weighed] = []
        for situation in list(situations.values())[:MOST_SITUATIONS]:
            if situation.is_dead:
                continue
            asked = [each for each in candidates(self.vehicle, found, [situation]) if each.key not in done]
            predicted = self._predictions(situation).show(asked, which)
            weighed += weigh(self.vehicle, found, which, asked, predicted, self._spread(asked), before)
        return best_of(weighed, found, which, SHOWN_TESTS)

    def _usual_situations(self) -> list[Situation]:
        return [Situation(stage=self._stage, state="on"), Situation(stage=self._stage, state="idle")]


def _with_lamp(reading: Measurement) -> Measurement:
    """A reading in its situation, where a fuse was seen blown with a lamp in its place: the short lights it."""
    situation, part = reading.situation, reading.segment
    if reading.outcome != "blown" or part is None or LampInPlace(part=part) in situation.preparations:
        return reading
    preparations = (*situation.preparations, LampInPlace(part=part))
    return reading.model_copy(update={"situation": situation.model_copy(update={"preparations": preparations})})
