"""Traces what is wrong with a vehicle: suspects from readings, what is acquitted, the next best tests, when to stop."""

import math
from collections.abc import Collection, Hashable, Iterator, Sequence
from copy import copy
from dataclasses import replace
from functools import partial
from threading import Lock

import numpy as np

from percorso.errors import MeasurementError, TraceError
from percorso.faults.library import FaultMode, beyond, library
from percorso.faults.model import Fault, with_faults
from percorso.kept import BoundedCache, cached_property
from percorso.network.branches import has_source
from percorso.tracing.answer import Recheck, Suspect, Trace, acquitted_of, suspects_of
from percorso.tracing.choosing import Choosing
from percorso.tracing.complaints import Complaint, Observation
from percorso.tracing.doubtful import doubtful_of
from percorso.tracing.ending import ENOUGH, enough_of_one, enough_of_two
from percorso.tracing.evidence import spread_of
from percorso.tracing.history import History
from percorso.tracing.hypotheses import Hypotheses
from percorso.tracing.left_out import LeftOut
from percorso.tracing.likelihood import Likelihood
from percorso.tracing.mending import Evidence, Mended, afterwards, faults_of
from percorso.tracing.next_check import NextCheck
from percorso.tracing.pairs import SecondFault, is_lost, likely_of, pairs_of, second_fault_of, second_faults_of, seconds
from percorso.tracing.proof import Conclusion, Read, stop_at
from percorso.tracing.situations import spoken_of
from percorso.tracing.speaking import Speaks, speaks_of
from percorso.tracing.suspects import Posterior, posterior
from percorso.tracing.weighing import Weighing
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.stages import vehicle_at
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.measured.measurements import Measurement, Situation, by_ids

LIKELY = 0.5  # of what the best fault gives a reading, that sound metal gives it
WORTH_BITS = 0.05  # of a test that is shown beside one that goes first
WORTH_SAYING = 0.05  # probability of a part of which each reading says whether it is for or against it
EXPLAINED = 0.2  # probability of something not described, below which what was read counts as explained
MOST_BESIDE = 24  # vehicles with one fault already that are kept


class Tracer:
    """A vehicle at a stage that is traced; what was computed for one reading is kept for the next."""

    def __init__(
        self,
        vehicle: Vehicle,
        stage: Stage,
        some: tuple[tuple[FaultMode, ...], float] | None = None,
    ) -> None:
        """``some``: the fault modes to choose from and the weight of all, if not every one.

        Raises TraceError where nothing feeds the vehicle.
        """
        self._whole, self._stage = vehicle, stage
        self.vehicle = vehicle_at(vehicle, stage)
        if not has_source(self.vehicle):
            raise TraceError("nothing feeds this vehicle: without a battery or an alternator nothing can be traced")
        self._hypotheses = Hypotheses.of(*some) if some else self._all(())
        self._with_one = BoundedCache[int, Tracer](MOST_BESIDE)
        self._history = History(vehicle, self.vehicle, self._faults)
        self._weighing = Weighing(self.vehicle, self._hypotheses, self._history)
        self._start = 0  # place of the first reading since something was mended
        self._owed: dict[Hashable, Recheck] = {}  # what was off before that, by what is measured
        self._computing = Lock()  # an answer, or a piece of what comes after one

    @cached_property
    def _faults(self) -> list[Fault | None]:
        return self._hypotheses.faults

    def trace(
        self,
        readings: Sequence[Evidence],
        *,
        suspected: Sequence[str] = (),
        left_out: Collection[LeftOut] = (),
        tests: bool = True,
    ) -> Trace:
        """What readings and complaints say together, in the vehicle as it is since the last thing was mended.

        ``suspected`` are parts that somebody suspects, by their ids or designations, ``left_out`` tests that are not
        offered. The next test is the one that tells most bits [23] for its time, as in [24]. Raises MeasurementError,
        whose ``field`` begins with the place of a reading, or with "suspected".

        >>> idle = Situation(stage="planned", state="idle")
        >>> dark = Measurement(quantity="seen", device="m3", situation=idle, outcome="dead")
        >>> found = Tracer(van, "planned").trace([dark])
        >>> found.next[0].measurement.quantity
        'voltage'
        """
        with self._computing:
            return self._answer(readings, suspected, left_out, tests=tests)

    def _answer(
        self, readings: Sequence[Evidence], suspected: Sequence[str], left_out: Collection[LeftOut], *, tests: bool
    ) -> Trace:
        tracer, heard = self._suspecting(suspected), list[Observation]()
        for place, each in enumerate(readings):
            if isinstance(each, Mended):
                tracer, heard = tracer._once_mended(self._parts(each.part, (place, "mended")), heard, place + 1), []
            else:
                heard.append(each if isinstance(each, Complaint) else self._by_ids(place, each))
        return tracer._trace(heard, left_out, tests=tests)

    def ahead(self, found: Trace) -> Iterator[None]:
        """Compute how every fault shows in the tests offered and in states that customers speak of; yields before each
        piece of it.
        """
        offered = [each.measurement for each in found.next]
        for each in (*offered, *spoken_of(self.vehicle, self._stage)):
            yield
            with self._computing:
                self._history.predictions(each.situation).show([each])
        for each in offered:
            yield
            with self._computing:
                self._history.predictions(each.situation).complete()

    def _trace(self, known: Sequence[Observation], left_out: Collection[LeftOut], *, tests: bool) -> Trace:
        likelihoods = self._weighing.likelihoods(known)
        found = posterior(self._hypotheses, likelihoods)
        used: dict[int, Tracer] = {}
        second_faults: list[SecondFault] = []
        if len(known) > 1 and is_lost(found):

            def with_first(first: int) -> Posterior:
                used[first] = self._beside(first, seconds(found, first))
                return used[first]._posterior(known)

            second_faults = second_faults_of(found, self._faults, with_first)
        pairs = pairs_of(found, second_faults)
        left = 1 - sum(each.probability for each in pairs)
        suspects = tuple(replace(each, probability=each.probability * left) for each in suspects_of(found, self._start))
        stop = enough_of_two(self.vehicle, pairs) or self._stop(found, left, suspects, known)
        given = partial(self._weighing.given, likelihoods=likelihoods)
        choosing = Choosing(self.vehicle, self._stage, found, known, self._history, given, self._carries_a, left_out)
        look = (choosing.recheck() or choosing.look(left)) if stop and not stop.also else None
        likely, stop = (stop, None) if look else (None, stop)
        done = {each.key for each in known if isinstance(each, Measurement)}
        owed = tuple(each for key, each in self._owed.items() if key not in done)
        is_mended = self._start > 0 and found.probability[0] > ENOUGH  # what is owed is left to be measured
        goes_on = tests and stop is None and not is_mended
        histories = {each: one._history for each, one in used.items()}
        best = choosing.best(likely_of(second_faults, found), histories) if goes_on else ()
        if found.outside * left > ENOUGH:  # where it is was asked already
            best = tuple(each for each in best if each.bits > WORTH_BITS)
        fits = found.fits or bool(pairs)
        before_all = (choosing.at_the_posts() or (None if fits else choosing.recheck())) if goes_on else None
        first = look or before_all or next(iter(best), None)
        return Trace(
            suspects,
            acquitted_of(found, self._start),
            (first, *_beside(first, best)) if first else (),
            stop,
            found.outside * left,
            float(found.probability[0]) * left,
            pairs,
            _is_as_planned(found),
            (*owed, *(self._again(found, known) if stop else ())),
            likely,
            fits,
            found.most_beyond(),
            self._speaks(found, likelihoods, suspects),
            doubtful_of(self.vehicle, known, self._start),
            found.log_evidence,
        )

    def _speaks(
        self, found: Posterior, likelihoods: Sequence[Likelihood], suspects: Sequence[Suspect]
    ) -> tuple[Speaks, ...]:
        """What each reading says of the likeliest part."""
        units = found.of_units()
        best = max(units, key=units.__getitem__, default="")
        if not suspects or not likelihoods or units[best] < WORTH_SAYING:
            return ()
        return speaks_of(found, best, likelihoods, self._start)

    def _once_mended(self, parts: set[str], known: Sequence[Observation], start: int) -> "Tracer":
        """A tracer of what is read from a place on, after parts were mended; ``known`` is what was read before."""
        found = self._posterior(known)
        second_faults = []
        for first in faults_of(found, parts):
            fault, others = self._faults[first], seconds(found, first)
            if fault is not None and others:
                second_faults.append(
                    second_fault_of(found, first, fault, self._beside(first, others)._posterior(known))
                )
        after = copy(self)
        after._hypotheses = afterwards(found, parts, second_faults)
        off = {known[each.reading - self._start].key: each for each in self._again(found, known)}
        after._start, after._owed = start, self._owed | off
        return after

    def _stop(
        self, found: Posterior, left: float, suspects: Sequence[Suspect], known: Sequence[Observation]
    ) -> Conclusion | None:
        """The end, once one part alone is probable enough."""
        mode = enough_of_one(found, left, suspects, known)
        if mode is None:
            return None
        place = found.hypotheses.solved[found.likeliest_of(mode.unit)]

        def reads(measurement: Measurement, is_bad: bool) -> Read:
            at = int(place) if is_bad else 0
            predicted = self._history.predictions(measurement.situation).show([measurement], np.array([0, at]))[0]
            value, sound = float(predicted.value[at]), float(predicted.value[0])
            of_metal = math.hypot(self._weighing.metal.deviation(measurement), float(predicted.doubt[at]))
            off = spread_of(measurement, np.array(value), sound, of_metal, self.vehicle.nominal_v)
            return Read(predicted.word[at], value, float(off))

        return stop_at(self.vehicle, mode, known, self._carries_a, reads)

    def _carries_a(self, segment_id: str, situation: Situation) -> float:
        """The current through a segment on sound metal, A."""
        clamped = Measurement(quantity="current", segment=segment_id, situation=situation)
        return float(self._history.predictions(situation).show([clamped], np.array([0]))[0].value[0])

    def _beside(self, first: int, modes: Collection[FaultMode]) -> "Tracer":
        """A tracer of the vehicle that has one fault already, for some fault modes beside it."""
        before = self._with_one.get(first)
        known = {each for each in before._hypotheses.modes if not each.comes_and_goes} if before else set[FaultMode]()
        if before is None or not known.issuperset(modes):
            self._with_one.pop(first, None)
            wanted = known.union(modes)  # what was computed for earlier ones is asked for again
            before = self._with_one.get_or(first, lambda: self._with(first, wanted))
        those = copy(before)
        those._hypotheses = before._hypotheses.only(modes)  # however they were come by, the answer is the same
        return those

    def _with(self, first: int, modes: Collection[FaultMode]) -> "Tracer":
        """A tracer of the vehicle that has one fault already."""
        fault = self._faults[first]
        made = self.vehicle if fault is None else with_faults(self.vehicle, [fault])
        some = tuple(each for each in self._hypotheses.modes if each in modes)
        return Tracer(made, self._stage, (some, sum(each.weight for each in self._hypotheses.modes)))

    def _suspecting(self, suspected: Sequence[str]) -> "Tracer":
        """A tracer to which some parts are more suspect than they are by themselves."""
        if not suspected:
            return self
        parts = set[str]().union(*(self._parts(each, ("suspected", at)) for at, each in enumerate(suspected)))
        after = copy(self)
        after._hypotheses = self._all(parts)
        return after

    def _all(self, suspected: Collection[str]) -> Hypotheses:
        """Everything that may be bad, described or not."""
        described = library(self.vehicle, suspected)
        return Hypotheses.of((*described, *beyond(self.vehicle, sum(each.weight for each in described))))

    def _parts(self, part: str, field: tuple[str | int, ...]) -> set[str]:
        """The ids of what goes by an id or a designation: of a relay its coil and its contacts."""
        named = {each.id: each.designation for each in self.vehicle.devices.values()}
        named |= {each.id: each.designation for each in self.vehicle.segments.values()}
        called = named.get(part, part)
        parts = {each for each, designation in named.items() if designation == called}
        if not parts:
            raise MeasurementError(f'there is no part "{part}" at this stage', field=field)
        return parts

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

    def _again(self, found: Posterior, readings: Sequence[Observation]) -> tuple[Recheck, ...]:
        """What was read and is not as on sound metal."""
        off = [place for place, share in enumerate(found.share[:, 0].tolist()) if share < LIKELY]
        read = [(place, each) for place in off if isinstance(each := readings[place], Measurement)]
        measured = [(place, each) for place, each in read if each.quantity != "wiggle"]
        expected = [self._weighing.metal.expected(each) for _, each in measured]
        return tuple(Recheck(self._start + place, one) for (place, _), one in zip(measured, expected, strict=True))

    def _posterior(self, readings: Sequence[Observation]) -> Posterior:
        return posterior(self._hypotheses, self._weighing.likelihoods(readings))


def _beside(first: NextCheck, others: Sequence[NextCheck]) -> list[NextCheck]:
    """What else tells something, beside the test that goes first."""
    return [each for each in others if each.measurement.key != first.measurement.key and each.bits > WORTH_BITS]


def _is_as_planned(found: Posterior) -> bool:
    """Whether sound metal explains what was read: every reading as well as any fault does, or all of it far better."""
    if not len(found.share):
        return False
    well = found.outside < EXPLAINED and bool((found.share[:, 0] > LIKELY).all())
    return well or float(found.probability[0]) > ENOUGH
