"""Solves battery, alternator and consumers together, for many conditions at once: scenarios, or states of charge."""

from dataclasses import dataclass, fields, replace
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Mask
from percorso.load_budget.distribution import Distribution
from percorso.network.branches import load_law
from percorso.network.kernel import current_and_slope
from percorso.network.laws import LawOf, motor_law
from percorso.vehicle.devices import Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Device

MAX_STEPS = 60
MAX_CHANGES = 8  # of what regulator and battery do, until they agree
SETTLED_V = 1e-10
LONGEST_STEP_V = 2.0


@dataclass(frozen=True)
class Conditions:
    """What consumers run, and what the sources can do, one row per condition; V, A, Ω.

    ``share`` of the time each port draws its current, shape (conditions, ports); everything else is of shape
    (conditions,). ``limit_a`` is the alternator's most, 0 where it stands still.
    """

    share: Array
    rest_v: Array
    gives_ohm: Array
    takes_ohm: Array
    setpoint_v: Array
    limit_a: Array

    def at(self, places: NDArray[np.int_]) -> "Conditions":
        """Some of the conditions."""
        return Conditions(*(getattr(self, each.name)[places] for each in fields(self)))


@dataclass(frozen=True)
class Operation:
    """What flows under each condition: V and A of shape (conditions,), of the ports (conditions, ports).

    ``battery_a`` is what the battery gives, negative while it is charged. ``regulated``: the alternator holds its
    setpoint. ``settled``: there is an operating point at all.
    """

    battery_v: Array
    battery_a: Array
    alternator_v: Array
    alternator_a: Array
    port_v: Array
    port_a: Array
    regulated: Mask
    settled: Mask

    def one(self, place: int) -> "OperatingPoint":
        """What flows under one of the conditions."""
        return OperatingPoint(**{each.name: getattr(self, each.name)[place].tolist() for each in fields(self)})

    def overwritten(self, places: NDArray[np.int_], other: "Operation") -> "Operation":
        """This one with other results at some places."""
        parts = {each.name: getattr(self, each.name).copy() for each in fields(self)}
        for name, values in parts.items():
            values[places] = getattr(other, name)
        return replace(self, **parts)


@dataclass(frozen=True)
class OperatingPoint:
    """An operation under one condition, in plain numbers."""

    battery_v: float
    battery_a: float
    alternator_v: float
    alternator_a: float
    port_v: list[float]
    port_a: list[float]
    regulated: bool
    settled: bool


@dataclass(frozen=True)
class _Seen:
    """Battery and alternator behind the wiring, one row per condition; V, A, Ω.

    The alternator gives ``base_a`` without any load and ``per_a`` more for each ampere of a port, (conditions, ports).
    A port stands at ``open_v`` without any load and loses ``through`` per ampere of each, (conditions, ports, ports).
    """

    battery_ohm: Array
    base_a: Array
    per_a: Array
    open_v: Array
    through: Array


class Operating:
    """The ports of a wiring with their laws, ready to be solved under any conditions."""

    REGULATING: ClassVar[int] = 0
    AT_LIMIT: ClassVar[int] = 1
    STILL: ClassVar[int] = 2

    def __init__(self, wiring: Distribution) -> None:
        self.wiring = wiring
        laws = [_law(each) for each in wiring.ports]
        self._law = np.array([each.number for each in laws], dtype=np.int64)
        self._parameters = np.array([each.parameters for each in laws]).reshape(-1, 3)

    def solve(self, conditions: Conditions) -> tuple[Operation, Operation]:
        """What flows, and what would flow if the alternator never came to its limit.

        Regulator and battery are first taken to hold the setpoint and to be charged; where that does not agree with
        what flows it is changed, until it does.
        """
        runs = conditions.limit_a > 0
        mode = np.where(runs, self.REGULATING, self.STILL)
        taking = runs.copy()
        unlimited = replace(conditions, limit_a=np.where(runs, np.inf, 0.0))
        asked, mode, taking = self._agreed(unlimited, mode, taking)
        actual, _, _ = self._agreed(conditions, mode, taking, asked)
        return actual, asked

    def _agreed(
        self, conditions: Conditions, mode: NDArray[np.int_], taking: Mask, before: Operation | None = None
    ) -> tuple[Operation, NDArray[np.int_], Mask]:
        found = before or self._solved(conditions, mode, taking, None)
        for _change in range(MAX_CHANGES):
            changed_mode, changed_taking = self._after(conditions, found, mode, taking)
            places = np.flatnonzero((changed_mode != mode) | (changed_taking != taking))
            mode, taking = changed_mode, changed_taking
            if not places.size:
                break
            part = self._solved(conditions.at(places), mode[places], taking[places], found.port_v[places])
            found = found.overwritten(places, part)
        return found, mode, taking

    def _after(
        self, conditions: Conditions, found: Operation, mode: NDArray[np.int_], taking: Mask
    ) -> tuple[NDArray[np.int_], Mask]:
        """What regulator and battery would do at these currents and voltages."""
        sense_v = found.battery_v - found.port_a @ self.wiring.sense_lost
        sense_v = sense_v + found.alternator_a * self.wiring.sense_raised
        low = sense_v < conditions.setpoint_v - SETTLED_V
        regulating, at_limit = mode == self.REGULATING, mode == self.AT_LIMIT
        cut_off = (mode == self.STILL) & (conditions.limit_a > 0)
        after = np.where(regulating & (found.alternator_a > conditions.limit_a + SETTLED_V), self.AT_LIMIT, mode)
        after = np.where(regulating & (found.alternator_a < -SETTLED_V), self.STILL, after)
        after = np.where(
            (at_limit & (sense_v > conditions.setpoint_v + SETTLED_V)) | (cut_off & low), self.REGULATING, after
        )
        charged = np.where(np.abs(found.battery_a) > SETTLED_V, found.battery_a < 0, taking)
        limited = (after == self.AT_LIMIT) & ~at_limit  # and can only charge with what the ports leave
        return after, np.where(limited, conditions.limit_a > found.port_a.sum(axis=1), charged)

    def _solved(self, given: Conditions, mode: NDArray[np.int_], taking: Mask, guess: Array | None) -> Operation:
        """The operating point for what regulator and battery are taken to do."""
        seen = self._seen(given, mode, taking)
        port_v, settled = self._newton(seen, given.share, guess)
        port_a = given.share * self._currents(port_v)[0]
        alternator_a = seen.base_a + (seen.per_a * port_a).sum(axis=1)
        battery_a = port_a.sum(axis=1) - alternator_a
        battery_v = given.rest_v - seen.battery_ohm * battery_a
        alternator_v = battery_v - port_a @ self.wiring.post_lost + alternator_a * self.wiring.post_raised
        regulated = mode == self.REGULATING
        return Operation(battery_v, battery_a, alternator_v, alternator_a, port_v, port_a, regulated, settled)

    def _seen(self, given: Conditions, mode: NDArray[np.int_], taking: Mask) -> _Seen:
        """Battery and alternator as the ports see them: the alternator's current is linear in theirs."""
        wiring = self.wiring
        ohm = np.where(taking, given.takes_ohm, given.gives_ohm)
        held = np.where(mode == self.REGULATING, 1 / (ohm + wiring.sense_raised), 0.0)
        limited = np.where(mode == self.AT_LIMIT, given.limit_a, 0.0)
        base_a = limited + held * (given.setpoint_v - given.rest_v)
        per_a = held[:, None] * (ohm[:, None] + wiring.sense_lost)
        lift = ohm[:, None] + wiring.raised
        return _Seen(
            battery_ohm=ohm,
            base_a=base_a,
            per_a=per_a,
            open_v=given.rest_v[:, None] + lift * base_a[:, None],
            through=wiring.between + ohm[:, None, None] - lift[:, :, None] * per_a[:, None, :],
        )

    def _newton(self, seen: _Seen, share: Array, guess: Array | None) -> tuple[Array, Mask]:
        """Port voltages, V, that solve U = U₀ − Z·I(U), and where there are any."""
        port_v = (seen.open_v if guess is None else guess).copy()
        count = port_v.shape[1]
        settled = np.full(len(port_v), count == 0)
        going = np.flatnonzero(~settled)
        for _step in range(MAX_STEPS):
            if not going.size:
                break
            current, slope = self._currents(port_v[going])
            error = port_v[going] - seen.open_v[going]
            error += np.einsum("cjk,ck->cj", seen.through[going], share[going] * current)
            steep = np.eye(count) + seen.through[going] * (share[going] * slope)[:, None, :]
            change = -np.linalg.solve(steep, error[:, :, None])[:, :, 0]
            port_v[going] += np.clip(change, -LONGEST_STEP_V, LONGEST_STEP_V)
            done = np.abs(error).max(axis=1) < SETTLED_V
            settled[going[done]] = True
            going = going[~done]
        return port_v, settled

    def _currents(self, voltage: Array) -> tuple[Array, Array]:
        """Current and slope of every port at its voltage, each of shape (conditions, ports)."""
        return current_and_slope(self._law, voltage, *self._parameters.T)


def _law(device: Device) -> LawOf:
    spec = device.spec
    if isinstance(spec, Starter):
        return motor_law(spec.running_v, spec.running_a, spec.winding_ohm)
    assert isinstance(spec, Load)
    return load_law(spec)
