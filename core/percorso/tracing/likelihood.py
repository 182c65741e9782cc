"""How likely what is known is with every hypothesis, and with how bad things can be between those that are solved."""

import math
from collections.abc import Iterator
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
from percorso.tracing.shared import Given
from percorso.verification.judging.spreads import Z_95
from percorso.verification.measured.instruments import errors
from percorso.verification.measured.measurements import Measurement

EXPLAINED_WITHIN = 3.0  # standard deviations: a reading that is off by more is not by the metal
LEAST_SHARED = 1e-3  # of what another is off: with less two readings have nothing in common
FINER = 12  # steps between two resistances that are solved
LEAST_CURVE = 3  # resistances through which a curve goes
STILL_SOUND = 0.5  # of readings with something that is not described: as on sound metal, from memory
MISFIT_SHARE = 0.3  # of how likely a value is where nothing is known of its cause: one that is less likely fits nothing
MISFIT_WORD_SHARE = 0.03  # and a word, which people call otherwise more often
ANY_COMPLAINT = 0.01  # where nothing is known of its cause: one of many of one of many things, from memory
THERE_WHEN_SAID, THERE_WHEN_SEEN = 0.9, 0.5  # of what comes and goes, from memory


@dataclass(frozen=True)
class Reading:
    """A reading with what each fault predicts of it, and with the severities between those solved, shape (modes, fine)
    of each grid; ``sound_spread`` is one standard deviation of it on sound metal.
    """

    measurement: Measurement
    predicted: Predicted
    sound_spread: float
    nominal_v: float  # of the vehicle
    fine: tuple[Array, ...]


@dataclass(frozen=True)
class ComplaintEvidence:
    """Something a customer says, and how likely that is with each fault that is solved."""

    likelihood: Array


@dataclass(frozen=True)
class Likelihood:
    """How likely something known is, ``of`` what: the logarithms with every hypothesis, with the severities between
    those solved, shape (modes, fine) of each grid, and where nothing is known of its cause.

    With less than ``log_floor`` it fits nothing. ``may_have_gone``: it was said or seen, and may have been there
    before one measured, or was moved by hand.
    """

    of: Reading | ComplaintEvidence
    log: Array
    fine: tuple[Array, ...]
    log_anything: float
    log_floor: float
    may_have_gone: bool
    off: "Off | None" = None  # of a value

    def counting(self, share: float) -> "Likelihood":
        """The same, for so much of a reading."""
        if share == 1:
            return self
        log, fine = share * self.log, tuple(share * each for each in self.fine)
        return replace(
            self,
            log=log,
            fine=fine,
            log_anything=share * self.log_anything,
            log_floor=share * self.log_floor,
            off=self.off if share > 0 else None,
        )


@dataclass(frozen=True)
class Off:
    """How far a reading is off what each fault predicts of it because the metal is, as far as it is: with every fault
    solved, and with the severities between. Where it is off by more than three standard deviations, it is for another
    reason.
    """

    solved: Array
    fine: tuple[Array, ...]


@dataclass(frozen=True)
class Before:
    """What others were off that were read on the same metal, and what is left of the spread of a reading after them."""

    others: tuple[Off, ...]
    given: Given

    @property
    def solved(self) -> Array:
        """By how much a reading is higher with each fault, by what the others say of the metal."""
        return sum((share * each.solved for share, each in self._shares), np.zeros(1))

    def fine(self, number: int) -> Array:
        """The same with the severities of a grid."""
        return sum((share * each.fine[number] for share, each in self._shares), np.zeros(1))

    @property
    def _shares(self) -> Iterator[tuple[float, Off]]:
        pairs = zip(self.given.of_each.tolist(), self.others, strict=True)
        return (each for each in pairs if abs(each[0]) > LEAST_SHARED)


def reading_of(
    hypotheses: Hypotheses, measurement: Measurement, predicted: Predicted, sound_spread: float, nominal_v: float
) -> Reading:
    """A reading with what each fault predicts of it."""
    grids = hypotheses.grids if measurement.value is not None else ()
    fine = tuple(_between(predicted.value[grid.places], grid.severity) for grid in grids)
    return Reading(measurement, predicted, sound_spread, nominal_v, fine)


def likelihood_of(
    hypotheses: Hypotheses, known: Reading | ComplaintEvidence, before: Before | None = None
) -> Likelihood:
    """How likely something known is with every hypothesis; ``before`` a value others were read on the same metal."""
    if isinstance(known, ComplaintEvidence):
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
    left = known.sound_spread if before is None else before.given.deviation
    sound, of_metal = float(predicted.value[0]), np.hypot(left, predicted.doubt)
    value = predicted.value if before is None else predicted.value + before.solved
    spread = spread_of(measurement, predicted.value, sound, of_metal, known.nominal_v)
    found = hypotheses.mixed(likelihood_of_value(measurement, value, spread))
    fine, off = [], []
    for number, (grid, values) in enumerate(zip(hypotheses.grids, known.fine, strict=True)):
        apart = np.nan_to_num(np.abs(np.gradient(values, axis=1)))  # beside nothing, as if it stood alone
        own = spread_of(measurement, values, sound, _like_the_one_before(of_metal, grid), known.nominal_v)
        shifted = values if before is None else values + before.fine(number)
        fine.append(_log(likelihood_of_value(measurement, shifted, own, apart)))
        off.append(_off_by_metal(known, values, own))
    log_floor = math.log(MISFIT_SHARE * anything)
    metal = Off(_off_by_metal(known, predicted.value, spread), tuple(off))
    logs = _log(found), tuple(fine), _log_unknown(found, anything), log_floor
    return Likelihood(known, *logs, may_have_gone=False, off=metal)


def _off_by_metal(known: Reading, predicted: Array, spread: Array) -> Array:
    """How far a reading is off what is predicted because the metal is, shape of ``predicted``."""
    measurement, by = known.measurement, (known.measurement.value or 0.0) - predicted
    of_instrument = errors(measurement.with_what, measurement.quantity, predicted) / Z_95
    of_metal = (known.sound_spread**2 + of_instrument**2) / np.maximum(spread, 1e-9) ** 2
    return np.where(np.abs(by) <= EXPLAINED_WITHIN * spread, np.minimum(of_metal, 1.0) * by, 0.0)


def _alike(
    hypotheses: Hypotheses, known: Reading | ComplaintEvidence, found: Array, anything: float, *, may_have_gone: bool
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
    """Between severities that are solved what is so at the one before, shape (modes, fine)."""
    return np.asarray(np.repeat(of_solved[grid.places], FINER, axis=1)[:, : _fine_count(len(grid.severity))])


def _log(likelihood: Array) -> Array:
    return np.asarray(np.log(np.maximum(likelihood, 1e-300)))


def _fine_count(count: int) -> int:
    return (count - 1) * FINER + 1


def _between(values: Array, severity: Array) -> Array:
    """Values between those of a grid of severities, shape (modes, fine), from those of shape (modes, severities).

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
    """The log of the likelihood around each severity that is solved, shape (modes, severities): all together their
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
    """The same where nothing is known yet: every severity is as likely, shape (modes, fine)."""
    return np.zeros((len(grid.places), _fine_count(len(grid.severity))))


def within(grid: Grid, summed: Array, shares: tuple[float, float]) -> tuple[float, float]:
    """The severities below which two shares of what is probable lie, by the likelihoods of one mode, shape (fine,)."""
    weight = np.exp(summed - summed.max())
    grown = np.concatenate([[0.0], np.cumsum(weight[1:] + weight[:-1])])
    at = np.interp(shares, grown / grown[-1], np.arange(len(weight)) / FINER)
    low, high = _severity_at(grid.severity, at).tolist()
    return low, high


def _severity_at(severity: Array, steps: Array) -> Array:
    """How bad it is so many steps, or parts of one, along a grid."""
    return np.asarray(np.exp(np.interp(steps, np.arange(len(severity)), np.log(severity))))


def predicted_at(known: Reading, solved: int, steps: tuple[int, int, int] | None) -> tuple[float | None, float]:
    """What is read with a hypothesis, by its place, and one standard deviation of that; None where nothing can be told.

    ``steps``: where along which mode of which grid it is most likely, if it has one.
    """
    predicted, value = known.predicted, float(known.predicted.value[solved])
    if steps is not None:
        number, row, step = steps
        value = float(known.fine[number][row, step])
    if math.isnan(value):
        return None, 1.0
    of_metal = math.hypot(known.sound_spread, float(predicted.doubt[solved]))
    sound = float(predicted.value[0])
    return value, float(spread_of(known.measurement, np.array(value), sound, of_metal, known.nominal_v))
