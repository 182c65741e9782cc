"""What one should read on sound metal before the probes touch: a value with its interval, or a word."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array
from percorso.network.operating_point import Network
from percorso.verification.bench.metering import Metering, Shown
from percorso.verification.judging.spreads import Spreads, parts_of, spreads
from percorso.verification.measured.instruments import UNITS, error, range_for, ranges
from percorso.verification.measured.measurements import DEAD, Measurement, Situation


@dataclass(frozen=True)
class Expected:
    """A value in V, A or Ω and within what sound metal keeps it 95 times of 100, or a word; ``why_not`` if neither."""

    value: float | None = None
    low: float | None = None
    high: float | None = None
    outcome: str | None = None
    why_not: str = ""


CHATTERS = "it chatters: something pulls in and drops out again and again"


def expect(network: Network, situation: Situation, measurements: Sequence[Measurement]) -> list[Expected]:
    """What is expected of measurements in one situation, for which the network is prepared; all go by id.

    In V, A or Ω, with the interval that holds 95 of 100 readings on sound metal; how they move by the adjoint network
    [20]. Raises StateError for an unknown input.

    >>> idle = Situation(stage="planned", state="idle")
    >>> posts = Measurement(quantity="voltage", red_point="b-plus", black_point="b-minus", situation=idle)
    >>> [one] = expect(Network(vehicle_at(van, "planned")), idle, [posts])
    >>> round(one.low, 2), round(one.value, 2), round(one.high, 2)
    (12.4, 12.55, 12.67)
    """
    return [_expected(*each) for each in _shown(network, situation, measurements)]


def deviations(
    network: Network, situation: Situation, measurements: Sequence[Measurement], parts: Mapping[tuple[str, ...], int]
) -> Array:
    """One standard deviation of what is read on sound metal by each of some parts, in V, A or Ω, with the sign by which
    it moves; 0 of a word. Shape (measurements, parts); ``parts`` says where each is. As ``expect``.
    """
    shown = _shown(network, situation, measurements)
    return np.array([_by_part(one, of, parts) for one, _, of in shown]).reshape(len(measurements), len(parts))


def _shown(
    network: Network, situation: Situation, measurements: Sequence[Measurement]
) -> Iterator[tuple[Shown, Measurement, Spreads | None]]:
    """What each shows, with the spreads of the network without an instrument, where that is what it is of."""
    of = spreads(network.assembly)
    shown = Metering(network, situation.state, situation.inputs).show(measurements)
    for one, each in zip(shown, measurements, strict=True):
        yield one, each, of if one.phases or one.network is network else None


def _by_part(shown: Shown, of: Spreads | None, parts: Mapping[tuple[str, ...], int]) -> Array:
    """Of a value; where something chatters the mean of what it goes through."""
    if shown.phases:
        return np.asarray(np.mean([_by_part(each, of, parts) for each in shown.phases], axis=0))
    found = np.zeros(len(parts))
    if shown.value is None or shown.network is None or shown.solved is None or shown.moved is None:
        return found
    assembly = shown.network.assembly
    by_part = (of or spreads(assembly)).by_part(shown.moved, shown.solved)
    places = np.array([parts.get(each, -1) for each in parts_of(assembly)])  # an instrument, or a jumper, is no part
    found[places[places >= 0]] = by_part[places >= 0]
    return found


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
