"""Which faults explain what was read: Bayes over every way a part can be bad, with each resistance it can have."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from percorso.arrays import Array, Mask, Numbers
from percorso.faults.at_segments import OPENS
from percorso.faults.library import Way
from percorso.faults.model import Fault
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
ANY_COMPLAINT = 0.01  # where nothing is known of its cause: one of many of one of many things, from memory
THERE_WHEN_SAID, THERE_WHEN_SEEN, THERE_WHEN_MEASURED = 0.9, 0.5, 0.05  # of what comes and goes, from memory


@dataclass(frozen=True)
class Hypotheses:
    """Every fault of a vehicle, first that there is none, in the order in which they are solved; then what comes and
    goes, as what is solved for it (``solved``) or nothing at all.

    ``way`` is the number of the way each is of, -1 of none, ``ohm`` its resistance, NaN where it has none.
    """

    ways: tuple[Way, ...]
    way: Numbers
    ohm: Array
    prior: Array  # of each fault, with what is left for what is not described
    solved: Numbers

    @property
    def faults(self) -> list[Fault | None]:
        """What is solved: sound metal, and each fault with each resistance it can have."""
        return [None, *(fault for way in self.ways if not way.comes_and_goes for fault in way.faults)]

    @property
    def named(self) -> tuple[list[str], list[str]]:
        """The part and the fault of each, empty where there is none."""
        ways = [self.ways[each] if each >= 0 else None for each in self.way.tolist()]
        return [each.part if each else "" for each in ways], [each.fault if each else "" for each in ways]

    @property
    def comes_and_goes(self) -> Mask:
        """Which are not there at all times."""
        return np.asarray(np.arange(len(self.way)) != self.solved)

    @staticmethod
    def of(ways: tuple[Way, ...], whole: float | None = None) -> "Hypotheses":
        """The hypotheses of a library; ``whole`` is the weight of all of it, if these are not all."""
        ohms = [each.ohms or (np.nan,) for each in ways]
        way = [-1] + [place for place, each in enumerate(ohms) for _ in each]
        ohm = [np.nan] + [each for one in ohms for each in one]
        weight = [0.0] + [each.weight / len(one) for each, one in zip(ways, ohms, strict=True) for _ in one]
        solved = list(range(len(way)))
        for place, each in enumerate(ways):
            if each.fault in COMES_AND_GOES:
                solved.append(way.index(place))
                weight.append(COMES_AND_GOES_SHARE * each.weight)
                way.append(len(ways))
                ohm.append(np.nan)
                ways = (*ways, replace(each, weight=weight[-1], comes_and_goes=True))
        share = np.array(weight) * (1 - UNKNOWN_SHARE - SOUND_SHARE) / max(whole or sum(weight), 1e-300)
        share[0] = SOUND_SHARE
        return Hypotheses(ways, np.array(way), np.array(ohm), share, np.array(solved))

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

    def lifts(self) -> dict[str, float]:
        """How much more probable each part is than before any reading."""
        hypotheses = self.hypotheses
        before = self._by_part(
            np.bincount(hypotheses.way + 1, hypotheses.prior, len(hypotheses.ways) + 1)[1:].astype(float)
        )
        return {part: share / max(before[part], 1e-300) for part, share in self.of_parts().items()}

    def _by_part(self, of_ways: Array) -> dict[str, float]:
        found: dict[str, float] = {}
        for each, total in zip(self.hypotheses.ways, of_ways.tolist(), strict=True):
            found[each.part] = found.get(each.part, 0.0) + total
        return found

    def ohm(self, way: int) -> tuple[float, float] | None:
        """Between what the resistance of a way lies, 80 times of 100."""
        here = self.hypotheses.way == way
        ohm, weight = self.hypotheses.ohm[here], self.probability[here]
        if np.isnan(ohm).any() or weight.sum() <= 0:
            return None
        grown = np.cumsum(weight) / weight.sum()
        low, high = (int(np.searchsorted(grown, share)) for share in (0.1, 0.9))
        last = len(ohm) - 1
        return float(ohm[min(low, last)]), float(ohm[min(high, last)])


def posterior(hypotheses: Hypotheses, readings: Sequence[Reading | Told]) -> Posterior:
    """What all readings together say; their order does not matter."""
    logs = np.zeros((len(readings), len(hypotheses.way)))
    fines: dict[int, Array] = {}
    log_left = math.log(UNKNOWN_SHARE)
    for place, each in enumerate(readings):
        fine, found = _likelihood(hypotheses, each)
        logs[place] = np.log(np.maximum(found, 1e-300))
        for way, of_way in fine.items():
            fines[way] = fines.get(way, np.zeros(len(of_way))) + np.log(np.maximum(of_way, 1e-300))
        log_left += math.log(ANY_COMPLAINT if isinstance(each, Told) else anything_is_as_likely(each.measurement))
    total = logs.sum(axis=0)
    for way, summed in fines.items():
        total[hypotheses.way == way] = _to_coarse(summed)
    prior = hypotheses.prior if _may_have_gone(readings) else np.where(hypotheses.comes_and_goes, 0, hypotheses.prior)
    log_weight = total + np.log(np.maximum(prior, 1e-300))
    top = max(float(np.max(log_weight)), log_left)
    weight, left = np.exp(log_weight - top), math.exp(log_left - top)
    whole = float(weight.sum()) + left
    best = logs.max(axis=1, keepdims=True) if len(readings) else logs
    return Posterior(hypotheses, weight / whole, left / whole, np.exp(logs - best), log_weight, log_left)


def _may_have_gone(readings: Sequence[Reading | Told]) -> bool:
    """Whether something was said or seen that may have been there before one measured, or was moved by hand."""
    return any(isinstance(each, Told) or each.measurement.quantity in ("seen", "wiggle") for each in readings)


def _likelihood(hypotheses: Hypotheses, reading: Reading | Told) -> tuple[dict[int, Array], Array]:
    """The likelihood of a reading with the resistances between those solved, by way, and with every hypothesis."""
    if isinstance(reading, Told):
        return _alike(hypotheses, hypotheses.mixed(reading.likelihood, THERE_WHEN_SAID))
    measurement, predicted = reading.measurement, reading.predicted
    if measurement.quantity == "wiggle":
        return _alike(hypotheses, likelihood_of_wiggle(measurement, *hypotheses.named, hypotheses.comes_and_goes))
    if measurement.value is None:
        return _alike(hypotheses, hypotheses.mixed(likelihood_of_word(measurement, predicted), THERE_WHEN_SEEN))
    sound = float(predicted.value[0])
    spread = spread_of(measurement, predicted.value, sound, reading.sound_spread)
    found = likelihood_of_value(measurement, predicted.value, spread)
    fine: dict[int, Array] = {}
    for way, here in _grids(hypotheses):
        values = _between(predicted.value[here], hypotheses.ohm[here])
        apart = np.nan_to_num(np.abs(np.gradient(values)))  # beside nothing, as if it stood alone
        own = spread_of(measurement, values, sound, reading.sound_spread)
        fine[way] = likelihood_of_value(measurement, values, own, apart)
    return fine, hypotheses.mixed(found, THERE_WHEN_MEASURED)


def _alike(hypotheses: Hypotheses, found: Array) -> tuple[dict[int, Array], Array]:
    """The same between resistances that are solved as at the one before."""
    return {way: np.repeat(found[here], FINER)[: _fine_count(len(here))] for way, here in _grids(hypotheses)}, found


def _grids(hypotheses: Hypotheses) -> list[tuple[int, Numbers]]:
    """The places of each way that has more than one resistance."""
    starts = np.flatnonzero(np.diff(hypotheses.way, prepend=-2))
    ends = [*starts[1:].tolist(), len(hypotheses.way)]
    return [
        (int(hypotheses.way[start]), np.arange(start, end))
        for start, end in zip(starts.tolist(), ends, strict=True)
        if end - start > 1
    ]


def _fine_count(count: int) -> int:
    return (count - 1) * FINER + 1


def _between(values: Array, ohm: Array) -> Array:
    """Values between those of a grid of resistances, shape (fine,).

    With one resistance changed, every voltage and current of a linear network is (a + b R) / (c + R): two such curves
    through three neighbours each, blended, and never beyond the two values between which they lie.
    """
    count = len(values)
    at = np.arange(_fine_count(count))
    known = np.isfinite(values)
    if not known.all() or count < LEAST_CURVE:
        near = np.interp(at / FINER, np.arange(count), np.where(known, values, np.nan))
        return np.asarray(near)
    fine_ohm = np.exp(np.interp(at / FINER, np.arange(count), np.log(ohm)))
    left = np.minimum(at // FINER, count - 2)
    share = at / FINER - left
    before, after = values[left], values[left + 1]
    straight = before + share * (after - before)
    curves = [_curve(values, ohm, np.clip(each, 1, count - 2), fine_ohm, straight) for each in (left, left + 1)]
    blended = curves[0] + share * (curves[1] - curves[0])
    return np.asarray(np.clip(blended, np.minimum(before, after), np.maximum(before, after)))


def _curve(values: Array, ohm: Array, middle: Numbers, at_ohm: Array, otherwise: Array) -> Array:
    """(a + b R) / (c + R) through three neighbours, shape of ``at_ohm``; ``otherwise`` where they are on a line."""
    first, second, third = (values[middle + each] for each in (-1, 0, 1))
    low, mid, high = (ohm[middle + each] for each in (-1, 0, 1))
    near = (at_ohm - low) * (mid - high) * (second - first)
    far = (at_ohm - high) * (mid - low) * (second - third)
    flat = np.abs(far - near) <= 1e-12 * (np.abs(far) + np.abs(near)) + 1e-300
    return np.where(flat, otherwise, (first * far - near * third) / np.where(flat, 1.0, far - near))


def _to_coarse(summed: Array) -> Array:
    """The log of the likelihood around each resistance that is solved, shape (coarse,): all together their mean."""
    count = (len(summed) - 1) // FINER + 1
    nearest = np.minimum((np.arange(len(summed)) + FINER // 2) // FINER, count - 1)
    top = summed.max()
    sums = np.bincount(nearest, np.exp(summed - top), count)
    return np.asarray(np.log(np.maximum(sums * count / len(summed), 1e-300)) + top)
