"""How well each fault explains a reading: likelihoods, with what an instrument and sound metal may be off."""

import math
from collections.abc import Sequence
from functools import cache

import numpy as np

from percorso import tables
from percorso.arrays import Array, Mask
from percorso.faults.at_segments import OPENS, RESISTS
from percorso.tracing.predictions import Predicted
from percorso.verification.judging.spreads import Z_95, spread
from percorso.verification.measured.instruments import errors
from percorso.verification.measured.measurements import DEAD, WORDS, Measurement

MISREAD = 0.01  # of readings: a probe slipped, a wrong range, a wrong terminal, from memory
MOVES_SHARE, MOVES_ANYWAY = 0.5, 0.03  # a bad contact that is moved; a good one, by a probe that slips; from memory
COMES_AND_GOES_MOVES_SHARE = 0.6  # what comes and goes, and is moved; from memory
MAKES_AND_BREAKS = {*OPENS, *RESISTS} - {"blown"}
SPANS = {"voltage": 30.0, "current": 400.0}  # between which a misread value lies, V and A
SUPPLY_TIMES = 1.1  # the nominal voltage: what a reading is at most, but while charging
RATIO_SHARE = 0.2  # one standard deviation of the ratio of two resistances in a row, from memory
WRITTEN_AS_0 = {"voltage": 0.05, "current": 0.05}  # V and A: with less, many write 0, from memory
OHM_DECADES = 9.0  # and a misread resistance


def spread_of(
    measurement: Measurement,
    predicted: Array,
    sound: float | Array,
    sound_spread: float | Array,
    nominal_v: float,
) -> Array:
    """One standard deviation of what is read where ``predicted`` is computed, shape of ``predicted``.

    ``sound_spread`` is that of the reading on sound metal. What a fault adds to it: a current differs as the load
    through it does from its plate; a voltage stands between nothing and the supply by two resistances, and is off by
    as much as their ratio is: V (E − V) / E, and never by more than what the fault moves.
    """
    off = errors(measurement.with_what, measurement.quantity, predicted) / Z_95
    if measurement.quantity in DEAD:
        return np.asarray(np.hypot(off, 0.1 * np.abs(predicted)))
    beyond = np.abs(predicted - np.where(np.isfinite(sound), sound, 0.0))
    if measurement.quantity == "voltage":
        volts = np.abs(predicted)
        supply = np.maximum(SUPPLY_TIMES * nominal_v, volts + nominal_v / 12)
        added = RATIO_SHARE * np.minimum(beyond, volts * (supply - volts) / supply)
    else:
        added = _loads_share() * beyond
    return np.asarray(np.sqrt(off**2 + np.square(sound_spread) + added**2))


@cache
def _loads_share() -> float:
    """One standard deviation of what a load takes, by share of what its plate says."""
    return spread("load")[1] / Z_95


def likelihood_of_value(measurement: Measurement, predicted: Array, sigma: Array, whole: Array | None = None) -> Array:
    """How likely a value is with each fault, per unit, shape of ``predicted``; NaN predicts nothing.

    ``sigma`` is one standard deviation of it, ``whole`` how far a predicted value stands for its neighbours on a grid.
    """
    value = measurement.value or 0.0
    deviation = sigma if whole is None else np.hypot(sigma, whole / np.sqrt(12))
    rounded = WRITTEN_AS_0.get(measurement.quantity, 0.0) if value == 0 else 0.0
    deviation = np.maximum(np.hypot(deviation, rounded / np.sqrt(3)), 1e-9)
    density = np.exp(-0.5 * ((value - predicted) / deviation) ** 2) / (deviation * np.sqrt(2 * np.pi))
    span = SPANS.get(measurement.quantity, max(abs(value), 0.01) * OHM_DECADES * np.log(10))
    anything = 1 / span
    found = np.where(np.isfinite(predicted), (1 - MISREAD) * density + MISREAD * anything, MISREAD * anything)
    return np.asarray(found)


def likelihood_of_word(measurement: Measurement, predicted: Predicted) -> Array:
    """How likely a word is with each fault, shape (faults,)."""
    said = measurement.outcome or ""
    count = len(WORDS[measurement.quantity])
    return np.array([word_share(measurement.quantity, each, said, count) for each in predicted.word])


def likelihood_of_wiggle(
    measurement: Measurement, parts: Sequence[str], faults: Sequence[str], comes_and_goes: Mask
) -> Array:
    """How likely it is that a reading moves, or does not, while a part is moved by hand, shape (hypotheses,).

    Only what makes and breaks moves with its part; that it does not move today acquits nobody.
    """
    at = measurement.segment or measurement.device
    here = np.array([part == at and fault in MAKES_AND_BREAKS for part, fault in zip(parts, faults, strict=True)])
    moves = np.where(here, np.where(comes_and_goes, COMES_AND_GOES_MOVES_SHARE, MOVES_SHARE), MOVES_ANYWAY)
    return np.asarray(moves if measurement.outcome == "moves" else 1 - moves)


@cache
def word_share(quantity: str, is_so: str | None, called: str, count: int) -> float:
    """How often what is so is called by a word; with nothing predicted every word is as likely."""
    if is_so is None:
        return 1 / count
    if is_so == "works" and called == "stays on":
        called = "works"
    confused = _confused().get(quantity, {}).get(is_so, {})
    if called in confused:
        return confused[called]
    if called == is_so:
        return 1 - MISREAD - sum(confused.values())
    return MISREAD / count


@cache
def _confused() -> dict[str, dict[str, dict[str, float]]]:
    found: dict[str, dict[str, dict[str, float]]] = {}
    for row in tables.rows("word_confusion"):
        found.setdefault(row["of"], {}).setdefault(row["is"], {})[row["called"]] = float(row["share"])
    return found


def anything_is_as_likely(measurement: Measurement) -> float:
    """How likely a reading is where nothing is known of its cause."""
    if measurement.quantity == "wiggle":
        return MOVES_ANYWAY if measurement.outcome == "moves" else 1 - MOVES_ANYWAY
    if measurement.value is None:
        return 1 / len(WORDS[measurement.quantity])
    if measurement.quantity in SPANS:
        return 1 / SPANS[measurement.quantity]
    return 1 / (max(abs(measurement.value), 0.01) * OHM_DECADES * math.log(10))


def normal(deviations: Array) -> Array:
    """Share of a normal distribution below so many standard deviations (by its logistic approximation, 0.01)."""
    share = np.clip(-1.702 * deviations, -68, 68)
    np.exp(share, out=share)
    share += 1
    return np.asarray(np.reciprocal(share, out=share))
