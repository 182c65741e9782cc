"""Stored networks under study: what a screen asks for, computed once and kept until the job changes."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Annotated
from uuid import UUID

from ninja import Query, Schema
from pydantic import Field

from percorso.circuits.voltage_profile import NotLive, Profile
from percorso.errors import StateError
from percorso.house_rules import HouseRules
from percorso.kept import BoundedCache
from percorso.study import SolvedStage, Study
from percorso.tracing.trace import Tracer
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.states import State
from percorso.verification.measured.preparations import Preparation, preparation
from percorso_server.jobs.models import Job
from percorso_server.network.reading import StoredNetwork, network_of
from percorso_server.workshop.signed_in import SignedInRequest
from percorso_server.workshop.turns import LET_GO

MOST_JOBS = 32  # that are kept: each is some ten megabytes once everything but a trace was asked of it
MOST_TRACED = 4  # of them of which it is kept what traces them: forty to some hundred megabytes each, see docs/scale.md


class Viewed(Schema):
    """Which of a job's networks is looked at, in which state; ``inputs`` are written as ``oil_pressure=on``.

    ``preparations`` are done to the metal for a test, and never part of the plan: ``pull F3``.
    """

    state: State = "idle"
    stage: Stage = "planned"
    inputs: Annotated[list[str], Field(max_length=100)] = []
    preparations: Annotated[list[Annotated[str, Field(max_length=200)]], Field(max_length=10)] = []

    def chosen(self) -> dict[str, str]:
        """Position of each input that was set by hand. Raises StateError for text that is not one."""
        pairs = [text.partition("=") for text in self.inputs]
        wrong = [name for name, equals, position in pairs if not (equals and position)]
        if wrong:
            raise StateError(f'"{wrong[0]}" is not an input with its position', field=("inputs",))
        return {name: position for name, _, position in pairs}

    def prepared(self) -> tuple[Preparation, ...]:
        """What is done to the metal, in its order. Raises PreparationError."""
        return tuple(map(preparation, self.preparations))


View = Query[Viewed]


class JobNetwork(Study):
    """A stored network under study, with the versions of its rows."""

    most_situations = 5_000  # a request takes some seconds at most

    def __init__(self, stored: StoredNetwork, rules: HouseRules, before: "JobNetwork | None" = None) -> None:
        super().__init__(stored.vehicle, rules, before)
        self.stored = stored

    @property
    def versions(self) -> Mapping[str, int]:
        """The version of each row by id."""
        return self.stored.versions

    def with_vehicle(self, vehicle: Vehicle) -> "JobNetwork":
        """The same job with another vehicle, to try it."""
        return JobNetwork(replace(self.stored, vehicle=vehicle), self.rules, self)

    def seen(self, view: Viewed) -> SolvedStage | None:
        """The state that is looked at; None while the job has no point. Raises StateError for an unknown input."""
        return self.solved(view.state, view.stage, view.chosen(), view.prepared())

    def runs(self, circuit_id: str, view: Viewed) -> Profile | NotLive:
        """A circuit as it runs in the state that is looked at, or why it does not. Raises StateError."""
        return self.live(circuit_id, view.state, view.stage, view.chosen(), view.prepared())


def network_for_reading(job: Job, rules: HouseRules) -> JobNetwork:
    """The network of a job under its shop's rules; the last ones are kept until their job changes.

    Every change of a network commits together with its job's ``changed_at``, and both are read in one snapshot: who
    sees the new time sees the new rows.
    """
    return _network_at(_Moment(job, job.changed_at, rules))


def asked_network(request: SignedInRequest, job: Job) -> JobNetwork:
    """The network of a job under the house rules of who asks."""
    return network_for_reading(job, request.user.shop.house_rules)


def keep_for_reading(job: Job, stored: StoredNetwork, rules: HouseRules) -> None:
    """Keep a network that was just written, so that who looks at it next need not read it."""
    _network_at(_Moment(job, stored.changed_at, rules, stored))


def tracer_of(job: Job, network: JobNetwork, stage: Stage) -> Tracer:
    """What traces faults at a stage of a job, kept for the jobs that were traced last. Raises TraceError."""
    _TRACED.keep(job.pk, True)
    for each, (_, other) in list(_KEPT.items()):  # a copy: other threads keep theirs meanwhile
        if each not in _TRACED:
            other.forget_tracers()
    return network.tracer(stage)


@dataclass(frozen=True)
class _Moment:
    """A job as it was since its last change; ``stored`` where that is known without reading it."""

    job: Job
    changed_at: datetime
    rules: HouseRules
    stored: StoredNetwork | None = field(default=None, compare=False)


_KEPT = BoundedCache[UUID, tuple[_Moment, JobNetwork]](MOST_JOBS)  # of each job the network as it was last
_TRACED = BoundedCache[UUID, bool](MOST_TRACED)  # the jobs that were traced last


LET_GO.append(_KEPT.clear)


def _network_at(moment: _Moment) -> JobNetwork:
    known, network = _KEPT.get(moment.job.pk, (None, None))
    if network is None or known != moment:
        before = network if network and network.rules == moment.rules else None
        network = JobNetwork(moment.stored or network_of(moment.job), moment.rules, before)
        _KEPT.keep(moment.job.pk, (moment, network))
    return network
