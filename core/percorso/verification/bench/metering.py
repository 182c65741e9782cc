"""What an instrument shows in one situation of a network, with its own load in the circuit, and what moves that."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from percorso.kept import cached_property
from percorso.network import sensitivity
from percorso.network.branches import Branch
from percorso.network.newton import NotSettledError, Solved
from percorso.network.operating_point import Network
from percorso.network.sensitivity import Sensitivity
from percorso.vehicle.ids import free_id
from percorso.vehicle.model import Point
from percorso.vehicle.states import State
from percorso.verification.bench.appearance import seen
from percorso.verification.bench.instrument_model import (
    brightness,
    buzzes,
    instrument_branches,
    meter,
    ohm_shown,
    probes,
)
from percorso.verification.measured.instruments import input_resistance_ohm, ranges
from percorso.verification.measured.measurements import Measurement

AGREES_V = 1e-3  # a meter that moves its point by no more is as good as not there


@dataclass(frozen=True)
class Shown:
    """What an instrument would show: a ``value`` in V, A or Ω, or a word; neither where there is no solution.

    ``network`` and ``solved`` are what the value is of, ``moved`` what moves it: one row. None of them of a mean, where
    something chatters, which is of its ``phases``.
    """

    value: float | None = None
    outcome: str | None = None
    network: Network | None = None
    solved: Solved | None = None
    moved: Sensitivity | None = None
    phases: tuple["Shown", ...] = ()


NOTHING_SHOWN = Shown()


class Metering:
    """One situation of a network that is already prepared for it."""

    def __init__(self, network: Network, state: State, chosen: Mapping[str, str]) -> None:
        self._network, self._state, self._chosen = network, state, chosen

    @cached_property
    def _rests(self) -> Solved | None:
        """The situation at rest without an instrument; None where it never comes to rest."""
        try:
            return self._network.settled(self._state, self._chosen).solved
        except NotSettledError:
            return None

    def show(self, measurements: Sequence[Measurement]) -> list[Shown]:
        """What instruments show, one at a time; points and parts go by id. Raises StateError."""
        shown: list[Shown] = [NOTHING_SHOWN] * len(measurements)
        by_meter = [place for place, each in enumerate(measurements) if each.quantity == "voltage"]
        by_clamp = [
            place for place, each in enumerate(measurements) if each.quantity == "current" and each.with_what == "clamp"
        ]
        for places, read in ((by_meter, self._voltages), (by_clamp, self._clamped)):
            asked = [measurements[each] for each in places]
            if not asked:
                continue
            found = self._averaged(asked) if self._rests is None else read(asked, self._rests)
            for place, one in zip(places, found, strict=True):
                shown[place] = one
        for place, each in enumerate(measurements):
            if place not in by_meter and place not in by_clamp:
                shown[place] = self._alone(each)
        return shown

    def _averaged(self, measurements: Sequence[Measurement]) -> list[Shown]:
        """What a meter or a clamp shows while something chatters: the mean of what it goes through, it is too slow."""
        phases = self._network.phases(self._state, self._chosen)
        if not phases:
            return [NOTHING_SHOWN] * len(measurements)
        read = self._clamped if measurements[0].quantity == "current" else self._unloaded
        through = zip(*(read(measurements, one.solved) for one in phases), strict=True)
        return [Shown(float(np.mean([one.value for one in each])), phases=each) for each in through]

    def _voltages(self, measurements: Sequence[Measurement], rests: Solved) -> list[Shown]:
        """Voltages by a meter. Where it loads its points down the network is solved with it in its place."""
        pairs = [probes(each) for each in measurements]
        ohm = input_resistance_ohm("multimeter", "voltage")
        try:
            value = self._network.across(self._state, pairs, ohm, self._chosen)
        except NotSettledError:  # one meter more and something chatters: each by itself
            return [self._with(meter(pair)) for pair in pairs]
        return [
            replace(free, value=volts) if abs(volts - (free.value or 0.0)) <= AGREES_V else self._with(meter(pair))
            for pair, volts, free in zip(pairs, value.tolist(), self._unloaded(measurements, rests), strict=True)
        ]

    def _unloaded(self, measurements: Sequence[Measurement], solved: Solved) -> list[Shown]:
        """Voltages in one moment without a meter."""
        numbers = self._network.assembly.numbers
        start, end = (
            np.array([numbers[each or ""] for each in ends])
            for ends in zip(*((each.red_point, each.black_point) for each in measurements), strict=True)
        )
        moved = sensitivity.of_voltages(solved, start, end)
        volts = solved.potential[start] - solved.potential[end]
        return [
            Shown(value, network=self._network, solved=solved, moved=_row(moved, place))
            for place, value in enumerate(volts.tolist())
        ]

    def _clamped(self, measurements: Sequence[Measurement], rests: Solved) -> list[Shown]:
        """Currents by a clamp, from a segment's first point to its second."""
        places = np.array([self._network.branch_of(each.segment or "") for each in measurements])
        moved = sensitivity.of_currents(rests, places)
        amps = rests.branch_a[places].tolist()
        return [
            Shown(value, network=self._network, solved=rests, moved=_row(moved, place))
            for place, value in enumerate(amps)
        ]

    def _alone(self, measurement: Measurement) -> Shown:
        """What loads the circuit so much that it must be solved with it, and what is told in a word."""
        match measurement.quantity:
            case "resistance" | "continuity":
                return self._resistance(measurement)
            case "lamp":
                return self._lamp(measurement)
            case "current":
                return self._in_series(measurement.segment or "")
            case "seen":
                return Shown(outcome=seen(self._network, self._state, self._chosen, measurement))
            case "wiggle":
                return Shown(outcome="steady")
        return NOTHING_SHOWN

    def _with(self, instrument: Branch) -> Shown:
        """The voltage over an instrument that hangs between two points."""
        network = self._network.with_instrument(instrument)
        try:
            solved = network.settled(self._state, self._chosen).solved
        except NotSettledError:
            return NOTHING_SHOWN
        start, end = (np.array([network.assembly.numbers[each]]) for each in (instrument.start, instrument.end))
        value = float(solved.potential[start[0]] - solved.potential[end[0]])
        return Shown(value, network=network, solved=solved, moved=sensitivity.of_voltages(solved, start, end))

    def _resistance(self, measurement: Measurement) -> Shown:
        """An ohmmeter in the finest range that shows something; beyond all of them it shows open."""
        if self._is_apart(*probes(measurement)):
            return Shown(outcome="open")
        branches = instrument_branches(measurement, self._network.vehicle.nominal_v)
        for scale, branch in zip(ranges("multimeter", "resistance"), branches, strict=True):
            shown = self._with(branch)
            if shown.value is None or shown.moved is None:
                return NOTHING_SHOWN
            ohm, by_volt, is_shown = ohm_shown(np.array(shown.value), scale)
            if is_shown:
                word = buzzes(ohm).item() if measurement.quantity == "continuity" else None
                return replace(shown, value=float(ohm), outcome=word, moved=_times(shown.moved, float(by_volt)))
        return Shown(outcome="open")

    def _is_apart(self, red_point: str, black_point: str) -> bool:
        """Whether no metal leads from one point to the other, and no device: nothing shows that in any range."""
        if self._rests is None:
            return False
        island, numbers = self._rests.part.island, self._network.assembly.numbers
        return bool(island[numbers[red_point]] != island[numbers[black_point]])

    def _lamp(self, measurement: Measurement) -> Shown:
        nominal = self._network.vehicle.nominal_v
        [branch] = instrument_branches(measurement, nominal)
        shown = self._with(branch)
        if shown.value is None:
            return NOTHING_SHOWN
        return Shown(outcome=brightness(measurement.with_what, np.array(shown.value), nominal).item())

    def _in_series(self, segment_id: str) -> Shown:
        """A meter between a segment and its second point, which takes all of its current."""
        vehicle = self._network.vehicle
        segment, between = vehicle.segments[segment_id], free_id("instrument", vehicle.points)
        opened = replace(
            vehicle,
            points={**vehicle.points, between: Point(between, between)},
            segments={**vehicle.segments, segment_id: replace(segment, to_point=between)},
        )
        ohm = input_resistance_ohm("multimeter", "current")
        network = Network(opened, [Branch("", "instrument", between, segment.to_point, resistance_ohm=ohm)])
        try:
            solved = network.settled(self._state, self._chosen).solved
        except NotSettledError:
            return NOTHING_SHOWN
        here = np.array([len(network.assembly.branches) - 1])
        value = float(solved.branch_a[here[0]])
        return Shown(value, network=network, solved=solved, moved=sensitivity.of_currents(solved, here))


def _row(moved: Sensitivity, place: int) -> Sensitivity:
    here = slice(place, place + 1)
    return Sensitivity(moved.resistance[here], moved.branch_v[here], moved.setpoint[here])


def _times(moved: Sensitivity, factor: float) -> Sensitivity:
    return Sensitivity(factor * moved.resistance, factor * moved.branch_v, factor * moved.setpoint)
