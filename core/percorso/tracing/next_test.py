"""The next best test: how much each measurement should tell of the part to be mended, for the minutes it takes."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array, Mask, Numbers
from percorso.network.branches import reference_point
from percorso.tracing.evidence import likelihood_of_wiggle, spread_of, word_share
from percorso.tracing.pairs import Beside
from percorso.tracing.predictions import Predicted
from percorso.tracing.suspects import THERE_WHEN_MEASURED, THERE_WHEN_SEEN, Posterior
from percorso.vehicle.devices import Alternator, Battery
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import Breaker, Connector, Fuse, FusibleLink, Wire
from percorso.verification.instruments import UNITS
from percorso.verification.measurements import WORDS, Measurement, Situation
from percorso.verification.minutes import minutes

MOST_PARTS = 24  # suspects along which measurements are looked for
MOST_LIFTED = 8  # and as many more that the readings point to, however rare they are
MOST_FAULTS = 160  # hypotheses that a measurement is weighed with
WORTH_WIGGLING = 0.02  # probability that a part comes and goes, from which it is moved by hand
LEAST = 1e-5  # of the most probable one: with less a hypothesis is left out
LEAST_BITS = 0.005  # with less a measurement tells nothing
BINS = 48
TOLD = 3  # outcomes of a test that are told beforehand


@dataclass(frozen=True)
class Then:
    """What an outcome of a test would mean: the part, or the two, then most probable, none if nothing is bad."""

    outcome: str
    parts: tuple[str, ...]
    probability: float


@dataclass(frozen=True)
class NextTest:
    """A measurement worth making: how many bits it should tell of the part to be mended, and in how many minutes."""

    measurement: Measurement
    bits: float
    minutes: float
    tells: tuple[Then, ...]


@dataclass(frozen=True)
class Among:
    """The hypotheses that a measurement is weighed with, each with its share of all, single ones and pairs.

    ``mends``: the parts that are to be mended with each. ``parts``, ``faults``: of the last of its faults.
    ``with_it`` and ``without``: the rows of a table of predictions that hold with it, and while it is gone; the first
    row is sound metal. ``rows``: the rows of each of the tables that the table is made of.
    """

    mends: tuple[tuple[str, ...], ...]
    share: Array
    parts: list[str]
    faults: list[str]
    comes_and_goes: Mask
    with_it: Numbers
    without: Numbers
    rows: tuple[Numbers, ...]

    @staticmethod
    def of(found: Posterior, besides: Sequence[Beside]) -> "Among":
        """The likeliest of all: single faults by the first table, then those beside a first one, a table each."""
        tables = [found, *(each.found for each in besides)]
        log = np.concatenate([found.log_weight, *(each.log_weight for each in besides)])
        table = np.repeat(np.arange(len(tables)), [len(each.log_weight) for each in tables])
        place = np.concatenate([np.arange(len(each.log_weight)) for each in tables])
        which = np.argsort(-log, kind="stable")[:MOST_FAULTS]
        which = which[log[which] >= log.max() + math.log(LEAST)]
        share = np.exp(log[which] - log.max())
        starts = np.cumsum([0, *(len(each.hypotheses.faults) for each in tables)])
        solved, here = [each.hypotheses.solved for each in tables], list(zip(table[which], place[which], strict=True))
        named = [each.hypotheses.named for each in tables]
        parts = [named[of][0][at] for of, at in here]
        firsts = [(), *((each.fault.part,) for each in besides)]
        with_it = np.array([solved[of][at] for of, at in here])
        return Among(
            tuple(tuple(sorted({*firsts[of], part} - {""})) for (of, _), part in zip(here, parts, strict=True)),
            share / share.sum(),
            parts,
            [named[of][1][at] for of, at in here],
            np.array([tables[of].hypotheses.comes_and_goes[at] for of, at in here]),
            starts[table[which]] + with_it,
            starts[table[which]],
            tuple(np.unique([0, *with_it[table[which] == of].tolist()]) for of in range(len(tables))),
        )

    def of_parts(self) -> dict[str, float]:
        """How probable each part is."""
        found: dict[str, float] = {}
        for parts, share in zip(self.mends, self.share.tolist(), strict=True):
            for each in parts:
                found[each] = found.get(each, 0.0) + share
        return found


def candidates(vehicle: Vehicle, found: Posterior, among: Among, situation: Situation) -> list[Measurement]:
    """What could be measured along the suspects in a situation: voltages, clamps, what is looked at, what is moved."""
    lifts = found.lifts()
    parts = dict.fromkeys(lifts, 0.0) | among.of_parts()
    suspects = sorted(parts, key=parts.__getitem__, reverse=True)[:MOST_PARTS]
    suspects += sorted(set(parts).difference(suspects), key=lambda part: (-lifts[part], part))[:MOST_LIFTED]
    wiggled = {
        each.part
        for each, share in zip(found.hypotheses.ways, found.of_ways.tolist(), strict=True)
        if each.comes_and_goes and share > WORTH_WIGGLING
    }
    measured: dict[tuple[object, ...], Measurement] = {}
    for part in suspects:
        for each in _at(vehicle, part, situation, comes_and_goes=part in wiggled):
            measured.setdefault(each.key, each)
    return list(measured.values())


def _at(vehicle: Vehicle, part: str, situation: Situation, *, comes_and_goes: bool) -> Iterator[Measurement]:
    """What can be measured at one part; it is moved where what is suspected of it comes and goes."""
    reference = reference_point(vehicle)
    segment, device = vehicle.segments.get(part), vehicle.devices.get(part)
    ends = [segment.from_point, segment.to_point] if segment else list(device.terminals.values()) if device else []
    for point in dict.fromkeys(ends):
        if point != reference:
            yield Measurement(quantity="voltage", red_point=point, black_point=reference, situation=situation)
    if segment and segment.from_point != segment.to_point:
        pair = {"red_point": segment.from_point, "black_point": segment.to_point}
        yield Measurement(quantity="voltage", **pair, situation=situation)
        if comes_and_goes:
            beyond = segment.from_point if segment.to_point == reference else segment.to_point
            read = {"red_point": beyond, "black_point": reference}
            yield Measurement(quantity="wiggle", segment=part, **read, situation=situation)
        if isinstance(segment.spec, Wire):
            yield Measurement(quantity="current", segment=part, situation=situation)
        if isinstance(segment.spec, Fuse | FusibleLink | Breaker):
            yield Measurement(quantity="seen", segment=part, situation=situation)
    if device:
        if {"+", "-"} <= set(device.terminals) and device.terminals["+"] != device.terminals["-"]:
            pair = {"red_point": device.terminals["+"], "black_point": device.terminals["-"]}
            yield Measurement(quantity="voltage", **pair, situation=situation)
        for lead in _leads(vehicle, ends):
            yield Measurement(quantity="current", segment=lead, situation=situation)
        if not isinstance(device.spec, Battery | Alternator):  # nobody sees what those do
            yield Measurement(quantity="seen", device=part, situation=situation)


def _leads(vehicle: Vehicle, points: Sequence[str]) -> dict[str, None]:
    """The wires at some points, or behind their plug."""
    found: dict[str, None] = {}
    for point in dict.fromkeys(points):
        for each in vehicle.meeting.get(point, ()):
            beyond = each.to_point if each.from_point == point else each.from_point
            near = vehicle.meeting.get(beyond, ()) if isinstance(each.spec, Connector) else (each,)
            found |= {one.id: None for one in near if isinstance(one.spec, Wire)}
    return found


@dataclass(frozen=True)
class Weighed:
    """A measurement with how probable each outcome is with each hypothesis, shape (hypotheses, outcomes)."""

    measurement: Measurement
    bits: float
    minutes: float
    shares: Array
    outcomes: list[str]


def weigh(
    vehicle: Vehicle,
    among: Among,
    measurements: Sequence[Measurement],
    predicted: Sequence[Predicted],
    sound_spreads: Sequence[float],
    before: Situation | None,
) -> list[Weighed]:
    """How much each measurement should tell of the part to be mended, and how long it takes after ``before``."""
    mass = _mass_of_parts(among)
    weighed = []
    for measurement, one, spread in zip(measurements, predicted, sound_spreads, strict=True):
        shares, outcomes = _outcomes(measurement, one, among, spread)
        takes = minutes(vehicle, measurement, before)
        weighed.append(Weighed(measurement, _bits(shares, mass), takes, shares, outcomes))
    return weighed


def best_of(weighed: Sequence[Weighed], among: Among, count: int) -> tuple[NextTest, ...]:
    """Those that tell most for each minute, the best first, with what each outcome would mean."""
    telling = [each for each in weighed if each.bits > LEAST_BITS]
    best = sorted(telling, key=lambda each: -each.bits / each.minutes)[:count]
    return tuple(NextTest(each.measurement, each.bits, round(each.minutes, 1), _tells(among, each)) for each in best)


def _mass_of_parts(among: Among) -> Array:
    """How much of the probability of what is to be mended is in each hypothesis, shape (different, hypotheses)."""
    numbers = {parts: number for number, parts in enumerate(dict.fromkeys(among.mends))}
    number = np.array([numbers[parts] for parts in among.mends])
    return np.asarray((number == np.arange(len(numbers))[:, None]) * among.share)


def _outcomes(
    measurement: Measurement, predicted: Predicted, among: Among, sound_spread: float
) -> tuple[Array, list[str]]:
    """How probable each outcome is with each hypothesis, shape (hypotheses, outcomes), and what they are called."""
    if measurement.quantity == "wiggle":
        moves = measurement.model_copy(update={"outcome": "moves"})
        share = likelihood_of_wiggle(moves, among.parts, among.faults, among.comes_and_goes)
        return np.stack([share, 1 - share], axis=1), ["moves", "steady"]
    rows = np.concatenate([among.with_it, among.without])
    if measurement.quantity in UNITS:
        shares, outcomes = _values(measurement, predicted.value[rows], float(predicted.value[0]), sound_spread)
        there = THERE_WHEN_MEASURED
    else:
        # what stays on works, and is not meant to
        words = [each for each in WORDS[measurement.quantity] if each != "stays on"]
        told = [predicted.word[place] for place in rows.tolist()]
        of = {
            is_so: [word_share(measurement.quantity, is_so, each, len(words)) for each in words] for is_so in set(told)
        }
        shares, outcomes, there = np.array([of[is_so] for is_so in told]), words, THERE_WHEN_SEEN
    share = np.where(among.comes_and_goes, there, 1.0)[:, None]
    count = len(among.with_it)
    return np.asarray(share * shares[:count] + (1 - share) * shares[count:]), outcomes


def _values(measurement: Measurement, value: Array, sound: float, sound_spread: float) -> tuple[Array, list[str]]:
    """How probable each of some values is where those are predicted, and ``sound`` on sound metal."""
    finite = np.isfinite(value)
    if not finite.any():
        return np.ones((len(value), 1)), [""]
    spread = np.maximum(spread_of(measurement, value, sound, sound_spread), 1e-6)
    low, high = float(np.min((value - 3 * spread)[finite])), float(np.max((value + 3 * spread)[finite]))
    edges = np.linspace(low, high, BINS + 1)
    below = _normal((edges[None, :] - value[:, None]) / spread[:, None])
    shares = np.where(finite[:, None], np.diff(below, axis=1), 1 / BINS)
    middle = (edges[:-1] + edges[1:]) / 2
    return shares, [f"{each:.6g}" for each in middle.tolist()]


def _normal(deviations: Array) -> Array:
    """Share of a normal distribution below so many standard deviations (by its logistic approximation, 0.01)."""
    return np.asarray(1 / (1 + np.exp(-1.702 * np.clip(deviations, -40, 40))))


def _bits(shares: Array, mass: Array) -> float:
    """Information about the part in an outcome, bits (Shannon, 1948)."""
    joint = mass @ shares
    parts, outcomes = joint.sum(axis=1, keepdims=True), joint.sum(axis=0, keepdims=True)
    apart = np.where(joint > 0, joint / np.maximum(parts * outcomes, 1e-300), 1.0)
    return max(float((joint * np.log2(apart)).sum()), 0.0)


def _tells(among: Among, weighed: Weighed) -> tuple[Then, ...]:
    """What the most probable outcomes would mean."""
    joint = among.share[:, None] * weighed.shares
    told: dict[tuple[str, ...], Then] = {}
    for at in np.argsort(joint.sum(axis=0))[::-1].tolist():
        whole = float(joint[:, at].sum())
        if whole < 1e-6 or len(told) >= TOLD:
            break
        of: dict[tuple[str, ...], float] = {}
        for parts, share in zip(among.mends, joint[:, at].tolist(), strict=True):
            of[parts] = of.get(parts, 0.0) + share
        best = max(of, key=of.__getitem__)
        if best not in told:
            told[best] = Then(_called(weighed.measurement, weighed.outcomes[at]), best, of[best] / whole)
    return tuple(told.values())


def _called(measurement: Measurement, outcome: str) -> str:
    unit = UNITS.get(measurement.quantity)
    return f"about {float(outcome):.3g} {unit}" if unit and outcome else outcome
