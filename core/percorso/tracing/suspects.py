"""Which faults explain what was read: Bayes over every way a part can be bad, with each resistance it can have."""

import math
from collections.abc import Collection, Hashable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from percorso.arrays import Array, Mask, Numbers
from percorso.faults.at_segments import OPENS
from percorso.faults.library import Way
from percorso.faults.model import Fault
from percorso.kept import cached_property
from percorso.tracing.evidence import (
    anything_is_as_likely,
    likelihood_of_value,
    likelihood_of_wiggle,
    likelihood_of_word,
    spread_of,
)
from percorso.tracing.predictions import Predicted
from percorso.verification.measurements import Measurement

FINER = 12  # steps between two resistances that are solved
LEAST_CURVE = 3  # resistances through which a curve goes
UNKNOWN_SHARE = 0.01  # of all faults: something that is not in this description, from memory
SOUND_SHARE = 0.005  # nothing is bad at all, from memory
COMES_AND_GOES = {*OPENS} - {"blown"}
COMES_AND_GOES_SHARE = 0.05  # of breaks that are always there, so many that come and go; from memory
FITS = 0.1  # of what the best fault gives a reading, from which a fault explains it
ANY_COMPLAINT = 0.01  # where nothing is known of its cause: one of many of one of many things, from memory
THERE_WHEN_SAID, THERE_WHEN_SEEN, THERE_WHEN_MEASURED = 0.9, 0.5, 0.05  # of what comes and goes, from memory


@dataclass(frozen=True)
class Hypotheses:
    """Every fault of a vehicle, first that there is none, in the order in which they are solved; then what comes and
    goes, as what is solved for it (``solved``) or nothing at all.

    ``way`` is the number of the way each is of, -1 of none, ``severity`` how bad it is, NaN where it is or is not.
    """

    ways: tuple[Way, ...]
    way: Numbers
    severity: Array
    prior: Array  # of each fault, with what is left for what is not described
    solved: Numbers
    unknown: float = UNKNOWN_SHARE  # something that is not in this description

    @cached_property
    def grids(self) -> "tuple[Grid, ...]":
        """The ways that have more than one severity, those that have the same ones together."""
        places: dict[tuple[float, ...], list[Numbers]] = {}
        starts = np.flatnonzero(np.diff(self.way, prepend=-2, append=-2))
        for start, end in pairwise(starts.tolist()):
            if end - start > 1:
                places.setdefault(tuple(self.severity[start:end].tolist()), []).append(np.arange(start, end))
        return tuple(Grid(np.array(each), np.array(severity)) for severity, each in places.items())

    @cached_property
    def faults(self) -> list[Fault | None]:
        """What is solved: sound metal, and each fault as bad as it can be."""
        return [None, *(fault for way in self.ways if not way.comes_and_goes for fault in way.faults)]

    @cached_property
    def named(self) -> tuple[list[str], list[str]]:
        """The part and the fault of each, empty where there is none."""
        ways = [self.ways[each] if each >= 0 else None for each in self.way.tolist()]
        return [each.part if each else "" for each in ways], [each.fault if each else "" for each in ways]

    @cached_property
    def keys(self) -> list[Hashable]:
        """What tells each from every other, among hypotheses of any ways of the same vehicle."""
        ways = [self.ways[each] if each >= 0 else None for each in self.way.tolist()]
        return [
            each and (each.part, each.fault, each.other, each.comes_and_goes, None if math.isnan(bad) else bad)
            for each, bad in zip(ways, self.severity.tolist(), strict=True)
        ]

    @property
    def comes_and_goes(self) -> Mask:
        """Which are not there at all times."""
        return np.asarray(np.arange(len(self.way)) != self.solved)

    @staticmethod
    def of(ways: tuple[Way, ...], whole: float | None = None) -> "Hypotheses":
        """The hypotheses of a library; ``whole`` is the weight of all of it, if these are not all."""
        bad = [each.severities or (np.nan,) for each in ways]
        way = [-1] + [place for place, each in enumerate(bad) for _ in each]
        severity = [np.nan] + [each for one in bad for each in one]
        weight = [0.0] + [each.weight / len(one) for each, one in zip(ways, bad, strict=True) for _ in one]
        solved = list(range(len(way)))
        for place, each in enumerate(ways):
            if each.fault in COMES_AND_GOES:
                solved.append(way.index(place))
                weight.append(COMES_AND_GOES_SHARE * each.weight)
                way.append(len(ways))
                severity.append(np.nan)
                ways = (*ways, replace(each, weight=weight[-1], comes_and_goes=True))
        share = np.array(weight) * (1 - UNKNOWN_SHARE - SOUND_SHARE) / max(whole or sum(weight), 1e-300)
        share[0] = SOUND_SHARE
        return Hypotheses(ways, np.array(way), np.array(severity), share, np.array(solved))

    def only(self, ways: Collection[Way]) -> "Hypotheses":
        """The same with some ways alone: no other is possible."""
        wanted = {(each.part, each.fault, each.other) for each in ways}
        possible = np.array([(each.part, each.fault, each.other) in wanted for each in self.ways] + [True])
        return replace(self, prior=np.where(possible[self.way], self.prior, 0.0))  # none is the last

    def mixed(self, of_solved: Array, there: float) -> Array:
        """What is so with each, from what is so with what is solved, shape (hypotheses, …).

        ``there``: how often what comes and goes is there.
        """
        share = np.where(self.comes_and_goes, there, 1.0).reshape(-1, *[1] * (of_solved.ndim - 1))
        return np.asarray(share * of_solved[self.solved] + (1 - share) * of_solved[0])


@dataclass(frozen=True)
class Reading:
    """A reading with what each fault predicts of it, and one standard deviation of it on sound metal."""

    measurement: Measurement
    predicted: Predicted
    sound_spread: float


@dataclass(frozen=True)
class Told:
    """Something a customer says, and how likely that is with each fault that is solved."""

    likelihood: Array


@dataclass(frozen=True)
class Posterior:
    """How probable each fault is after all readings, shape (faults,), and what is not described.

    ``share`` holds what each reading multiplied it by, beside the best, shape (readings, faults); ``log_weight`` and
    ``log_left`` are the two before they were made to come to one.
    """

    hypotheses: Hypotheses
    probability: Array
    not_described: float
    share: Array
    log_weight: Array
    log_left: float

    @property
    def of_ways(self) -> Array:
        """The probability of each way, shape (ways,)."""
        totals = np.bincount(self.hypotheses.way + 1, self.probability, len(self.hypotheses.ways) + 1)
        return np.asarray(totals[1:], dtype=np.float64)

    def of_parts(self) -> dict[str, float]:
        """The probability of each part."""
        return self._by_part(self.of_ways)

    def of_units(self) -> dict[str, float]:
        """The probability of each part with what is opened and renewed with it."""
        return _summed([each.unit for each in self.hypotheses.ways], self.of_ways)

    def lifts(self) -> dict[str, float]:
        """How much more probable each part is than before any reading."""
        hypotheses = self.hypotheses
        before = self._by_part(
            np.bincount(hypotheses.way + 1, hypotheses.prior, len(hypotheses.ways) + 1)[1:].astype(float)
        )
        return {part: share / max(before[part], 1e-300) for part, share in self.of_parts().items()}

    def speaks_for(self, unit: str, reading: int) -> bool:
        """Whether a reading, by its place, is explained by a unit at least twice as well as by everything else, as far
        as the other readings leave that.
        """
        ways = np.array([*(each.unit == unit for each in self.hypotheses.ways), False])[self.hypotheses.way]
        share, log = self.share[reading], self.log_weight - np.log(np.maximum(self.share[reading], 1e-300))
        best = float(share[ways][np.argmax(self.log_weight[ways])])
        weight = np.exp(log[~ways] - log[~ways].max())
        return best >= FITS and float(weight @ share[~ways]) <= 0.5 * best * float(weight.sum())

    def _by_part(self, of_ways: Array) -> dict[str, float]:
        return _summed([each.part for each in self.hypotheses.ways], of_ways)

    def severity(self, way: int) -> tuple[float, float] | None:
        """Between what the severity of a way lies, 80 times of 100."""
        here = self.hypotheses.way == way
        severity, weight = self.hypotheses.severity[here], self.probability[here]
        if np.isnan(severity).any() or weight.sum() <= 0:
            return None
        grown = np.cumsum(weight) / weight.sum()
        low, high = (int(np.searchsorted(grown, share)) for share in (0.1, 0.9))
        last = len(severity) - 1
        return float(severity[min(low, last)]), float(severity[min(high, last)])


def _summed(names: Sequence[str], shares: Array) -> dict[str, float]:
    found: dict[str, float] = {}
    for name, share in zip(names, shares.tolist(), strict=True):
        found[name] = found.get(name, 0.0) + share
    return found


@dataclass(frozen=True)
class Grid:
    """Ways that have the same severities: their places among the hypotheses, shape (ways, severities), and those."""

    places: Numbers
    severity: Array


@dataclass(frozen=True)
class Likelihood:
    """How likely something known is: the logarithms with every hypothesis, with the severities between those solved,
    shape (ways, fine) of each grid, and where nothing is known of its cause.

    ``may_have_gone``: it was said or seen, and may have been there before one measured, or was moved by hand.
    """

    log: Array
    fine: tuple[Array, ...]
    log_anything: float
    may_have_gone: bool


def likelihood_of(hypotheses: Hypotheses, known: Reading | Told) -> Likelihood:
    """How likely something known is with every hypothesis."""
    if isinstance(known, Told):
        found = hypotheses.mixed(known.likelihood, THERE_WHEN_SAID)
        return _alike(hypotheses, found, ANY_COMPLAINT, may_have_gone=True)
    measurement, predicted = known.measurement, known.predicted
    anything = anything_is_as_likely(measurement)
    if measurement.quantity == "wiggle":
        found = likelihood_of_wiggle(measurement, *hypotheses.named, hypotheses.comes_and_goes)
        return _alike(hypotheses, found, anything, may_have_gone=True)
    if measurement.value is None:
        found = hypotheses.mixed(likelihood_of_word(measurement, predicted), THERE_WHEN_SEEN)
        return _alike(hypotheses, found, anything, may_have_gone=measurement.quantity == "seen")
    sound, of_metal = float(predicted.value[0]), np.hypot(known.sound_spread, predicted.doubt)
    spread = spread_of(measurement, predicted.value, sound, of_metal)
    found = hypotheses.mixed(likelihood_of_value(measurement, predicted.value, spread), THERE_WHEN_MEASURED)
    fine = []
    for grid in hypotheses.grids:
        values = _between(predicted.value[grid.places], grid.severity)
        apart = np.nan_to_num(np.abs(np.gradient(values, axis=1)))  # beside nothing, as if it stood alone
        own = spread_of(measurement, values, sound, _like_the_one_before(of_metal, grid))
        fine.append(_log(likelihood_of_value(measurement, values, own, apart)))
    return Likelihood(_log(found), tuple(fine), math.log(anything), may_have_gone=False)


def _alike(hypotheses: Hypotheses, found: Array, anything: float, *, may_have_gone: bool) -> Likelihood:
    """The same between severities that are solved as at the one before."""
    log = _log(found)
    fine = tuple(_like_the_one_before(log, each) for each in hypotheses.grids)
    return Likelihood(log, fine, math.log(anything), may_have_gone)


def _like_the_one_before(of_solved: Array, grid: Grid) -> Array:
    """Between severities that are solved what is so at the one before, shape (ways, fine)."""
    return np.asarray(np.repeat(of_solved[grid.places], FINER, axis=1)[:, : _fine_count(len(grid.severity))])


def _log(likelihood: Array) -> Array:
    return np.asarray(np.log(np.maximum(likelihood, 1e-300)))


def posterior(hypotheses: Hypotheses, known: Sequence[Likelihood]) -> Posterior:
    """What all that is known says together; its order does not matter."""
    logs = np.array([each.log for each in known]).reshape(len(known), len(hypotheses.way))
    total = logs.sum(axis=0)
    if known:
        for number, grid in enumerate(hypotheses.grids):
            total[grid.places] = _to_coarse(np.sum([each.fine[number] for each in known], axis=0))
    may_have_gone = any(each.may_have_gone for each in known)
    prior = hypotheses.prior if may_have_gone else np.where(hypotheses.comes_and_goes, 0, hypotheses.prior)
    log_weight = total + np.log(np.maximum(prior, 1e-300))
    log_left = math.log(hypotheses.unknown) + sum(each.log_anything for each in known)
    top = max(float(np.max(log_weight)), log_left)
    weight, left = np.exp(log_weight - top), math.exp(log_left - top)
    whole = float(weight.sum()) + left
    best = logs.max(axis=1, keepdims=True)
    return Posterior(hypotheses, weight / whole, left / whole, np.exp(logs - best), log_weight, log_left)


def _fine_count(count: int) -> int:
    return (count - 1) * FINER + 1


def _between(values: Array, severity: Array) -> Array:
    """Values between those of a grid of severities, shape (ways, fine), from those of shape (ways, severities).

    With one resistance R changed, every voltage and current of a linear network is (a + b R) / (c + R), with one source
    or current changed it is on a line, which is such a curve far from its pole: two of them
    through three neighbours each, blended, and never beyond the two values between which they lie.
    """
    count = len(severity)
    at = np.arange(_fine_count(count))
    left = np.minimum(at // FINER, count - 2)
    share = at / FINER - left
    before, after = values[:, left], values[:, left + 1]
    # beside what predicts nothing nothing is predicted, but at what is solved itself
    straight = np.where(share == 0, before, np.where(share == 1, after, before + share * (after - before)))
    if count < LEAST_CURVE:
        return np.asarray(straight)
    fine = np.exp(np.interp(at / FINER, np.arange(count), np.log(severity)))
    curves = [_curve(values, severity, np.clip(each, 1, count - 2), fine, straight) for each in (left, left + 1)]
    blended = np.clip(curves[0] + share * (curves[1] - curves[0]), np.minimum(before, after), np.maximum(before, after))
    known = np.isfinite(values).all(axis=1, keepdims=True)
    return np.where(known, blended, straight)


def _curve(values: Array, severity: Array, middle: Numbers, at: Array, otherwise: Array) -> Array:
    """(a + b R) / (c + R) through three neighbours, shape of ``otherwise``, which holds where they are on a line."""
    first, second, third = (values[:, middle + each] for each in (-1, 0, 1))
    low, mid, high = (severity[middle + each] for each in (-1, 0, 1))
    near = (at - low) * (mid - high) * (second - first)
    far = (at - high) * (mid - low) * (second - third)
    flat = np.abs(far - near) <= 1e-12 * (np.abs(far) + np.abs(near)) + 1e-300
    return np.where(flat, otherwise, (first * far - near * third) / np.where(flat, 1.0, far - near))


def _to_coarse(summed: Array) -> Array:
    """The log of the likelihood around each severity that is solved, shape (ways, severities): all together their
    mean.
    """
    fine = summed.shape[1]
    count = (fine - 1) // FINER + 1
    nearest = np.minimum((np.arange(fine) + FINER // 2) // FINER, count - 1)
    starts = np.searchsorted(nearest, np.arange(count))
    top = summed.max(axis=1, keepdims=True)
    sums = np.add.reduceat(np.exp(summed - top), starts, axis=1)
    return np.asarray(np.log(np.maximum(sums * count / fine, 1e-300)) + top)
