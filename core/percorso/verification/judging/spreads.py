"""How far sound metal may differ from what is computed, part by part.

A part's spread says between what it is 95 times of 100: half of all below what is computed and half above, normally
distributed on either side. What is assumed may differ much further than what somebody has seen.
"""

import math
from dataclasses import dataclass
from functools import cache
from typing import assert_never

import numpy as np

from percorso import tables
from percorso.arrays import Array, Mask
from percorso.components.batteries import open_circuit_v
from percorso.network.branches import Assembly, Branch
from percorso.network.newton import Solved
from percorso.network.sensitivity import Sensitivity
from percorso.vehicle.devices import Battery, DeviceKind, RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Known, Segment, Vehicle
from percorso.vehicle.resistance import connection_ohm
from percorso.vehicle.segments import (
    Body,
    Breaker,
    Connector,
    Diode,
    Fuse,
    FusibleLink,
    Joint,
    RelayContact,
    Resistor,
    SegmentSpec,
    SensorSwitch,
    Shunt,
    Splice,
    Switch,
    Wire,
)

Spread = tuple[float, float]  # how much less, how much more
NONE: Spread = (0.0, 0.0)


@dataclass(frozen=True)
class Spreads:
    """Of an assembly, each of shape (2, branches) or (2, generators): how much less, how much more.

    ``resistance`` is by share (of a battery that gives), ``load`` of what a load draws (or a battery takes) by share,
    ``branch_v`` in volts, ``setpoint`` in volts and ``output`` by share.
    """

    resistance: Array
    load: Array
    branch_v: Array
    setpoint: Array
    output: Array
    is_battery: Mask

    def interval(self, value: float, moved: Sensitivity, solved: Solved, error: float) -> tuple[float, float]:
        """Between what a value is read on sound metal 95 times of 100, with an instrument that is off by ``error``.

        First order in every part, whose mean, variance and skewness add up; the quantiles of such a sum are those of
        Cornish and Fisher (1938). Where one part with a spread to one side rules, nothing reaches beyond it.
        """
        less, more = self._sides(moved, solved)
        shift, deviation, skewness = _moments(less / Z_95, more / Z_95, error / Z_95)
        bend = deviation * (Z_95**2 - 1) * skewness / 6
        low, high = shift + bend - Z_95 * deviation, shift + bend + Z_95 * deviation
        farthest = np.array([np.minimum(less, more), np.maximum(less, more)])
        down, up = np.sqrt(np.square(farthest).sum(axis=1) + error**2)
        if skewness > 0:
            return float(value + max(low, -down)), float(value + high)
        return float(value + low), float(value + min(high, up))

    def by_part(self, moved: Sensitivity, solved: Solved) -> Array:
        """One standard deviation of a value by each part, with the sign by which it moves, shape (parts,), in the order
        of ``parts_of``.
        """
        less, more = self._sides(moved, solved)
        variance = (less**2 + more**2) / 2 - (less + more) ** 2 / (2 * np.pi)
        return np.asarray(np.copysign(np.sqrt(variance), more - less) / Z_95)

    def _sides(self, moved: Sensitivity, solved: Solved) -> tuple[Array, Array]:
        """What less and what more of each part moves a value by, each of shape (parts,)."""
        regulating = np.array([each.mode == "regulating" for each in solved.part.regulated])
        given = np.array([each.limit_a if each.mode == "at its limit" else 0.0 for each in solved.part.regulated])
        gives = solved.branch_a < 0  # a battery by its resistance; one that is charged by what it takes
        less, more = np.concatenate(
            [
                moved.resistance[0] * np.where(self.is_battery & ~gives, 0.0, self.resistance),
                -moved.resistance[0] * np.where(self.is_battery & gives, 0.0, self.load),
                moved.branch_v[0] * self.branch_v,
                moved.setpoint[0] * (self.setpoint * regulating + self.output * given),
            ],
            axis=1,
        )
        return less, more


Z_95 = 1.96  # standard deviations to each side that hold 95 of 100


def _moments(less: Array, more: Array, error: float) -> tuple[float, float, float]:
    """Mean, standard deviation and skewness of a sum of parts, each normal on either side of nothing, and an error."""
    mean = (less + more) / np.sqrt(2 * np.pi)
    square = (less**2 + more**2) / 2
    cube = (less**3 + more**3) * np.sqrt(2 / np.pi)
    variance = float((square - mean**2).sum()) + error**2
    third = float((cube - 3 * mean * square + 2 * mean**3).sum())
    return float(mean.sum()), variance**0.5, third / variance**1.5 if variance > 0 else 0.0


@cache
def spread(of: str, known: Known = "seen") -> Spread:
    """A row of the table: by share of one, or in its own unit; of what is assumed the wider one where there is one."""
    rows = {row["of"]: row for row in tables.rows("spreads")}
    row = (known == "assumed" and rows.get(f"assumed {of}")) or rows[of]
    low, high = float(row["low"]), float(row["high"])
    return (low, high) if low < 0 else (low - 1, high - 1)


def parts_of(assembly: Assembly) -> list[tuple[str, ...]]:
    """What tells apart each part of an assembly that has a spread, in the order of ``by_part``."""
    branches = [(each.owner, each.part) for each in assembly.branches]
    kinds = [(kind, *each) for kind in ("resistance", "load", "own voltage") for each in branches]
    return [*kinds, *(("makes", each.owner) for each in assembly.generators)]


def spreads(assembly: Assembly) -> Spreads:
    """The spreads of everything in an assembly; of an instrument in it none."""
    vehicle = assembly.vehicle
    every = [_of_branch(branch, vehicle) for branch in assembly.branches]
    resistance, load, branch_v = np.array(every, dtype=float).reshape(-1, 3, 2).transpose(1, 2, 0)
    low, high = spread("regulator")
    volts, count = vehicle.nominal_v / 12, len(assembly.generators)
    makes = [spread("output", vehicle.devices[each.owner].known) for each in assembly.generators]
    return Spreads(
        resistance,
        load,
        branch_v,
        setpoint=np.tile([[low * volts], [high * volts]], count),
        output=np.array(makes, dtype=float).reshape(-1, 2).T,
        is_battery=np.array([isinstance(_spec(each, vehicle), Battery) for each in assembly.branches], dtype=bool),
    )


def _of_branch(branch: Branch, vehicle: Vehicle) -> tuple[Spread, Spread, Spread]:
    """Of its resistance, of what it draws, of its own voltage."""
    if segment := vehicle.segments.get(branch.owner):
        return of_segment(segment), NONE, spread("junction") if isinstance(segment.spec, Diode) else NONE
    device = vehicle.devices.get(branch.owner)
    if device is None:
        return NONE, NONE, NONE
    match device.spec:
        case Battery() as battery:
            of = "battery" if battery.resistance_ohm is None else "measured"
            return spread(of, device.known), spread("acceptance"), _at_rest(battery, vehicle.nominal_v)
        case Load() as load:
            return NONE, spread("load" if load.measured_a is None else "measured load", device.known), NONE
        case Starter() if branch.part != "coil":
            return NONE, spread("load", device.known), NONE
        case RelayCoil() if branch.part == "diode":
            return NONE, NONE, spread("junction")
    return spread("coil", device.known) if branch.law is None else NONE, NONE, NONE


def _spec(branch: Branch, vehicle: Vehicle) -> DeviceKind | None:
    """Of the device a branch belongs to."""
    device = vehicle.devices.get(branch.owner)
    return device.spec if device else None


def _at_rest(spec: Battery, nominal_v: float) -> Spread:
    """Of a battery's voltage at rest by its charge, V."""
    volts, charge = spec.nominal_v or nominal_v, spec.state_of_charge_percent
    at_rest = open_circuit_v(spec.chemistry, charge, volts)
    low, high = (open_circuit_v(spec.chemistry, min(max(charge + each, 0), 100), volts) for each in spread("charge"))
    return low - at_rest, high - at_rest


def of_segment(segment: Segment) -> Spread:
    """Of the resistance of a segment, by share."""
    return _assumed(segment.spec) if segment.known == "assumed" else _seen(segment.spec)


def _assumed(spec: SegmentSpec) -> Spread:
    """Of what is only usual: what makes it up multiplies, and its logarithms add up as variances do."""
    match spec:
        case Wire():
            return _product(spread("assumed length"), spread("assumed size"))
        case FusibleLink() | Fuse() | Breaker():
            return _product(spread("assumed size"), _seen(spec))
        case Resistor():
            return spread("assumed coil")
        case Diode() | Shunt():
            return NONE
        case Connector() | Splice() | Joint() | Body() | Switch() | SensorSwitch() | RelayContact():
            return _product(spread("assumed contact"), _seen(spec))
    assert_never(spec)


def _product(*factors: Spread) -> Spread:
    less, more = (math.hypot(*(math.log1p(each[side]) for each in factors)) for side in (0, 1))
    return math.expm1(-less), math.expm1(more)


def _seen(spec: SegmentSpec) -> Spread:
    match spec:
        case Wire() | FusibleLink():
            return spread("wire")
        case Resistor():
            return spread("coil")
        case Diode() | Shunt():
            return NONE
        case Fuse() | Breaker():
            return spread("typical" if spec.resistance_ohm is None else "measured")
        case Connector() | Splice() | Joint() | Body() | Switch() | SensorSwitch() | RelayContact():
            low, typical, high = connection_ohm(spec.kind, spec.condition)
            return (low / typical - 1, high / typical - 1) if spec.resistance_ohm is None else spread("measured")
    assert_never(spec)
