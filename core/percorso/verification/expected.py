"""What one should read on sound metal before the probes touch: a value with its interval, or a word."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from percorso.network.operating_point import Network
from percorso.verification.instruments import UNITS, error, range_for, ranges
from percorso.verification.measurements import DEAD, Measurement, Situation
from percorso.verification.metering import Metering, Shown
from percorso.verification.spreads import SIDE, Spreads, spreads


@dataclass(frozen=True)
class Expected:
    """A value in V, A or Ω and within what sound metal keeps it 95 times of 100, or a word; ``why_not`` if neither."""

    value: float | None = None
    low: float | None = None
    high: float | None = None
    outcome: str | None = None
    why_not: str = ""


CHATTERS = "it never comes to rest: something pulls in and drops out again and again"


def expect(network: Network, situation: Situation, measurements: Sequence[Measurement]) -> list[Expected]:
    """What is expected of measurements in one situation, for which the network is prepared; all go by id.

    Raises StateError for an unknown input.
    """
    return [_expected(*each) for each in _shown(network, situation, measurements)]


def deviations(network: Network, situation: Situation, measurements: Sequence[Measurement]) -> list[float]:
    """One standard deviation of what is read on sound metal, in V, A or Ω; 0 of a word. As ``expect``."""
    return [_deviation(*each) for each in _shown(network, situation, measurements)]


def _shown(
    network: Network, situation: Situation, measurements: Sequence[Measurement]
) -> Iterator[tuple[Shown, Measurement, Spreads | None]]:
    """What each shows, with the spreads of the network without an instrument, where that is what it is of."""
    of = spreads(network.assembly)
    shown = Metering(network, situation.state, situation.inputs).show(measurements)
    for one, each in zip(shown, measurements, strict=True):
        yield one, each, of if one.phases or one.network is network else None


def _deviation(shown: Shown, measurement: Measurement, of: Spreads | None) -> float:
    """Of a value; where something chatters the mean of what it goes through."""
    if shown.phases:
        return sum(_deviation(each, measurement, of) for each in shown.phases) / len(shown.phases)
    expected = _expected(shown, measurement, of)
    return 0.0 if expected.low is None or expected.high is None else (expected.high - expected.low) / (2 * SIDE)


def _expected(shown: Shown, measurement: Measurement, of: Spreads | None) -> Expected:
    if shown.value is None or shown.network is None or shown.solved is None or shown.moved is None:
        return Expected(outcome=shown.outcome, why_not="" if shown.outcome else CHATTERS)
    instrument, quantity = measurement.with_what, measurement.quantity
    if range_for(instrument, quantity, shown.value) is None:
        most = ranges(instrument, quantity)[-1].up_to
        return Expected(why_not=f"a {instrument} reads up to {most:g} {UNITS[quantity]}; about {shown.value:.0f} come")
    off = error(instrument, quantity, shown.value)
    low, high = (of or spreads(shown.network.assembly)).interval(shown.value, shown.moved, shown.solved, off)
    if quantity in DEAD:
        low = max(low, 0.0)
    return Expected(shown.value, low, high, shown.outcome)
