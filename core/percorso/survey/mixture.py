"""Traces a vehicle that may be wired in several ways: each is weighed by how well it explains what was read."""

import math
from collections.abc import Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

from percorso.errors import MeasurementError
from percorso.survey.wirings import Wiring
from percorso.tracing.answer import Suspect, Trace
from percorso.tracing.ending import ENOUGH
from percorso.tracing.mending import Evidence
from percorso.tracing.trace import Tracer
from percorso.usual_vehicles.questions import OF_WIRING, Question
from percorso.vehicle.model import Stage, Vehicle
from percorso.verification.measured.measurements import Measurement

LEAST = 0.01  # a wiring below is left out
DOUBTED = 0.2  # probability of something not described, from which something may be otherwise than was said


@dataclass(frozen=True)
class WeighedWiring:
    """Answers to open questions, or against what was said, and how probable they are."""

    answers: dict[str, str]
    probability: float
    is_as_described: bool


@dataclass(frozen=True)
class NextLook:
    """A look at the vehicle worth taking: how many bits it tells of the wiring, in how many minutes, and how probable
    each answer is. ``changes_what_is_next``: with one answer another part is suspected most than with another.
    """

    question: str
    asks: str
    minutes: float
    bits: float
    tells: dict[str, float]
    changes_what_is_next: bool


@dataclass(frozen=True)
class MixedTrace:
    """What is known over all wirings, the likeliest first, whose ``vehicle`` its tests are of.

    ``looks`` is what to look at before the next test, if anything.
    """

    trace: Trace
    wirings: tuple[WeighedWiring, ...]
    looks: tuple[NextLook, ...]
    vehicle: Vehicle


class MixedTracer:
    """Some wirings of one vehicle that are traced together; tests are those of the likeliest.

    Where none of them explains what was read, those are weighed too in which something is ``otherwise`` than was said.
    """

    def __init__(self, wirings: Sequence[Wiring], stage: Stage, otherwise: Sequence[Wiring] = ()) -> None:
        """Raises TraceError where nothing feeds the vehicle."""
        self._described, self._otherwise = range(len(wirings)), range(len(wirings), len(wirings) + len(otherwise))
        self._wirings, self._stage = (*wirings, *otherwise), stage
        self._tracers = {place: Tracer(each.vehicle, stage) for place, each in enumerate(wirings)}

    @property
    def vehicle(self) -> Vehicle:
        """The most usual wiring at the stage."""
        return self._tracers[0].vehicle

    def trace(self, known: Sequence[Evidence], suspected: Sequence[str] = ()) -> MixedTrace:
        """What readings and complaints say together; ``suspected`` are parts that somebody suspects.

        Raises MeasurementError, whose ``field`` begins with the place of a reading, where it is of none of the wirings.
        """
        found = self._explained(self._described, known, suspected)
        if not _explains(found, self._shares(found)):
            found |= self._explained(self._otherwise, known, suspected)
        if not found:
            self._tracers[0].trace(known, suspected=suspected, tests=False)
        shares = self._shares(found)
        best = max(shares, key=shares.__getitem__)
        found[best] = self._tracers[best].trace(known, suspected=suspected)
        look = self._next_look(found, shares, found[best])
        weighed = [
            WeighedWiring(dict(self._wirings[place].told), share, place in self._described)
            for place, share in sorted(shares.items(), key=lambda each: -each[1])
        ]
        mixed = _mixed(found, shares, best)
        looks, vehicle = (look,) if look else (), self._tracers[best].vehicle
        return MixedTrace(_without_end(mixed) if looks else mixed, tuple(weighed), looks, vehicle)

    def _explained(
        self, places: Iterable[int], known: Sequence[Evidence], suspected: Sequence[str]
    ) -> dict[int, Trace]:
        """What is known of some wirings, without tests; one that does not have what was read is left out."""
        found = {}
        for place in places:
            if place not in self._tracers:
                self._tracers[place] = Tracer(self._wirings[place].vehicle, self._stage)
            with suppress(MeasurementError):
                found[place] = self._tracers[place].trace(known, suspected=suspected, tests=False)
        return found

    def _shares(self, found: dict[int, Trace]) -> dict[int, float]:
        """How probable each wiring is by how well it explains what was read."""
        logs = {place: math.log(self._wirings[place].weight) + one.log_evidence for place, one in found.items()}
        top = max(logs.values(), default=0.0)
        weights = {place: math.exp(log - top) for place, log in logs.items()}
        whole = sum(weights.values())
        return {place: weight / whole for place, weight in weights.items() if weight / whole >= LEAST}

    def _next_look(self, found: dict[int, Trace], shares: dict[int, float], best: Trace) -> NextLook | None:
        """The look that tells most for its minutes, if it would change what to do next and no test tells more; or where
        the next test is at something that not every wiring has.
        """
        first = best.next[0] if best.next else None
        looks = [look for each in OF_WIRING if (look := self._look_at(each, found, shares))]
        if first and (lacking := [place for place in shares if not self._has(place, first.measurement)]):
            return max(looks, key=lambda each: self._tells_apart(each.question, shares, lacking), default=None)
        least = first.bits / first.minutes if first else 0.0
        worth = [each for each in looks if each.changes_what_is_next and each.bits / each.minutes > least]
        return max(worth, key=lambda each: each.bits / each.minutes, default=None)

    def _has(self, place: int, measurement: Measurement) -> bool:
        """Whether a wiring has what is measured at."""
        there = self._wirings[place].vehicle
        points = {measurement.red_point, measurement.black_point} - {None}
        parts = {measurement.segment, measurement.device} - {None}
        return points <= there.points.keys() and parts <= {*there.segments, *there.devices}

    def _tells_apart(self, question: str, shares: dict[int, float], lacking: list[int]) -> float:
        """How probable it is that the answer to a question says whether a wiring is one of some."""
        theirs = {self._wirings[place].answers[question] for place in lacking}
        others = [place for place in shares if place not in lacking]
        return sum(shares[place] for place in others if self._wirings[place].answers[question] not in theirs)

    def _look_at(self, question: Question, found: dict[int, Trace], shares: dict[int, float]) -> NextLook | None:
        """What a look tells; None where only one answer is left."""
        tells, leads = dict[str, float](), dict[str, str]()
        for place in sorted(shares, key=lambda each: -shares[each]):
            choice = self._wirings[place].answers[question.key]
            tells[choice] = tells.get(choice, 0.0) + shares[place]
            leads.setdefault(choice, next(iter(found[place].of_units()), ""))
        if len(tells) < 2:
            return None
        bits = -sum(share * math.log2(share) for share in tells.values())
        return NextLook(question.key, question.asks, question.look_min, bits, tells, len(set(leads.values())) > 1)


def _explains(found: dict[int, Trace], shares: dict[int, float]) -> bool:
    """Whether some wiring explains what was read as well as one may expect."""
    outside = sum(share * found[place].not_described for place, share in shares.items())
    return bool(shares) and outside < DOUBTED and any(found[place].fits for place in shares)


def _mixed(found: dict[int, Trace], shares: dict[int, float], best: int) -> Trace:
    """The answer of the likeliest wiring, with how probable everything is over all of them."""
    suspects: dict[tuple[str, str, str | None, bool], Suspect] = {}
    for place in sorted(shares, key=lambda each: -shares[each]):
        for each in found[place].suspects:
            key = each.part, each.fault, each.other, each.comes_and_goes
            before = suspects.get(key)
            probability = shares[place] * each.probability + (before.probability if before else 0.0)
            suspects[key] = replace(before or each, probability=probability)
    return replace(
        found[best],
        suspects=tuple(sorted(suspects.values(), key=lambda each: -each.probability)),
        not_described=sum(share * found[place].not_described for place, share in shares.items()),
        sound=sum(share * found[place].sound for place, share in shares.items()),
    )


def _without_end(mixed: Trace) -> Trace:
    """An answer that is no end yet where a look may still show another wiring, and with it another part."""
    if mixed.stop is None or max(mixed.of_units().values(), default=0.0) >= ENOUGH:
        return mixed
    return replace(mixed, stop=None, likely=mixed.stop)
