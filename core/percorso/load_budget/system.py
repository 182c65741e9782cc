"""A stage's charging system, ready to be operated: what runs in a scenario, and what the sources can do in it."""

from collections.abc import Mapping, Sequence

import numpy as np

from percorso.components.stiffness import stiffness
from percorso.load_budget.distribution import distribution
from percorso.load_budget.operation import Conditions, Operating
from percorso.load_budget.sources import Budgeted
from percorso.network.branches import battery_law_of, usual_acceptance_a, usual_resistance_ohm
from percorso.network.modes import TURNING
from percorso.vehicle.alternators import output_limit_a, setpoint_v
from percorso.vehicle.devices import Alternator, Battery, Starter
from percorso.vehicle.scenarios import Scenario
from percorso.vehicle.states import ENGINE, Engine

BAY_RISE_K: Mapping[Engine, float] = {"idle": 45.0, "road": 30.0}  # at the alternator over outside, from memory
NO_BATTERY_OHM = 1e6  # in place of a battery that is not there: it neither gives nor takes


class ChargingSystem:
    """Battery, alternator and consumers of a stage on their wiring, which is solved once."""

    def __init__(self, budget: Budgeted) -> None:
        self.budget = budget
        self.nominal_v = budget.wired.nominal_v
        self.wiring = distribution(budget)
        self.operating = Operating(self.wiring)

    @property
    def battery(self) -> Battery | None:
        """The battery's values."""
        spec = self.budget.battery.spec if self.budget.battery else None
        return spec if isinstance(spec, Battery) else None

    @property
    def alternator(self) -> Alternator | None:
        """The alternator's values."""
        spec = self.budget.alternator.spec if self.budget.alternator else None
        return spec if isinstance(spec, Alternator) else None

    def capability_a(self, scenario: Scenario) -> float:
        """The most the alternator gives in a scenario, A; 0 while the engine does not run."""
        engine, spec = ENGINE[scenario.state], self.alternator
        if spec is None or engine not in TURNING:
            return 0.0
        return output_limit_a(spec, spec.rpm(engine), alternator_c(scenario))

    def conditions(self, runs: Sequence[tuple[Scenario, float]], *, alternator_fails: bool = False) -> Conditions:
        """What is on and what the sources can do, for pairs of a scenario and the battery's charge, %.

        ``alternator_fails``: as if it gave nothing.
        """
        rest, gives, takes = zip(*(self._battery(*each) for each in runs), strict=True)
        regulates = [
            setpoint_v(self.alternator, alternator_c(scenario)) if self.alternator else self.nominal_v
            for scenario, _ in runs
        ]
        limits = [0.0 if alternator_fails else self.capability_a(scenario) for scenario, _ in runs]
        once = {id(scenario): scenario for scenario, _ in runs}
        shares = {key: self._shares(scenario) for key, scenario in once.items()}
        return Conditions(
            share=np.array([shares[id(scenario)] for scenario, _ in runs]).reshape(len(runs), len(self.wiring.ports)),
            rest_v=np.array(rest),
            gives_ohm=np.array(gives),
            takes_ohm=np.array(takes),
            setpoint_v=np.array(regulates),
            limit_a=np.array(limits),
        )

    def _shares(self, scenario: Scenario) -> list[float]:
        shares = [self.budget.load(each).duty(scenario, each.id) for each in self.budget.consumers]
        return [*shares, self._cranked(scenario)] if self.budget.starter else shares

    def _cranked(self, scenario: Scenario) -> float:
        """A starter's current as a share of that at its running point: an engine is as stiff as it is cold."""
        spec = self.budget.starter.spec if self.budget.starter else None
        if not isinstance(spec, Starter) or scenario.state != "cranking":
            return 0.0
        return stiffness(spec.engine, scenario.outside_c)

    def _battery(self, scenario: Scenario, charge_percent: float) -> tuple[float, float, float]:
        """Rest voltage, V, and its resistance giving and taking, Ω; it is as cold as it is outside."""
        if self.battery is None:
            return self.nominal_v, NO_BATTERY_OHM, NO_BATTERY_OHM
        now = self.battery.model_copy(
            update={"state_of_charge_percent": charge_percent, "temperature_c": scenario.outside_c}
        )
        rest, gives_s, takes_s = battery_law_of(
            _as_measured(self.battery, now, self.nominal_v), self.nominal_v
        ).parameters
        return rest, 1 / gives_s, 1 / takes_s


def _as_measured(measured: Battery, now: Battery, nominal_v: float) -> Battery:
    """A battery under other conditions than it was measured in: as much better or worse as is usual for them."""
    update: dict[str, float | None] = {}
    if measured.resistance_ohm is not None:
        usual, then = (usual_resistance_ohm(each, nominal_v) for each in (now, measured))
        update["resistance_ohm"] = measured.resistance_ohm * usual / then
    if measured.charge_a is not None:
        usual, then = (usual_acceptance_a(each) for each in (now, measured))
        update["charge_a"] = measured.charge_a * usual / then if then > 0 else None
    return now.model_copy(update=update)


def alternator_c(scenario: Scenario) -> float:
    """How warm an alternator runs in a scenario, °C."""
    return scenario.outside_c + BAY_RISE_K.get(ENGINE[scenario.state], 0.0)
