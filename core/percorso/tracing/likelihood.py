"""How likely what is known is with every hypothesis, and with how bad things can be between those that are solved."""

import math
from dataclasses import dataclass, replace

import numpy as np

from percorso.arrays import Array, Numbers
from percorso.tracing.evidence import (
    anything_is_as_likely,
    likelihood_of_value,
    likelihood_of_wiggle,
    likelihood_of_word,
    spread_of,
)
from percorso.tracing.hypotheses import Grid, Hypotheses
from percorso.tracing.predictions import Predicted
from percorso.verification.measurements import Measurement

FINER = 12  # steps between two resistances that are solved
LEAST_CURVE = 3  # resistances through which a curve goes
STILL_SOUND = 0.5  # of readings with something that is not described: as on sound metal, from memory
MISFIT_SHARE = 0.3  # of how likely a value is where nothing is known of its cause: one that is less likely fits nothing
MISFIT_WORD_SHARE = 0.03  # and a word, which people call otherwise more often
ANY_COMPLAINT = 0.01  # where nothing is known of its cause: one of many of one of many things, from memory
THERE_WHEN_SAID, THERE_WHEN_SEEN = 0.9, 0.5  # of what comes and goes, from memory


@dataclass(frozen=True)
class Reading:
    """A reading with what each fault predicts of it, and one standard deviation of it on sound metal."""

    measurement: Measurement
    predicted: Predicted
    sound_spread: float
    nominal_v: float  # of the vehicle


@dataclass(frozen=True)
class Told:
    """Something a customer says, and how likely that is with each fault that is solved."""

    likelihood: Array


@dataclass(frozen=True)
class Likelihood:
    """How likely something known is, ``of`` what: the logarithms with every hypothesis, with the severities between
    those solved, shape (ways, fine) of each grid, and where nothing is known of its cause.

    With less than ``log_floor`` it fits nothing. ``may_have_gone``: it was said or seen, and may have been there
    before one measured, or was moved by hand.
    """

    of: Reading | Told
    log: Array
    fine: tuple[Array, ...]
    log_anything: float
    log_floor: float
    may_have_gone: bool

    def counting(self, share: float) -> "Likelihood":
        """The same, for so much of a reading."""
        log, fine = share * self.log, tuple(share * each for each in self.fine)
        return replace(
            self, log=log, fine=fine, log_anything=share * self.log_anything, log_floor=share * self.log_floor
        )


def likelihood_of(hypotheses: Hypotheses, known: Reading | Told) -> Likelihood:
    """How likely something known is with every hypothesis."""
    if isinstance(known, Told):
        found = hypotheses.mixed(known.likelihood, THERE_WHEN_SAID)
        return _alike(hypotheses, known, found, ANY_COMPLAINT, may_have_gone=True)
    measurement, predicted = known.measurement, known.predicted
    anything = anything_is_as_likely(measurement)
    if measurement.quantity == "wiggle":
        found = likelihood_of_wiggle(measurement, *hypotheses.named, hypotheses.comes_and_goes)
        return _alike(hypotheses, known, found, anything, may_have_gone=True)
    if measurement.value is None:
        found = hypotheses.mixed(likelihood_of_word(measurement, predicted), THERE_WHEN_SEEN)
        return _alike(hypotheses, known, found, anything, may_have_gone=measurement.quantity == "seen")
    sound, of_metal = float(predicted.value[0]), np.hypot(known.sound_spread, predicted.doubt)
    spread = spread_of(measurement, predicted.value, sound, of_metal, known.nominal_v)
    found = hypotheses.mixed(likelihood_of_value(measurement, predicted.value, spread))
    fine = []
    for grid in hypotheses.grids:
        values = _between(predicted.value[grid.places], grid.severity)
        apart = np.nan_to_num(np.abs(np.gradient(values, axis=1)))  # beside nothing, as if it stood alone
        own = spread_of(measurement, values, sound, _like_the_one_before(of_metal, grid), known.nominal_v)
        fine.append(_log(likelihood_of_value(measurement, values, own, apart)))
    log_floor = math.log(MISFIT_SHARE * anything)
    return Likelihood(known, _log(found), tuple(fine), _log_unknown(found, anything), log_floor, may_have_gone=False)


def _alike(
    hypotheses: Hypotheses, known: Reading | Told, found: Array, anything: float, *, may_have_gone: bool
) -> Likelihood:
    """The same between severities that are solved as at the one before."""
    log = _log(found)
    fine = tuple(_like_the_one_before(log, each) for each in hypotheses.grids)
    log_floor = math.log(MISFIT_WORD_SHARE * anything)
    return Likelihood(known, log, fine, _log_unknown(found, anything), log_floor, may_have_gone)


def _log_unknown(found: Array, anything: float) -> float:
    """How likely something known is where its cause is not described: as on sound metal, or anything at all."""
    return math.log(STILL_SOUND * float(found[0]) + (1 - STILL_SOUND) * anything)


def _like_the_one_before(of_solved: Array, grid: Grid) -> Array:
    """Between severities that are solved what is so at the one before, shape (ways, fine)."""
    return np.asarray(np.repeat(of_solved[grid.places], FINER, axis=1)[:, : _fine_count(len(grid.severity))])


def _log(likelihood: Array) -> Array:
    return np.asarray(np.log(np.maximum(likelihood, 1e-300)))


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
    fine = _severity_at(severity, at / FINER)
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


def summed_around(summed: Array) -> Array:
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


def unknown_of(grid: Grid) -> Array:
    """The same where nothing is known yet: every severity is as likely, shape (ways, fine)."""
    return np.zeros((len(grid.places), _fine_count(len(grid.severity))))


def within(grid: Grid, summed: Array, shares: tuple[float, float]) -> tuple[float, float]:
    """The severities below which two shares of what is probable lie, by the likelihoods of one way, shape (fine,)."""
    weight = np.exp(summed - summed.max())
    grown = np.concatenate([[0.0], np.cumsum(weight[1:] + weight[:-1])])
    at = np.interp(shares, grown / grown[-1], np.arange(len(weight)) / FINER)
    low, high = _severity_at(grid.severity, at).tolist()
    return low, high


def _severity_at(severity: Array, steps: Array) -> Array:
    """How bad it is so many steps, or parts of one, along a grid."""
    return np.asarray(np.exp(np.interp(steps, np.arange(len(severity)), np.log(severity))))


def predicted_at(
    hypotheses: Hypotheses, known: Reading, solved: int, steps: tuple[int, int, int] | None
) -> tuple[float | None, float]:
    """What is read with a hypothesis, by its place, and one standard deviation of that; None where nothing can be told.

    ``steps``: where along which way of which grid it is most likely, if it has one.
    """
    predicted, value = known.predicted, float(known.predicted.value[solved])
    if steps is not None:
        number, row, step = steps
        grid = hypotheses.grids[number]
        value = float(_between(predicted.value[grid.places[[row]]], grid.severity)[0, step])
    if math.isnan(value):
        return None, 1.0
    of_metal = math.hypot(known.sound_spread, float(predicted.doubt[solved]))
    sound = float(predicted.value[0])
    return value, float(spread_of(known.measurement, np.array(value), sound, of_metal, known.nominal_v))
