"""Which faults explain what was read: Bayes over every fault mode of every part, as bad as it can be."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array, Mask
from percorso.faults.library import OUTSIDE, FaultMode
from percorso.tracing.hypotheses import Grid, Hypotheses
from percorso.tracing.likelihood import FINER, Likelihood, summed_around, unknown_of, within

FITS_WELL = 0.05  # p-value from which the best explanation is one
MISFITS = 0.015  # of readings fit nothing though the fault is found: misread, or three standard deviations off
UNEXPLAINED = 0.05  # of what the best fault gives a reading: with less it takes a misreading to explain it
WORTH_TELLING = 0.1  # of where it is that something is not described
LEAST_DOUBT = 0.3  # of something not described, where it is none
INTERVAL = (0.1, 0.9)  # of how bad it is: four fifths of what is probable lie between
FITS = 0.1  # of what the best fault gives a reading, from which a fault explains it


@dataclass(frozen=True)
class Posterior:
    """How probable each fault is after all readings, shape (faults,), and what is not described.

    ``share`` holds what each reading multiplied it by, beside the best, shape (readings, faults); ``log_weight`` and
    ``log_left`` are the two before they were made to come to one. ``fit`` is how often the likeliest fault would be
    read as badly as this, or worse (a posterior predictive p-value), ``misfits`` are the readings that take a
    misreading, and ``unexplained`` those too that another fault explains far better. ``fine``: the logarithms of how
    likely all of it is with the severities between those solved, shape (modes, fine) of each grid.
    """

    hypotheses: Hypotheses
    probability: Array
    not_described: float
    share: Array
    log_weight: Array
    log_left: float
    fit: float
    misfits: tuple[int, ...]
    unexplained: tuple[int, ...]
    fine: tuple[Array, ...]

    @property
    def fits(self) -> bool:
        """Whether the likeliest fault explains what is known as well as one may expect."""
        return self.fit >= FITS_WELL

    @property
    def log_evidence(self) -> float:
        """How likely all that was read is, whatever is bad: a logarithm, to compare descriptions by."""
        top = max(float(self.log_weight.max()), self.log_left)
        return top + math.log(float(np.exp(self.log_weight - top).sum()) + math.exp(self.log_left - top))

    @property
    def of_modes(self) -> Array:
        """The probability of each mode, shape (modes,)."""
        totals = np.bincount(self.hypotheses.mode + 1, self.probability, len(self.hypotheses.modes) + 1)
        return np.asarray(totals[1:], dtype=np.float64)

    def of_parts(self) -> dict[str, float]:
        """The probability of each part."""
        return self._by_part(self.of_modes)

    def of_units(self) -> dict[str, float]:
        """The probability of each part with what is opened and renewed with it."""
        units = _summed([each.unit for each in self.hypotheses.modes], self.of_modes)
        return {unit: share for unit, share in units.items() if unit != OUTSIDE}

    @property
    def outside(self) -> float:
        """How probable something is that is not described, wherever it is."""
        return self.not_described + float(self.of_modes[self._beyond].sum())

    @property
    def _beyond(self) -> Mask:
        return np.array([each.unit == OUTSIDE for each in self.hypotheses.modes], dtype=bool)

    def most_beyond(self) -> FaultMode | None:
        """What there most likely is that is not described, and where; None where hardly."""
        shares = np.where(self._beyond, self.of_modes, 0.0)
        best = int(np.argmax(shares)) if len(shares) else -1
        if best < 0 or shares[best] < WORTH_TELLING:
            return None
        return self.hypotheses.modes[best]

    def lifts(self) -> dict[str, float]:
        """How much more probable each part is than before any reading."""
        hypotheses = self.hypotheses
        before = self._by_part(
            np.bincount(hypotheses.mode + 1, hypotheses.prior, len(hypotheses.modes) + 1)[1:].astype(float)
        )
        return {part: share / max(before[part], 1e-300) for part, share in self.of_parts().items()}

    def speaks_for(self, unit: str, reading: int) -> bool:
        """Whether a reading, by its place, is explained by a unit at least twice as well as by everything else, as far
        as the other readings leave that.
        """
        best = float(self.share[reading][self.likeliest_of(unit)])
        return best >= FITS and self.times_as_likely(unit, reading) >= 2

    def times_as_likely(self, unit: str, reading: int) -> float:
        """How much likelier a reading, by its place, is with a unit than with everything else, as far as the other
        readings leave that.
        """
        share, others = self.share[reading], ~self._of_unit(unit)
        log = (self.log_weight - np.log(np.maximum(share, 1e-300)))[others]
        weight = np.exp(log - log.max())
        otherwise = float(weight @ share[others]) / float(weight.sum())
        return float(share[self.likeliest_of(unit)]) / max(otherwise, 1e-300)

    def likeliest_of(self, unit: str) -> int:
        """The likeliest hypothesis of a unit, by its place."""
        return int(np.argmax(np.where(self._of_unit(unit), self.log_weight, -np.inf)))

    def _of_unit(self, unit: str) -> Mask:
        modes = np.array([*(each.unit == unit for each in self.hypotheses.modes), False])
        return np.asarray(modes[self.hypotheses.mode])

    def steps_at(self, place: int) -> tuple[int, int, int] | None:
        """Of a hypothesis with a severity the grid, the mode in it, and the step where around it all is likeliest."""
        return _step_of(self.hypotheses.grids, self.fine, place)

    def _by_part(self, of_modes: Array) -> dict[str, float]:
        return _summed([each.part for each in self.hypotheses.modes], of_modes)

    def severity(self, mode: int) -> tuple[float, float] | None:
        """Between what the severity of a mode lies, 80 times of 100."""
        first = int(np.flatnonzero(self.hypotheses.mode == mode)[0])
        for grid, fine in zip(self.hypotheses.grids, self.fine, strict=True):
            row = np.flatnonzero(grid.places[:, 0] == first)
            if row.size:
                return within(grid, fine[row[0]], INTERVAL)
        return None


def _summed(names: Sequence[str], shares: Array) -> dict[str, float]:
    found: dict[str, float] = {}
    for name, share in zip(names, shares.tolist(), strict=True):
        found[name] = found.get(name, 0.0) + share
    return found


def posterior(hypotheses: Hypotheses, known: Sequence[Likelihood]) -> Posterior:
    """What all that is known says together; its order does not matter."""
    logs = np.array([each.log for each in known]).reshape(len(known), len(hypotheses.mode))
    total, grids = logs.sum(axis=0), hypotheses.grids
    fine = tuple(sum((each.fine[number] for each in known), unknown_of(grid)) for number, grid in enumerate(grids))
    for grid, summed in zip(grids, fine, strict=True):
        total[grid.places] = summed_around(summed)
    may_have_gone = any(each.may_have_gone for each in known)
    prior = hypotheses.prior if may_have_gone else np.where(hypotheses.comes_and_goes, 0, hypotheses.prior)
    log_weight = total + np.log(np.maximum(prior, 1e-300))
    log_left = math.log(hypotheses.unknown) + sum(each.log_anything for each in known)
    top = max(float(np.max(log_weight)), log_left)
    weight, left = np.exp(log_weight - top), math.exp(log_left - top)
    whole = float(weight.sum()) + left
    best = logs.max(axis=1, keepdims=True)
    likeliest = int(np.argmax(log_weight))
    explained = _explained(known, likeliest, _step_of(grids, fine, likeliest))
    misfits = _below(explained, [each.log_floor for each in known])
    better = [float(most) + math.log(UNEXPLAINED) for most in best.ravel()]
    unexplained = tuple(dict.fromkeys((*misfits, *_below(explained, better))))
    fit = fit_of(len(known), len(misfits))
    not_described = max(left / whole, _doubted(fit))
    probability = weight / float(weight.sum()) * (1 - not_described)
    return Posterior(
        hypotheses,
        probability,
        not_described,
        np.exp(logs - best),
        log_weight,
        log_left,
        fit,
        misfits,
        unexplained,
        fine,
    )


def _explained(known: Sequence[Likelihood], best: int, step: tuple[int, int, int] | None) -> list[float]:
    """How likely each reading is with the likeliest hypothesis, as bad as explains most: logarithms."""
    if step is None:
        return [float(each.log[best]) for each in known]
    number, row, at = step
    return [float(each.fine[number][row, at]) for each in known]


def _step_of(grids: Sequence[Grid], fine: Sequence[Array], place: int) -> tuple[int, int, int] | None:
    """Of a hypothesis, by its place, the grid, the mode in it, and the step around it with which all is likeliest."""
    for number, (grid, summed) in enumerate(zip(grids, fine, strict=True)):
        row, column = np.nonzero(grid.places == place)
        if row.size:
            near = np.abs(np.arange(summed.shape[1]) - column[0] * FINER) <= FINER
            return number, int(row[0]), int(np.argmax(np.where(near, summed[row[0]], -np.inf)))
    return None


def _below(logs: Sequence[float], limits: Sequence[float]) -> tuple[int, ...]:
    return tuple(place for place, (log, limit) in enumerate(zip(logs, limits, strict=True)) if log < limit)


def fit_of(readings: int, misfits: int) -> float:
    """How often so many of some readings, or more, do not fit though the fault is this one (binomial distribution)."""
    return sum(
        math.comb(readings, each) * MISFITS**each * (1 - MISFITS) ** (readings - each)
        for each in range(misfits, readings + 1)
    )


def _doubted(fit: float) -> float:
    """How probable something that is not described is at least, where the best explanation fits so badly."""
    return 0.0 if fit >= FITS_WELL else max(LEAST_DOUBT, 1 - fit / FITS_WELL)
