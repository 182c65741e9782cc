"""Solved states of stored networks: what a screen asks for, computed once and kept until the job changes."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property, lru_cache
from typing import Annotated

from ninja import Query, Schema
from pydantic import Field

from jobs.assembly import StoredNetwork, network_of
from jobs.models import Job
from percorso.circuits.design_case import Planned, planned
from percorso.errors import StateError
from percorso.findings.finding import Finding, gravest_first
from percorso.findings.operating_state import behaviour
from percorso.findings.plan import plan_findings
from percorso.house_rules import HouseRules
from percorso.load_budget.budget import Budget, draw_up
from percorso.load_budget.ledger import ledger_findings
from percorso.load_budget.sources import budgeted
from percorso.network.branches import has_source
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.scenarios import Drive
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import State


class Viewed(Schema):
    """Which of a job's networks is looked at, in which state; ``inputs`` are written as ``oil_pressure=on``."""

    state: State = "idle"
    stage: Stage = "planned"
    inputs: Annotated[list[str], Field(max_length=100)] = []

    def chosen(self) -> dict[str, str]:
        """Position of each input that was set by hand. Raises StateError for text that is not one."""
        pairs = [text.partition("=") for text in self.inputs]
        wrong = [name for name, equals, position in pairs if not (equals and position)]
        if wrong:
            raise StateError(f'"{wrong[0]}" is not an input with its position', field=("inputs",))
        return {name: position for name, _, position in pairs}


View = Query[Viewed]


@dataclass(frozen=True)
class Solved:
    """A stage of a vehicle, solved in one state; without any source there is nothing to solve."""

    network: Network
    solution: Solution
    rules: HouseRules

    @property
    def vehicle(self) -> Vehicle:
        """The vehicle at this stage."""
        return self.network.vehicle

    @property
    def is_fed(self) -> bool:
        """Whether anything feeds this network."""
        return has_source(self.vehicle)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What the rules notice in this state."""
        return behaviour(self.network, self.solution, self.rules)


class JobNetwork:
    """A stored network with its stages and solved states, each computed when first asked for."""

    def __init__(self, stored: StoredNetwork, rules: HouseRules) -> None:
        self.stored, self.rules = stored, rules
        self._networks: dict[Stage, Network] = {}
        self._plans: dict[Stage, Planned] = {}
        self._noticed: dict[Stage, tuple[Finding, ...]] = {}
        self._solved: dict[tuple[str, ...], Solved] = {}
        self._budgets: dict[tuple[Stage, str | None], Budget] = {}

    @property
    def vehicle(self) -> Vehicle:
        """Everything of the job, found and planned together."""
        return self.stored.vehicle

    @property
    def versions(self) -> Mapping[str, int]:
        """The version of each row by id."""
        return self.stored.versions

    def at(self, stage: Stage) -> Network:
        """The network of one stage. The vehicle needs a point."""
        if stage not in self._networks:
            self._networks[stage] = Network(vehicle_at(self.vehicle, stage))
        return self._networks[stage]

    def plan(self, stage: Stage) -> Planned:
        """A stage in every state and each of its circuits at design current. The vehicle needs a point."""
        if stage not in self._plans:
            self._plans[stage] = planned(self.at(stage), self.rules)
        return self._plans[stage]

    def plan_findings(self, stage: Stage) -> tuple[Finding, ...]:
        """What the rules notice of a stage before anything is switched on, of its routes and of its load ledger."""
        if stage not in self._noticed:
            of_routes = plan_findings(self.plan(stage)) if self.vehicle.points else ()
            self._noticed[stage] = gravest_first((*of_routes, *ledger_findings(budgeted(self.vehicle, stage))))
        return self._noticed[stage]

    def budget(self, stage: Stage, drive: Drive | None) -> Budget:
        """The load budget of a stage, with a drive or without."""
        key = stage, drive.id if drive else None
        if key not in self._budgets:
            self._budgets[key] = draw_up(self.vehicle, stage, self.rules, drive)
        return self._budgets[key]

    def with_vehicle(self, vehicle: Vehicle) -> "JobNetwork":
        """The same job with another vehicle, to try it."""
        return JobNetwork(replace(self.stored, vehicle=vehicle), self.rules)

    def solved(self, view: Viewed) -> Solved | None:
        """The state that is looked at; None while the job has no point. Raises StateError for an unknown input."""
        if not self.vehicle.points:
            return None
        key = (view.stage, view.state, *sorted(view.inputs))
        if key not in self._solved:
            network = self.at(view.stage)
            self._solved[key] = Solved(network, network.solve(view.state, view.chosen()), self.rules)
        return self._solved[key]


def network_for_reading(job: Job, rules: HouseRules) -> JobNetwork:
    """The network of a job under its shop's rules; those read last are kept until their job changes.

    Every change of a network commits together with its job's ``changed_at``, and both are read in one snapshot: who
    sees the new time sees the new rows.
    """
    return _network_at(job, job.changed_at, rules)


@lru_cache(maxsize=32)
def _network_at(job: Job, changed_at: datetime, rules: HouseRules) -> JobNetwork:
    return JobNetwork(network_of(job), rules)
