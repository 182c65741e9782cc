"""How long a battery alone carries a scenario: hours until it no longer starts the engine, and until it is empty."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from percorso.load_budget.system import ChargingSystem
from percorso.load_budget.table import Table, tables
from percorso.vehicle.scenarios import Scenario

FINE = 400  # steps of charge over which the time is summed up


@dataclass(frozen=True)
class Endurance:
    """A scenario on the battery alone, from its present charge: h, None where it goes on for ever."""

    scenario_id: str
    starts_until_h: float | None
    empty_after_h: float | None


def endurances(system: ChargingSystem, scenarios: Sequence[Scenario]) -> tuple[Endurance, ...]:
    """How long the battery carries each scenario as if the alternator gave nothing; nothing without a battery."""
    battery = system.battery
    if battery is None or not scenarios:
        return ()
    known = tables(system, scenarios, alternator_fails=True)
    charge = battery.state_of_charge_percent
    return tuple(
        Endurance(
            each,
            hours_between(table, charge, table.starts_from_percent),
            hours_between(table, charge, table.floor_percent),
        )
        for each, table in known.items()
    )


def hours_between(table: Table, from_percent: float, to_percent: float) -> float | None:
    """Hours in which the charge falls so far, 0 where it lies below already, None where it never does."""
    if from_percent <= to_percent:
        return 0.0
    charges = np.linspace(from_percent, to_percent, FINE + 1)
    falls = -table.at(charges.tolist(), np.array(table.change))
    if (falls <= 0).any():
        return None
    return float(np.trapezoid(1 / falls, -charges))
