"""Demand against capability: what consumers ask in a scenario, what the alternator makes, and what voltage is left."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from percorso.circuits.verdict import VerdictWord
from percorso.house_rules import HouseRules
from percorso.load_budget.operation import OperatingPoint
from percorso.load_budget.system import ChargingSystem
from percorso.network.modes import TURNING
from percorso.vehicle.loads import PRIORITIES, Priority
from percorso.vehicle.scenarios import Scenario
from percorso.vehicle.states import ENGINE

BalanceRegulation = Literal["holds its voltage", "at its limit", "still"]


@dataclass(frozen=True)
class Drawn:
    """What one consumer draws on average in a scenario, A, and the voltage at its terminals, V."""

    device_id: str
    current_a: float
    voltage_v: float


@dataclass(frozen=True)
class Balance:
    """One scenario: currents in A, voltages in V.

    ``demand_a`` is what consumers draw while the regulator holds its voltage; ``margin_a`` what the alternator makes
    beyond it, negative where the battery pays. ``need_a`` is the demand with the house's reserve for charging. The rest
    is what really flows: ``battery_a`` into the battery, negative while it gives.
    """

    scenario: Scenario
    rpm: float
    demand_a: float
    by_priority: Mapping[Priority, float]
    capability_a: float
    margin_a: float
    need_a: float
    alternator_a: float
    battery_a: float
    battery_v: float
    alternator_v: float
    regulation: BalanceRegulation
    settled: bool
    drawn: tuple[Drawn, ...]
    verdict: VerdictWord  # unknown where no alternator turns; over where no voltage holds at all


def balances(system: ChargingSystem, scenarios: Sequence[Scenario], rules: HouseRules) -> tuple[Balance, ...]:
    """The balance of each scenario at the battery's present charge."""
    if not scenarios:
        return ()
    charge = system.battery.state_of_charge_percent if system.battery else 100.0
    actual, asked = system.operating.solve(system.conditions([(each, charge) for each in scenarios]))
    return tuple(
        _balance(system, scenario, actual.one(place), asked.one(place), rules)
        for place, scenario in enumerate(scenarios)
    )


def _balance(
    system: ChargingSystem, scenario: Scenario, flows: OperatingPoint, asked: OperatingPoint, rules: HouseRules
) -> Balance:
    consumers = system.budget.consumers
    by_priority = dict.fromkeys(PRIORITIES, 0.0)
    for device, current in zip(consumers, asked.port_a, strict=False):
        by_priority[system.budget.load(device).priority] += current
    demand, capability = sum(by_priority.values()), system.capability_a(scenario)
    need = demand * (1 + rules.charging_reserve_fraction)
    ports = zip(consumers, flows.port_a, flows.port_v, strict=False)
    turns = system.alternator is not None and ENGINE[scenario.state] in TURNING
    return Balance(
        scenario=scenario,
        rpm=system.alternator.rpm(ENGINE[scenario.state]) if system.alternator else 0.0,
        demand_a=demand,
        by_priority=by_priority,
        capability_a=capability,
        margin_a=capability - demand,
        need_a=need,
        alternator_a=flows.alternator_a,
        battery_a=-flows.battery_a,
        battery_v=flows.battery_v,
        alternator_v=flows.alternator_v,
        regulation="holds its voltage" if flows.regulated else "at its limit" if capability > 0 else "still",
        settled=flows.settled,
        drawn=tuple(Drawn(device.id, current, voltage) for device, current, voltage in ports),
        verdict=_verdict(capability if turns else None, demand, need) if flows.settled else "fail",
    )


def _verdict(capability: float | None, demand: float, need: float) -> VerdictWord:
    """Within with the house's reserve for charging, close without it, over where the battery pays."""
    if capability is None:
        return "unknown"
    return "pass" if capability >= need else "marginal" if capability >= demand else "fail"
