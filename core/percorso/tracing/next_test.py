"""The next best test: how much each measurement should tell of the part to be mended, for the minutes it takes."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array, Numbers
from percorso.network.branches import reference_point
from percorso.tracing.evidence import spread_of, word_share
from percorso.tracing.predictions import Predicted
from percorso.tracing.suspects import Posterior
from percorso.vehicle.devices import Alternator, Battery
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import Breaker, Fuse, FusibleLink, Wire
from percorso.verification.instruments import UNITS
from percorso.verification.measurements import WORDS, Measurement, Situation
from percorso.verification.minutes import minutes

MOST_PARTS = 24  # suspects along which measurements are looked for
MOST_FAULTS = 160  # hypotheses that a measurement is weighed with
LEAST = 1e-5  # probability of one of them
BINS = 48
TOLD = 3  # outcomes of a test that are told beforehand


@dataclass(frozen=True)
class Then:
    """What an outcome of a test would mean: the part that is then most probable, and how much."""

    outcome: str
    part: str
    probability: float


@dataclass(frozen=True)
class NextTest:
    """A measurement worth making: how many bits it should tell of the part to be mended, and in how many minutes."""

    measurement: Measurement
    bits: float
    minutes: float
    tells: tuple[Then, ...]


def candidates(vehicle: Vehicle, found: Posterior, situations: Iterable[Situation]) -> list[Measurement]:
    """What could be measured along the suspects in some situations: voltages, clamps, and fuses looked at."""
    parts = found.of_parts()
    suspects = sorted(parts, key=parts.__getitem__, reverse=True)[:MOST_PARTS]
    measured: dict[tuple[object, ...], Measurement] = {}
    for situation in situations:
        for part in suspects:
            for each in _at(vehicle, part, situation):
                measured.setdefault(each.key, each)
    return list(measured.values())


def _at(vehicle: Vehicle, part: str, situation: Situation) -> Iterator[Measurement]:
    """What can be measured at one part."""
    reference = reference_point(vehicle)
    segment, device = vehicle.segments.get(part), vehicle.devices.get(part)
    ends = [segment.from_point, segment.to_point] if segment else list(device.terminals.values()) if device else []
    for point in dict.fromkeys(ends):
        if point != reference:
            yield Measurement(quantity="voltage", red_point=point, black_point=reference, situation=situation)
    if segment and segment.from_point != segment.to_point:
        pair = {"red_point": segment.from_point, "black_point": segment.to_point}
        yield Measurement(quantity="voltage", **pair, situation=situation)
        if isinstance(segment.spec, Wire):
            yield Measurement(quantity="current", segment=part, situation=situation)
        if isinstance(segment.spec, Fuse | FusibleLink | Breaker):
            yield Measurement(quantity="seen", segment=part, situation=situation)
    if device:
        if {"+", "-"} <= set(device.terminals) and device.terminals["+"] != device.terminals["-"]:
            pair = {"red_point": device.terminals["+"], "black_point": device.terminals["-"]}
            yield Measurement(quantity="voltage", **pair, situation=situation)
        if not isinstance(device.spec, Battery | Alternator):  # nobody sees what those do
            yield Measurement(quantity="seen", device=part, situation=situation)


def likeliest(found: Posterior) -> Numbers:
    """The hypotheses that a measurement is weighed with, by their places."""
    which = np.argsort(found.probability)[::-1][:MOST_FAULTS]
    return np.asarray(which[found.probability[which] > LEAST])


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
    found: Posterior,
    which: Numbers,
    measurements: Sequence[Measurement],
    predicted: Sequence[Predicted],
    sound_spreads: Sequence[float],
    before: Situation | None,
) -> list[Weighed]:
    """How much each measurement should tell of the part to be mended, and how long it takes after ``before``."""
    weight, part_of = _shares_of(found, which), _part_numbers(found, which)
    weighed = []
    for measurement, one, spread in zip(measurements, predicted, sound_spreads, strict=True):
        shares, outcomes = _outcomes(measurement, one, which, spread)
        takes = minutes(vehicle, measurement, before)
        weighed.append(Weighed(measurement, _bits(shares, weight, part_of), takes, shares, outcomes))
    return weighed


def best_of(weighed: Sequence[Weighed], found: Posterior, which: Numbers, count: int) -> tuple[NextTest, ...]:
    """Those that tell most for each minute, the best first, with what each outcome would mean."""
    weight = _shares_of(found, which)
    best = sorted(weighed, key=lambda each: -each.bits / each.minutes)[:count]
    return tuple(
        NextTest(
            each.measurement,
            each.bits,
            round(each.minutes, 1),
            _tells(found, each.measurement, each.shares, each.outcomes, weight, which),
        )
        for each in best
    )


def _shares_of(found: Posterior, which: Numbers) -> Array:
    weight = found.probability[which]
    return np.asarray(weight / max(float(weight.sum()), 1e-300))


def _part_numbers(found: Posterior, which: Numbers) -> Numbers:
    """The part of each hypothesis by number, 0 for none."""
    parts = {part: number for number, part in enumerate(dict.fromkeys(each.part for each in found.hypotheses.ways), 1)}
    ways = found.hypotheses.way[which].tolist()
    return np.array([0 if way < 0 else parts[found.hypotheses.ways[way].part] for way in ways])


def _outcomes(
    measurement: Measurement, predicted: Predicted, which: Numbers, sound_spread: float
) -> tuple[Array, list[str]]:
    """How probable each outcome is with each hypothesis, shape (hypotheses, outcomes), and what they are called."""
    if measurement.quantity not in UNITS:
        words = WORDS[measurement.quantity]
        told = [predicted.word[place] for place in which.tolist()]
        shared = [[word_share(measurement.quantity, is_so, each, len(words)) for each in words] for is_so in told]
        return np.array(shared), list(words)
    value = predicted.value[which]
    finite = np.isfinite(value)
    if not finite.any():
        return np.ones((len(which), 1)), [""]
    spread = np.maximum(spread_of(measurement, value, float(predicted.value[0]), sound_spread), 1e-6)
    low, high = float(np.min((value - 3 * spread)[finite])), float(np.max((value + 3 * spread)[finite]))
    edges = np.linspace(low, high, BINS + 1)
    below = _normal((edges[None, :] - value[:, None]) / spread[:, None])
    shares = np.where(finite[:, None], np.diff(below, axis=1), 1 / BINS)
    middle = (edges[:-1] + edges[1:]) / 2
    return shares, [f"{each:.6g}" for each in middle.tolist()]


def _normal(deviations: Array) -> Array:
    """Share of a normal distribution below so many standard deviations (by its logistic approximation, 0.01)."""
    return np.asarray(1 / (1 + np.exp(-1.702 * np.clip(deviations, -40, 40))))


def _bits(shares: Array, weight: Array, part_of: Numbers) -> float:
    """Information about the part in an outcome, bits (Shannon, 1948)."""
    joint = np.zeros((int(part_of.max()) + 1, shares.shape[1]))
    np.add.at(joint, part_of, weight[:, None] * shares)
    parts, outcomes = joint.sum(axis=1, keepdims=True), joint.sum(axis=0, keepdims=True)
    apart = np.where(joint > 0, joint / np.maximum(parts * outcomes, 1e-300), 1.0)
    return max(float((joint * np.log2(apart)).sum()), 0.0)


def _tells(
    found: Posterior, measurement: Measurement, shares: Array, outcomes: list[str], weight: Array, which: Numbers
) -> tuple[Then, ...]:
    """What the most probable outcomes would mean."""
    joint = weight[:, None] * shares
    ways = found.hypotheses.way[which]
    parts = np.array(["" if each < 0 else found.hypotheses.ways[each].part for each in ways.tolist()])
    told: dict[str, Then] = {}
    for at in np.argsort(joint.sum(axis=0))[::-1].tolist():
        whole = float(joint[:, at].sum())
        if whole < 1e-6 or len(told) >= TOLD:
            break
        by_part = {each: float(joint[parts == each, at].sum()) for each in dict.fromkeys(parts.tolist())}
        best = max(by_part, key=by_part.__getitem__)
        if best not in told:
            told[best] = Then(_called(measurement, outcomes[at]), best, by_part[best] / whole)
    return tuple(told.values())


def _called(measurement: Measurement, outcome: str) -> str:
    unit = UNITS.get(measurement.quantity)
    return f"about {float(outcome):.3g} {unit}" if unit and outcome else outcome
