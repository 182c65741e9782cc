"""The next best test: how much each measurement should tell of the part to be mended, for the minutes it takes."""

import math
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from percorso.arrays import Array, Numbers
from percorso.faults.library import OUTSIDE
from percorso.tracing.evidence import SPANS, likelihood_of_wiggle, normal, spread_of, word_share
from percorso.tracing.likelihood import THERE_WHEN_SEEN
from percorso.tracing.pairs import SecondFault
from percorso.tracing.predictions import Predicted
from percorso.tracing.suspects import Posterior
from percorso.vehicle.model import Vehicle
from percorso.verification.checks.minutes import minutes
from percorso.verification.measured.instruments import UNITS
from percorso.verification.measured.measurements import WORDS, Measurement, Situation

MOST_FAULTS = 160  # hypotheses that a measurement is weighed with
LEAST = 1e-5  # of the most probable one: with less a hypothesis is left out
LEAST_BITS = 0.005  # with less a measurement tells nothing
BETWEEN_MIN = 1.0  # two measurements: to read what comes next, to walk round and to think, from memory
BINS = 48
SHOWS_FROM = 0.005  # V or A: with less a meter shows nothing
IN_WORDS = ((0.7, "a lot"), (0.25, "some"), (0.0, "a little"))  # from so many bits
TOLD = 3  # outcomes of a test that are told beforehand

PossibleOutcome = float | str | None  # about such a value, a word, or nothing that could be told


@dataclass(frozen=True)
class OutcomeMeaning:
    """What an outcome of a test would mean: the part, or the two, then most probable, none if nothing is bad.

    Something that is not described is the part ``""``.
    """

    outcome: str
    parts: tuple[str, ...]
    probability: float


@dataclass(frozen=True)
class NextCheck:
    """A measurement worth making: how many bits it should tell of the part to be mended, and in how many minutes."""

    measurement: Measurement
    bits: float
    minutes: float
    meanings: tuple[OutcomeMeaning, ...]

    @property
    def how_much(self) -> str:
        """How much it tells, in words."""
        return next(word for least, word in IN_WORDS if self.bits >= least)


@dataclass(frozen=True)
class HypothesisSample:
    """The hypotheses that a measurement is weighed with, single ones and pairs: each with its ``share`` in what a test
    is to tell apart, and how far it is ``believed``, which differ where a test is to tell one from all others.

    ``bad``: the parts that are bad with each, and ``mends`` what is renewed then; ``asked`` is what a test is to tell
    apart: what is renewed, and of what is not described where it is. ``parts``, ``faults``: of the last of
    its faults.
    ``with_it``: the rows of a table of predictions that hold with each; the first is sound metal. It is made of several
    tables, of which ``table`` is the one of each, ``gone`` their first rows, which hold while what comes and goes is
    gone, and ``rows`` those that are asked for.
    """

    bad: tuple[tuple[str, ...], ...]
    mends: tuple[tuple[str, ...], ...]
    asked: tuple[Hashable, ...]
    share: Array
    believed: Array
    parts: list[str]
    faults: list[str]
    there: Array
    with_it: Numbers
    table: Numbers
    gone: Numbers
    rows: tuple[Numbers, ...]

    @staticmethod
    def of(found: Posterior, second_faults: Sequence[SecondFault]) -> "HypothesisSample":
        """The likeliest of all: single faults by the first table, then those beside a first one, a table each."""
        log = np.concatenate([found.log_weight, *(each.log_weight for each in second_faults)])
        which = np.argsort(-log, kind="stable")[:MOST_FAULTS]
        which = which[log[which] >= log.max() + math.log(LEAST)]
        return _sample(found, second_faults, which, np.exp(log[which] - log.max()))

    @staticmethod
    def against(found: Posterior, unit: str) -> "HypothesisSample":
        """The likeliest fault modes of a unit against everything else, sound metal too, as if one were as likely
        as the other: what tells them apart tells whether it is the unit.
        """
        best = np.argsort(-found.log_weight, kind="stable")
        of_unit = np.array([*(each.unit == unit for each in found.hypotheses.modes), False])[
            found.hypotheses.mode[best]
        ]
        halves = [best[of_unit][: MOST_FAULTS // 2], best[~of_unit][: MOST_FAULTS // 2]]
        both = np.concatenate(halves)
        believed = np.exp(found.log_weight[both] - found.log_weight[both].max())
        shares = [np.exp(found.log_weight[each] - found.log_weight[each[0]]) for each in halves]
        share = np.concatenate([each / each.sum() for each in shares])
        sample = _sample(found, (), both, share)
        asked = tuple(unit in each for each in sample.mends)
        return replace(sample, asked=asked, believed=believed / believed.sum())

    def of_parts(self) -> dict[str, float]:
        """How probable it is that each part is bad."""
        found: dict[str, float] = {}
        for parts, share in zip(self.bad, self.share.tolist(), strict=True):
            for each in parts:
                found[each] = found.get(each, 0.0) + share
        return found


def _sample(found: Posterior, second_faults: Sequence[SecondFault], which: Numbers, share: Array) -> HypothesisSample:
    """Some of all hypotheses by their places, with what they weigh."""
    tables = [found, *(each.found for each in second_faults)]
    table = np.repeat(np.arange(len(tables)), [len(each.log_weight) for each in tables])[which]
    place = np.concatenate([np.arange(len(each.log_weight)) for each in tables])[which]
    starts = np.cumsum([0, *(len(each.hypotheses.faults) for each in tables)])
    solved, here = [each.hypotheses.solved for each in tables], list(zip(table, place, strict=True))
    named = [each.hypotheses.named for each in tables]
    parts = [named[of][0][at] for of, at in here]
    firsts = [(), *((each.fault.part,) for each in second_faults)]
    with_it = np.array([solved[of][at] for of, at in here])
    bad = tuple(tuple(sorted({*firsts[of], part} - {""})) for (of, _), part in zip(here, parts, strict=True))
    units = {each.part: each.unit for each in found.hypotheses.modes}
    mends = tuple(tuple(sorted({units[part] for part in each})) for each in bad)
    return HypothesisSample(
        bad,
        mends,
        tuple(what if what != (OUTSIDE,) else where for what, where in zip(mends, bad, strict=True)),
        share / share.sum(),
        share / share.sum(),
        parts,
        [named[of][1][at] for of, at in here],
        np.array([tables[of].hypotheses.there[at] for of, at in here]),
        starts[table] + with_it,
        table,
        starts[:-1],
        tuple(np.unique([0, *with_it[table == of].tolist()]) for of in range(len(tables))),
    )


@dataclass(frozen=True)
class Weighed:
    """A measurement with how probable each outcome is with each hypothesis, shape (hypotheses, outcomes)."""

    measurement: Measurement
    bits: float
    minutes: float
    shares: Array
    outcomes: list[PossibleOutcome]


def weigh(
    vehicle: Vehicle,
    sample: HypothesisSample,
    measurements: Sequence[Measurement],
    predicted: Sequence[Predicted],
    sound_spreads: Sequence[float],
    before: Situation | None,
    least_bits: float = LEAST_BITS,
) -> list[Weighed]:
    """How much each measurement that tells anything should tell of the part to be mended, and how long it takes after
    ``before``.
    """
    mass = _mass(sample)
    alike: dict[Hashable, list[int]] = {}
    for place, each in enumerate(measurements):
        alike.setdefault((each.quantity, each.with_what), []).append(place)
    weighed = []
    for places in alike.values():
        those = [measurements[place] for place in places]
        spreads = np.array([sound_spreads[place] for place in places])
        those_predicted = [predicted[place] for place in places]
        shares, outcomes = _outcomes(those, those_predicted, sample, spreads, vehicle.nominal_v)
        for measurement, bits, share, outcome in zip(those, _bits(shares, mass), shares, outcomes, strict=True):
            if bits >= least_bits:
                weighed.append(Weighed(measurement, bits, minutes(vehicle, measurement, before), share, outcome))
    return weighed


def best_of(weighed: Sequence[Weighed], sample: HypothesisSample, count: int) -> tuple[NextCheck, ...]:
    """Those that tell most for each minute, the best first, with what each outcome would mean."""
    best = sorted(weighed, key=lambda each: -worth(each.bits, each.minutes))[:count]
    return tuple(
        NextCheck(each.measurement, each.bits, round(each.minutes, 1), _meanings(sample, each)) for each in best
    )


def worth(bits: float, takes_min: float) -> float:
    """How much a measurement tells for its time: bits for each minute, with what every one takes beside."""
    return bits / (takes_min + BETWEEN_MIN)


def _mass(sample: HypothesisSample) -> Array:
    """How much of the probability of what is told apart is in each hypothesis, shape (different, hypotheses)."""
    numbers = {each: number for number, each in enumerate(dict.fromkeys(sample.asked))}
    number = np.array([numbers[each] for each in sample.asked])
    return np.asarray((number == np.arange(len(numbers))[:, None]) * sample.share)


def _outcomes(
    alike: Sequence[Measurement],
    predicted: Sequence[Predicted],
    sample: HypothesisSample,
    sound_spreads: Array,
    nominal_v: float,
) -> tuple[Array, list[list[PossibleOutcome]]]:
    """How probable each outcome of each of some measurements of one kind is with each hypothesis, shape (measurements,
    hypotheses, outcomes), and what the outcomes are called.
    """
    quantity = alike[0].quantity
    if quantity == "wiggle":
        return _moves(alike, sample), [["moves", "steady"]] * len(alike)
    rows = np.concatenate([sample.with_it, sample.gone])
    outcomes: list[list[PossibleOutcome]]
    if quantity in UNITS:
        values = np.array([each.value[rows] for each in predicted])
        sound = np.array([each.value[0] for each in predicted])
        of_metal = np.hypot(sound_spreads[:, None], [each.doubt[rows] for each in predicted])
        shares, middles = _values(alike[0], values, sound[:, None], of_metal, nominal_v)
        there, outcomes = sample.there, middles.tolist()
    else:
        # what stays on works, and is not meant to
        words = [each for each in WORDS[quantity] if each != "stays on"]
        told = [each.word[rows].tolist() for each in predicted]
        of = {
            is_so: [word_share(quantity, is_so, each, len(words)) for each in words]
            for is_so in {one for each in told for one in each}
        }
        shares = np.array([[of[is_so] for is_so in each] for each in told])
        there, outcomes = np.where(sample.there < 1, THERE_WHEN_SEEN, 1.0), [[*words]] * len(alike)
    with_it, gone = np.split(shares, [len(sample.with_it)], axis=1)
    at = np.flatnonzero(sample.there < 1)
    share = there[at, None]
    with_it[:, at] = share * with_it[:, at] + (1 - share) * gone[:, sample.table[at]]
    return with_it, outcomes


def _moves(alike: Sequence[Measurement], sample: HypothesisSample) -> Array:
    """How probable it is that a reading moves, and that it does not, while each part is moved by hand."""
    moved = [each.model_copy(update={"outcome": "moves"}) for each in alike]
    share = np.array([likelihood_of_wiggle(each, sample.parts, sample.faults, sample.there < 1) for each in moved])
    return np.stack([share, 1 - share], axis=-1)


def _values(
    measurement: Measurement, value: Array, sound: Array, sound_spread: Array, nominal_v: float
) -> tuple[Array, Array]:
    """How probable each of some values is where those are predicted, shape (measurements, rows, values), and ``sound``
    on sound metal; and the values, shape (measurements, values). What predicts nothing makes all of them as probable.
    """
    finite, span = np.isfinite(value), SPANS[measurement.quantity]
    known = np.where(finite, np.clip(value, -span, span), 0.0)  # what is beyond is alike, and leaves the rest its bins
    spread = np.maximum(spread_of(measurement, known, sound, sound_spread, nominal_v), 1e-6)
    low = np.where(finite, known - 3 * spread, np.inf).min(axis=1, initial=span)
    high = np.where(finite, known + 3 * spread, -np.inf).max(axis=1, initial=-span)
    low, high = np.minimum(low, high), np.maximum(low, high)
    edges = low[:, None] + (high - low)[:, None] * np.linspace(0, 1, BINS + 1)
    below = normal((edges[:, None, :] - known[:, :, None]) / spread[:, :, None])
    shares = np.diff(below, axis=2)
    shares[~finite] = 1 / BINS
    return shares, (edges[:, :-1] + edges[:, 1:]) / 2


def _bits(shares: Array, mass: Array) -> list[float]:
    """Information about the part in an outcome, bits [23], of each measurement."""
    joint = mass @ shares
    parts, outcomes = joint.sum(axis=2, keepdims=True), joint.sum(axis=1, keepdims=True)
    apart = np.where(joint > 0, joint / np.maximum(parts * outcomes, 1e-300), 1.0)
    return [max(each, 0.0) for each in (joint * np.log2(apart)).sum(axis=(1, 2)).tolist()]


def _meanings(sample: HypothesisSample, weighed: Weighed) -> tuple[OutcomeMeaning, ...]:
    """What the most probable outcomes would mean."""
    joint = sample.believed[:, None] * weighed.shares
    told: dict[tuple[str, ...], OutcomeMeaning] = {}
    for at in np.argsort(joint.sum(axis=0))[::-1].tolist():
        whole = float(joint[:, at].sum())
        if whole < 1e-6 or len(told) >= TOLD:
            break
        of: dict[tuple[str, ...], float] = {}
        for parts, share in zip(sample.mends, joint[:, at].tolist(), strict=True):
            of[parts] = of.get(parts, 0.0) + share
        best = max(of, key=of.__getitem__)
        if best not in told:
            told[best] = OutcomeMeaning(_called(weighed, at), best, of[best] / whole)
    return tuple(told.values())


def _called(weighed: Weighed, at: int) -> str:
    """What an outcome is called: a word, or the middle of a range, which is 0 where that is in it."""
    outcome, quantity = weighed.outcomes[at], weighed.measurement.quantity
    if not isinstance(outcome, float):
        return outcome or ""
    first, second = weighed.outcomes[:2]
    assert isinstance(first, float) and isinstance(second, float)
    width, unit = second - first, UNITS[quantity]
    if abs(outcome) > SPANS[quantity] - width:
        return f"{SPANS[quantity]:g} {unit} or more{'' if outcome > 0 else ', the other way round'}"
    is_nothing = abs(outcome) <= max(width / 2, SHOWS_FROM)
    return f"about {0.0 if is_nothing else outcome:.3g} {unit}"
