"""Traces what is wrong with a vehicle: suspects from readings, what is acquitted, the next best tests, when to stop."""

from collections.abc import Collection, Hashable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from percorso.errors import MeasurementError, TraceError
from percorso.faults.library import Way, library
from percorso.faults.model import Fault, with_faults
from percorso.kept import kept
from percorso.network.branches import has_source
from percorso.network.operating_point import Network
from percorso.tracing.complaints import Complaint
from percorso.tracing.evidence import SIDE
from percorso.tracing.next_test import NextTest, Weighed, best_of, candidates, likeliest, weigh
from percorso.tracing.pairs import Pair, is_lost, pairs_of, seconds
from percorso.tracing.predictions import Predictions
from percorso.tracing.proof import Stop, stop_at, stop_at_two
from percorso.tracing.suspects import Hypotheses, Posterior, Reading, Told, posterior
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.stages import vehicle_at
from percorso.verification.expected import Expected, expect
from percorso.verification.measurements import Measurement, Situation, by_ids
from percorso.verification.preparations import LampInPlace
from percorso.verification.situation import prepared

Known = Measurement | Complaint
ENOUGH = 0.95  # of one part, to stop
SHOWN = 0.001  # a suspect below is not shown
ACQUITTED = 0.05  # of what it was before the readings, or less
EXPLAINS = 0.1  # of what the best fault gives a reading
LIKELY = 0.5  # of what the best fault gives a reading, that sound metal gives it
EXPLAINED = 0.2  # probability of something not described, below which what was read counts as explained
SHOWN_TESTS = 3
MOST_SITUATIONS = 4
MOST_BESIDE = 24  # vehicles with one fault already that are kept


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
    comes_and_goes: bool = False


@dataclass(frozen=True)
class Acquitted:
    """A part that is not it, and the reading that says so most, by its place."""

    part: str
    by: int


@dataclass(frozen=True)
class Again:
    """A reading that was not as on sound metal, by its place, and what it must be once the fault is mended."""

    reading: int
    expected: Expected


@dataclass(frozen=True)
class Trace:
    """What readings say. ``not_described``: how probable something is that is not in the vehicle's description, and
    ``sound``: that nothing is bad at all; ``is_as_planned`` where sound metal explains every reading. ``again``: what
    is measured once more when it is mended.
    """

    suspects: tuple[Suspect, ...]
    acquitted: tuple[Acquitted, ...]
    next: tuple[NextTest, ...]
    stop: Stop | None
    not_described: float
    sound: float
    pairs: tuple[Pair, ...] = ()
    is_as_planned: bool = False
    again: tuple[Again, ...] = ()

    def of_parts(self) -> dict[str, float]:
        """How probable each part is with all its suspects, the most probable first."""
        parts: dict[str, float] = {}
        for each in self.suspects:
            parts[each.part] = parts.get(each.part, 0.0) + each.probability
        return dict(sorted(parts.items(), key=lambda each: -each[1]))


class Tracer:
    """A vehicle at a stage that is traced; what was computed for one reading is kept for the next."""

    def __init__(
        self,
        vehicle: Vehicle,
        stage: Stage,
        some: tuple[tuple[Way, ...], float] | None = None,
        suspected: Collection[str] = (),
    ) -> None:
        """``some``: the ways to choose from and the weight of all, if not every one; ``suspected``: parts by their ids.

        Raises TraceError where nothing feeds the vehicle.
        """
        self._whole, self._stage = vehicle, stage
        self.vehicle = vehicle_at(vehicle, stage)
        if not has_source(self.vehicle):
            raise TraceError("nothing feeds this vehicle: without a battery or an alternator nothing can be traced")
        self._hypotheses = Hypotheses.of(*some) if some else Hypotheses.of(library(self.vehicle, suspected))
        self._with_one: dict[Hashable, Tracer] = {}
        self._situations: dict[Hashable, Predictions] = {}
        self._sound: dict[Hashable, Expected] = {}

    @cached_property
    def _faults(self) -> list[Fault | None]:
        return self._hypotheses.faults

    def trace(self, readings: Sequence[Known], *, tests: bool = True) -> Trace:
        """What readings and complaints say together.

        Raises MeasurementError, whose ``field`` begins with the place of a reading.
        """
        known = [
            each if isinstance(each, Complaint) else self._by_ids(place, each) for place, each in enumerate(readings)
        ]
        found = self._posterior(known)
        pairs: tuple[Pair, ...] = ()
        if len(known) > 1 and is_lost(found):
            pairs = pairs_of(found, self._faults, lambda first: self._beside(found, first)._posterior(known))
        left = 1 - sum(each.probability for each in pairs)
        suspects = tuple(replace(each, probability=each.probability * left) for each in self._suspects(found))
        stop = self._stop_at_two(pairs) or self._stop(found, left, suspects, known)
        return Trace(
            suspects,
            self._acquitted(found, known),
            self._upcoming(found, pairs, known) if tests and stop is None else (),
            stop,
            found.not_described * left,
            float(found.probability[0]) * left,
            pairs,
            _is_as_planned(found),
            self._again(found, known) if stop else (),
        )

    def _stop_at_two(self, pairs: Sequence[Pair]) -> Stop | None:
        """The end, once two parts together are probable enough."""
        together: dict[frozenset[str], float] = {}
        for each in pairs:
            both = frozenset(each.parts)
            together[both] = together.get(both, 0.0) + each.probability
        best = max(together, key=together.__getitem__, default=None)
        if best is None or together[best] < ENOUGH:
            return None
        pair = next(each for each in pairs if best == frozenset(each.parts))
        return stop_at_two(self.vehicle, pair.parts, pair.faults)

    def _stop(
        self, found: Posterior, left: float, suspects: Sequence[Suspect], readings: Sequence[Known]
    ) -> Stop | None:
        """The end, once one part alone is probable enough."""
        parts = found.of_parts()
        best = max(parts, key=parts.__getitem__, default="")
        if not best or parts[best] * left < ENOUGH:
            return None
        way = next(each for each in suspects if each.part == best)

        def carries_a(situation: Situation) -> float:
            if best not in self.vehicle.segments:
                return 0.0
            clamped = Measurement(quantity="current", segment=best, situation=situation)
            return float(self._predictions(situation).show([clamped], np.array([0]))[0].value[0])

        return stop_at(self.vehicle, best, way.fault, [one for each in readings for one in _looks(each)], carries_a)

    def _upcoming(self, found: Posterior, pairs: Sequence[Pair], readings: Sequence[Known]) -> tuple[NextTest, ...]:
        """The next best tests; of two faults those that tell the second, beside the likeliest first."""
        if not pairs:
            return self._next(found, readings)
        beside = self._beside(found, pairs[0].first)
        return beside._next(beside._posterior(readings), readings)

    def _beside(self, found: Posterior, first: int) -> "Tracer":
        """A tracer of the vehicle that has one fault already, for another beside it."""
        ways = seconds(found, first)
        key = first, tuple((each.part, each.fault, each.other) for each in ways)

        def tracer() -> Tracer:
            fault = self._faults[first]
            made = self.vehicle if fault is None else with_faults(self.vehicle, [fault])
            return Tracer(made, self._stage, (ways, sum(each.weight for each in self._hypotheses.ways)))

        return kept(self._with_one, key, tracer, MOST_BESIDE)

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

    def _expected(self, measurements: Sequence[Measurement]) -> list[Expected]:
        """What is read on sound metal, of measurements in one situation."""
        fresh = [each for each in measurements if each.key not in self._sound]
        if fresh:
            situation = fresh[0].situation
            network = Network(prepared(self.vehicle, situation.preparations))
            for each, one in zip(fresh, expect(network, situation, fresh), strict=True):
                self._sound[each.key] = one
        return [self._sound[each.key] for each in measurements]

    def _spread(self, measurements: Sequence[Measurement]) -> list[float]:
        """One standard deviation of what is read on sound metal, of measurements in one situation."""
        sound = self._expected(measurements)
        return [0.0 if one.low is None or one.high is None else (one.high - one.low) / (2 * SIDE) for one in sound]

    def _again(self, found: Posterior, readings: Sequence[Known]) -> tuple[Again, ...]:
        """What was read and is not as on sound metal."""
        off = [place for place, share in enumerate(found.share[:, 0].tolist()) if share < LIKELY]
        read = [(place, each) for place in off if isinstance(each := readings[place], Measurement)]
        return tuple(Again(place, self._expected([each])[0]) for place, each in read if each.quantity != "wiggle")

    def _posterior(self, readings: Sequence[Known]) -> Posterior:
        together: dict[Hashable, list[Measurement]] = {}
        for each in readings:
            if isinstance(each, Measurement):
                together.setdefault(each.situation.key, []).append(each)
        weighed: dict[int, Reading] = {}
        for those in together.values():
            predicted = self._predictions(those[0].situation).show(those)
            for each, one, spread in zip(those, predicted, self._spread(those), strict=True):
                weighed[id(each)] = Reading(each, one, spread)
        told = [weighed[id(each)] if isinstance(each, Measurement) else self._told(each) for each in readings]
        return posterior(self._hypotheses, told)

    def _told(self, complaint: Complaint) -> Told:
        shows = [
            sign.shows(self._predictions(sign.measurements[0].situation).show(sign.measurements))
            for sign in complaint.signs
        ]
        return Told(complaint.likelihood(shows, self._faults))

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
            told = one.part, one.fault, float(totals[way]), found.ohm(way), explains, one.other, one.because
            suspects.append(Suspect(*told, one.comes_and_goes))
        return tuple(suspects)

    def _acquitted(self, found: Posterior, readings: Sequence[Known]) -> tuple[Acquitted, ...]:
        """Parts that the readings speak against, each with the one that does most."""
        if not readings:
            return ()
        before = posterior(self._hypotheses, []).of_parts()
        after = found.of_parts()
        acquitted, parts = [], np.array(self._hypotheses.named[0])
        for part, was in before.items():
            if after[part] > ACQUITTED * was:
                continue
            here = parts == part
            acquitted.append(Acquitted(part, int(np.argmin(found.share[:, here].max(axis=1)))))
        return tuple(acquitted)

    def _next(self, found: Posterior, known: Sequence[Known]) -> tuple[NextTest, ...]:
        readings = [one for each in known for one in _looks(each)]
        read = {each.key: each for each in (one.situation for one in (*map(_with_lamp, readings), *readings[::-1]))}
        usual = [Situation(stage=self._stage, state=each) for each in (("on",) if read else ("on", "idle"))]
        situations = {each.key: each for each in (*list(read.values())[:MOST_SITUATIONS], *usual)}
        done = {each.key for each in known if isinstance(each, Measurement)}
        before = next((each.situation for each in reversed(known) if isinstance(each, Measurement)), None)
        which = likeliest(found)
        solved = np.unique([0, *found.hypotheses.solved[which].tolist()])
        weighed: list[Weighed] = []
        for situation in situations.values():
            if situation.is_dead:
                continue
            asked = [each for each in candidates(self.vehicle, found, situation) if each.key not in done]
            predicted = self._predictions(situation).show(asked, solved)
            weighed += weigh(self.vehicle, found, which, asked, predicted, self._spread(asked), before)
        return best_of(weighed, found, which, SHOWN_TESTS)


def _is_as_planned(found: Posterior) -> bool:
    """Whether sound metal explains every reading, as well as any fault does."""
    return bool(len(found.share)) and found.not_described < EXPLAINED and bool((found.share[:, 0] > LIKELY).all())


def _looks(known: Known) -> tuple[Measurement, ...]:
    """A reading, or what one looks at for a complaint."""
    return known.looks if isinstance(known, Complaint) else (known,)


def _with_lamp(reading: Measurement) -> Measurement:
    """A reading in its situation, where a fuse was seen blown with a lamp in its place: the short lights it."""
    situation, part = reading.situation, reading.segment
    if reading.outcome != "blown" or part is None or LampInPlace(part=part) in situation.preparations:
        return reading
    preparations = (*situation.preparations, LampInPlace(part=part))
    return reading.model_copy(update={"situation": situation.model_copy(update={"preparations": preparations})})
