"""What one should read on sound metal before the probes touch: a value with its interval, or a word."""

from collections.abc import Sequence
from dataclasses import dataclass

from percorso.network.operating_point import Network
from percorso.verification.instruments import UNITS, error, range_for, ranges
from percorso.verification.measurements import DEAD, Measurement, Situation
from percorso.verification.metering import Metering, Shown
from percorso.verification.spreads import SIDE, Spreads, spreads


@dataclass(frozen=True)
class Expected:
    """A value in V, A or Ω and within what sound metal keeps it 95 times of 100, or a word; ``why_not`` if neither.

    ``deviation`` is one standard deviation of the value, where something chatters the mean of what it goes through.
    """

    value: float | None = None
    low: float | None = None
    high: float | None = None
    outcome: str | None = None
    why_not: str = ""
    deviation: float = 0.0


CHATTERS = "it never comes to rest: something pulls in and drops out again and again"


def expect(network: Network, situation: Situation, measurements: Sequence[Measurement]) -> list[Expected]:
    """What is expected of measurements in one situation, for which the network is prepared; all go by id.

    Raises StateError for an unknown input.
    """
    shown = Metering(network, situation.state, situation.inputs).show(measurements)
    of = spreads(network.assembly)
    return [
        _expected(one, each, of if one.network is network else None)
        for one, each in zip(shown, measurements, strict=True)
    ]


def _expected(shown: Shown, measurement: Measurement, of: Spreads | None) -> Expected:
    """``of``: the spreads of the network without an instrument, where the value is of that."""
    if shown.phases:
        through = [_expected(each, measurement, of).deviation for each in shown.phases]
        return Expected(why_not=CHATTERS, deviation=sum(through) / len(through))
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
    return Expected(shown.value, low, high, shown.outcome, deviation=(high - low) / (2 * SIDE))
