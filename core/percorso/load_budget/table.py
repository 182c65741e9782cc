"""What flows in a scenario at every state of charge, so that hours of it can be run in no time."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array
from percorso.components.batteries import peukert_factor, temperature_share, usual
from percorso.load_budget.operation import Operation
from percorso.load_budget.system import ChargingSystem
from percorso.vehicle.devices import Battery
from percorso.vehicle.scenarios import Scenario

GRID_PERCENT = np.linspace(0.0, 100.0, 21)  # every point of the battery tables is one of it
STEP_PERCENT = float(GRID_PERCENT[1])


@dataclass(frozen=True)
class Table:
    """A scenario by the battery's charge, a value on each of GRID_PERCENT: V, A, and the change of charge, % per hour.

    ``battery_a`` goes into the battery, negative while it gives. ``floor_percent`` is where the battery is empty at
    this temperature, ``starts_from_percent`` the charge it takes to start the engine.
    """

    scenario: Scenario
    change: tuple[float, ...]
    battery_v: Array
    alternator_a: Array
    taken_a: Array
    battery_a: Array
    floor_percent: float
    starts_from_percent: float

    def change_at(self, charge_percent: float) -> float:
        """Change of charge, % per hour; an empty battery gives no more."""
        place = min(max(charge_percent, 0.0), 100.0) / STEP_PERCENT
        low = min(int(place), len(self.change) - 2)
        here = self.change[low] + (place - low) * (self.change[low + 1] - self.change[low])
        return 0.0 if charge_percent <= self.floor_percent and here < 0 else here

    def after(self, charge_percent: float, hours: float) -> float:
        """The charge after a short while, %, by one step of the classical fourth-order Runge-Kutta method."""
        first = self.change_at(charge_percent)
        second = self.change_at(charge_percent + hours / 2 * first)
        third = self.change_at(charge_percent + hours / 2 * second)
        fourth = self.change_at(charge_percent + hours * third)
        return min(100.0, charge_percent + hours / 6 * (first + 2 * second + 2 * third + fourth))

    def at(self, charge_percent: float | Sequence[float], column: Array) -> Array:
        """One of its columns at some charges, of their shape."""
        return np.asarray(np.interp(charge_percent, GRID_PERCENT, column))


def tables(
    system: ChargingSystem, scenarios: Sequence[Scenario], *, alternator_fails: bool = False
) -> dict[str, Table]:
    """The table of each scenario by its id; the system needs a battery."""
    battery = system.battery
    assert battery is not None
    once = {each.id: each for each in scenarios}
    runs = [(scenario, float(charge)) for scenario in once.values() for charge in GRID_PERCENT]
    flows, _ = system.operating.solve(system.conditions(runs, alternator_fails=alternator_fails))
    size = len(GRID_PERCENT)
    return {
        scenario.id: _table(battery, scenario, flows, slice(turn * size, (turn + 1) * size))
        for turn, scenario in enumerate(once.values())
    }


def _table(battery: Battery, scenario: Scenario, flows: Operation, rows: slice) -> Table:
    given, alternator = flows.battery_a[rows], flows.alternator_a[rows]
    taken = flows.port_a[rows].sum(axis=1)
    discharged, charged = np.maximum(given, 0.0), np.maximum(-given, 0.0)
    exponent = battery.peukert or usual("peukert", battery.chemistry)
    faster = np.array([peukert_factor(each, battery.capacity_ah, exponent) for each in discharged])
    kept = charged * usual("charge_efficiency", battery.chemistry)
    kept[-1] = 0.0  # a full battery turns what it still takes into gas and heat
    change = 100 * (kept - discharged * faster) / battery.capacity_ah
    return Table(
        scenario=scenario,
        change=tuple(change.tolist()),
        battery_v=flows.battery_v[rows],
        alternator_a=alternator,
        taken_a=taken,
        battery_a=-given,
        floor_percent=100 * (1 - temperature_share("capacity_share", battery.chemistry, scenario.outside_c)),
        starts_from_percent=temperature_share("start_percent", battery.chemistry, scenario.outside_c),
    )
