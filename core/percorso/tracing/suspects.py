"""Which faults explain what was read: Bayes over every way a part can be bad, as bad as it can be."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array, Mask
from percorso.faults.beyond import point_of
from percorso.faults.library import OUTSIDE
from percorso.tracing.hypotheses import Hypotheses
from percorso.tracing.likelihood import FINER, Likelihood, summed_around

FITS_WELL = 0.05  # p-value from which the best explanation is one
MISFITS = 0.015  # of readings fit nothing though the fault is found: misread, or three standard deviations off
WORTH_TELLING = 0.1  # of where it is that something is not described
LEAST_DOUBT = 0.3  # of something not described, where it is none
FITS = 0.1  # of what the best fault gives a reading, from which a fault explains it


@dataclass(frozen=True)
class Posterior:
    """How probable each fault is after all readings, shape (faults,), and what is not described.

    ``share`` holds what each reading multiplied it by, beside the best, shape (readings, faults); ``log_weight`` and
    ``log_left`` are the two before they were made to come to one. ``fit`` is how often the likeliest fault would be
    read as badly as this, or worse (a posterior predictive p-value), and ``misfits`` are the readings that take a
    misreading.
    """

    hypotheses: Hypotheses
    probability: Array
    not_described: float
    share: Array
    log_weight: Array
    log_left: float
    fit: float
    misfits: tuple[int, ...]

    @property
    def fits(self) -> bool:
        """Whether the likeliest fault explains what is known as well as one may expect."""
        return self.fit >= FITS_WELL

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
        units = _summed([each.unit for each in self.hypotheses.ways], self.of_ways)
        return {unit: share for unit, share in units.items() if unit != OUTSIDE}

    @property
    def outside(self) -> float:
        """How probable something is that is not described, wherever it is."""
        return self.not_described + float(self.of_ways[self._beyond].sum())

    @property
    def _beyond(self) -> Mask:
        return np.array([each.unit == OUTSIDE for each in self.hypotheses.ways], dtype=bool)

    def most_beyond(self) -> tuple[str, str] | None:
        """The point at which something is, most likely, that is not described, and what it does; None where hardly."""
        shares = np.where(self._beyond, self.of_ways, 0.0)
        best = int(np.argmax(shares)) if len(shares) else -1
        if best < 0 or shares[best] < WORTH_TELLING:
            return None
        way = self.hypotheses.ways[best]
        return point_of(way.part) or "", way.fault

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


def posterior(hypotheses: Hypotheses, known: Sequence[Likelihood]) -> Posterior:
    """What all that is known says together; its order does not matter."""
    logs = np.array([each.log for each in known]).reshape(len(known), len(hypotheses.way))
    total = logs.sum(axis=0)
    if known:
        for number, grid in enumerate(hypotheses.grids):
            total[grid.places] = summed_around(np.sum([each.fine[number] for each in known], axis=0))
    may_have_gone = any(each.may_have_gone for each in known)
    prior = hypotheses.prior if may_have_gone else np.where(hypotheses.comes_and_goes, 0, hypotheses.prior)
    log_weight = total + np.log(np.maximum(prior, 1e-300))
    log_left = math.log(hypotheses.unknown) + sum(each.log_anything for each in known)
    top = max(float(np.max(log_weight)), log_left)
    weight, left = np.exp(log_weight - top), math.exp(log_left - top)
    whole = float(weight.sum()) + left
    best = logs.max(axis=1, keepdims=True)
    misfits = _misfits(hypotheses, known, int(np.argmax(log_weight)))
    fit = fit_of(len(known), len(misfits))
    not_described = max(left / whole, _doubted(fit))
    probability = weight / float(weight.sum()) * (1 - not_described)
    return Posterior(hypotheses, probability, not_described, np.exp(logs - best), log_weight, log_left, fit, misfits)


def _misfits(hypotheses: Hypotheses, known: Sequence[Likelihood], best: int) -> tuple[int, ...]:
    """The readings, by their places, that the likeliest hypothesis does not explain, as bad as explains most."""
    logs = [each.log[best] for each in known]
    for number, grid in enumerate(hypotheses.grids):
        row, column = np.nonzero(grid.places == best)
        if row.size and known:
            fine = np.array([each.fine[number][row[0]] for each in known])
            near = np.abs(np.arange(fine.shape[1]) - column[0] * FINER) <= FINER
            logs = fine[:, np.argmax(np.where(near, fine.sum(axis=0), -np.inf))].tolist()
    pairs = enumerate(zip(logs, known, strict=True))
    return tuple(place for place, (log, each) in pairs if log < each.log_floor)


def fit_of(readings: int, misfits: int) -> float:
    """How often so many of some readings, or more, do not fit though the fault is this one (binomial distribution)."""
    return sum(
        math.comb(readings, each) * MISFITS**each * (1 - MISFITS) ** (readings - each)
        for each in range(misfits, readings + 1)
    )


def _doubted(fit: float) -> float:
    """How probable something that is not described is at least, where the best explanation fits so badly."""
    return 0.0 if fit >= FITS_WELL else max(LEAST_DOUBT, 1 - fit / FITS_WELL)
