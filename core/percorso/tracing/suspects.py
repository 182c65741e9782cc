"""Which faults explain what was read: Bayes over every way a part can be bad, with each resistance it can have."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array, Numbers
from percorso.faults.library import Way
from percorso.tracing.evidence import (
    anything_is_as_likely,
    likelihood_of_value,
    likelihood_of_wiggle,
    likelihood_of_word,
    spread_of,
)
from percorso.tracing.predictions import Predicted
from percorso.verification.measurements import Measurement

FINER = 8  # steps between two resistances that are solved
UNKNOWN_SHARE = 0.03  # of all faults: something that is not in this description, from memory
SOUND_SHARE = 0.02  # nothing is bad at all, from memory


@dataclass(frozen=True)
class Hypotheses:
    """Every fault of a vehicle, first that there is none, in the order in which they are solved.

    ``way`` is the number of the way each is of, -1 of none, ``ohm`` its resistance, NaN where it has none.
    """

    ways: tuple[Way, ...]
    way: Numbers
    ohm: Array
    prior: Array  # of each fault, with what is left for what is not described

    @property
    def named(self) -> tuple[list[str], list[str]]:
        """The part and the fault of each, empty where there is none."""
        ways = [self.ways[each] if each >= 0 else None for each in self.way.tolist()]
        return [each.part if each else "" for each in ways], [each.fault if each else "" for each in ways]

    @staticmethod
    def of(ways: tuple[Way, ...]) -> "Hypotheses":
        """The hypotheses of a library."""
        ohms = [each.ohms or (np.nan,) for each in ways]
        way = [-1] + [place for place, each in enumerate(ohms) for _ in each]
        ohm = [np.nan] + [each for one in ohms for each in one]
        weight = [0.0] + [each.weight / len(one) for each, one in zip(ways, ohms, strict=True) for _ in one]
        share = np.array(weight) * (1 - UNKNOWN_SHARE - SOUND_SHARE) / max(sum(weight), 1e-300)
        share[0] = SOUND_SHARE
        return Hypotheses(ways, np.array(way), np.array(ohm), share)


@dataclass(frozen=True)
class Reading:
    """A reading with what each fault predicts of it, and one standard deviation of it on sound metal."""

    measurement: Measurement
    predicted: Predicted
    sound_spread: float


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
        found: dict[str, float] = {}
        for each, total in zip(self.hypotheses.ways, self.of_ways.tolist(), strict=True):
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


def posterior(hypotheses: Hypotheses, readings: Sequence[Reading]) -> Posterior:
    """What all readings together say; their order does not matter."""
    logs = np.zeros((len(readings), len(hypotheses.way)))
    fines: dict[int, Array] = {}
    log_left = math.log(UNKNOWN_SHARE)
    for place, each in enumerate(readings):
        fine, logs[place] = _likelihood(hypotheses, each)
        for way, found in fine.items():
            fines[way] = fines.get(way, np.zeros(len(found))) + np.log(np.maximum(found, 1e-300))
        log_left += math.log(anything_is_as_likely(each.measurement))
    total = logs.sum(axis=0)
    for way, summed in fines.items():
        total[hypotheses.way == way] = _to_coarse(summed)
    log_weight = total + np.log(np.maximum(hypotheses.prior, 1e-300))
    top = max(float(np.max(log_weight)), log_left)
    weight, left = np.exp(log_weight - top), math.exp(log_left - top)
    whole = float(weight.sum()) + left
    best = logs.max(axis=1, keepdims=True) if len(readings) else logs
    return Posterior(hypotheses, weight / whole, left / whole, np.exp(logs - best), log_weight, log_left)


def _likelihood(hypotheses: Hypotheses, reading: Reading) -> tuple[dict[int, Array], Array]:
    """The likelihood of a reading with the resistances between those solved, by way, and its log with those solved."""
    measurement, predicted = reading.measurement, reading.predicted
    if measurement.value is None:
        if measurement.quantity == "wiggle":
            found = likelihood_of_wiggle(measurement, *hypotheses.named)
        else:
            found = likelihood_of_word(measurement, predicted)
        log = np.log(np.maximum(found, 1e-300))
        return {way: np.repeat(found[here], FINER)[: _fine_count(len(here))] for way, here in _grids(hypotheses)}, log
    sound = float(predicted.value[0])
    spread = spread_of(measurement, predicted.value, sound, reading.sound_spread)
    found = likelihood_of_value(measurement, predicted.value, spread)
    fine: dict[int, Array] = {}
    for way, here in _grids(hypotheses):
        values = _between(predicted.value[here])
        apart = np.nan_to_num(np.abs(np.gradient(values)))  # beside nothing, as if it stood alone
        own = spread_of(measurement, values, sound, reading.sound_spread)
        fine[way] = likelihood_of_value(measurement, values, own, apart)
    return fine, np.log(np.maximum(found, 1e-300))


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


def _between(values: Array) -> Array:
    """Values between those of a grid, by cubic curves through them (Catmull and Rom, 1974), shape (fine,)."""
    known = np.isfinite(values)
    if not known.all():
        near = np.interp(
            np.arange(_fine_count(len(values))) / FINER, np.arange(len(values)), np.where(known, values, np.nan)
        )
        return np.asarray(near)
    padded = np.concatenate([[values[0]], values, [values[-1]]])
    at = np.arange(_fine_count(len(values)))
    left = np.minimum(at // FINER, len(values) - 2)
    share = at / FINER - left
    before, first, second, after = (padded[left + each] for each in range(4))
    return np.asarray(
        first
        + 0.5
        * share
        * (
            second
            - before
            + share * (2 * before - 5 * first + 4 * second - after + share * (3 * (first - second) + after - before))
        )
    )


def _to_coarse(summed: Array) -> Array:
    """The log of the likelihood around each resistance that is solved, shape (coarse,): all together their mean."""
    count = (len(summed) - 1) // FINER + 1
    nearest = np.minimum((np.arange(len(summed)) + FINER // 2) // FINER, count - 1)
    top = summed.max()
    sums = np.bincount(nearest, np.exp(summed - top), count)
    return np.asarray(np.log(np.maximum(sums * count / len(summed), 1e-300)) + top)
