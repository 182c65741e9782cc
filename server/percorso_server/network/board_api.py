"""HTTP API of one job: its line board, what the rules notice of it, its particulars, and a copy of it."""

from typing import Any
from uuid import UUID

from django.db import transaction
from ninja import Router
from pydantic import BaseModel

from percorso.files.job_file import ZoneTemperatures
from percorso.findings.finding import Finding
from percorso.house_rules import HouseRules
from percorso.names import Name, Note
from percorso.targets import FAMILIES, PURPOSES, SENSITIVE, Family, Purpose, TargetKind, family_of
from percorso.vehicle.model import Stage, default_source_v, default_state, in_order
from percorso.vehicle.stages import is_changed
from percorso.vehicle.states import State, positions
from percorso_server.jobs.api import JobOut, JobValues
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.opening import opened_once
from percorso_server.jobs.schemas import Body
from percorso_server.jobs.searching import index_job
from percorso_server.network.circuit_view import BoardLine, board_lines
from percorso_server.network.copying import copy_job
from percorso_server.network.rows_out import (
    DeviceOut,
    InputOut,
    PointOut,
    SegmentOut,
    device_out,
    inputs_out,
    points_out,
    segment_out,
)
from percorso_server.network.solving import JobNetwork, View, Viewed, asked_network
from percorso_server.workshop.signed_in import SignedInRequest
from percorso_server.workshop.stale import StaleError

router = Router(tags=["jobs"])


class JobChange(Body):
    """Values of a job to change, and the version that was seen."""

    version: int
    name: Name | None = None
    vehicle: Name | None = None
    wish: Note | None = None
    archived: bool | None = None
    zone_temperature_c: ZoneTemperatures | None = None


class FamilyDefaults(BaseModel):
    """What a new circuit of a purpose starts with; ``load_kinds`` are those it is for, none: for all the rest."""

    purpose: Purpose
    family: Family
    load_kinds: list[str]
    state: State
    target_kind: TargetKind
    target_value: float
    source_v: float


class Moment(BaseModel):
    """The state a board shows: whether anything feeds it, whether it settles, and what the rules notice of it.

    ``changed`` says whether as planned differs from as found at all.
    """

    state: State
    stage: Stage
    is_fed: bool
    changed: bool
    settled: bool
    inputs: list[InputOut]
    findings: list[Finding]


class Board(BaseModel):
    """A job's front page: every circuit, and the whole network in the state looked at."""

    job: JobOut
    lines: list[BoardLine]
    moment: Moment
    points: list[PointOut]
    devices: list[DeviceOut]
    segments: list[SegmentOut]
    defaults: list[FamilyDefaults]


@router.get("/jobs/{job_id}/plan-findings", response=list[Finding])
def read_plan_findings(request: SignedInRequest, job_id: UUID, stage: Stage = "planned") -> list[Finding]:
    """What the rules notice of a job before anything is switched on, the gravest first."""
    job = asked_job(request, job_id)
    return list(asked_network(request, job).plan_findings(stage))


@router.get("/jobs/{job_id}", response=Board)
def read_board(request: SignedInRequest, job_id: UUID, view: View) -> Board:
    """The line board of a job, in the state and at the stage looked at."""
    job = asked_job(request, job_id)
    network = asked_network(request, job)
    vehicle, solved = network.vehicle, network.seen(view)
    circuits = sorted(vehicle.circuits.values(), key=lambda each: (FAMILIES.index(each.family), each.name))
    return Board(
        job=JobOut.from_orm(job),
        lines=board_lines(network, circuits, view),
        moment=_moment(network, view),
        points=points_out(network, solved),
        devices=[device_out(network, each, solved) for each in in_order(vehicle.devices.values())],
        segments=[segment_out(network, each, solved) for each in in_order(vehicle.segments.values())],
        defaults=[_defaults(purpose, job.nominal_v, network.rules) for purpose in PURPOSES],
    )


def _moment(network: JobNetwork, view: Viewed) -> Moment:
    solved = network.seen(view)
    is_fed = solved is not None and solved.is_fed
    return Moment(
        state=view.state,
        stage=view.stage,
        is_fed=is_fed,
        changed=is_changed(network.vehicle),
        settled=solved is None or not solved.solution.unsettled,
        inputs=inputs_out(network, positions(network.vehicle.inputs, view.state, view.chosen())),
        findings=list(network.state_findings(view.state, view.stage, view.chosen())),
    )


def _defaults(purpose: Purpose, nominal_v: float, rules: HouseRules) -> FamilyDefaults:
    target, source_v = rules.target(purpose), default_source_v(family_of(purpose), nominal_v)
    return FamilyDefaults(
        purpose=purpose,
        family=family_of(purpose),
        load_kinds=list(SENSITIVE) if purpose != family_of(purpose) else [],
        state=default_state(family_of(purpose)),
        target_kind=target.kind,
        target_value=target.value,
        source_v=source_v,
    )


@router.post("/jobs/{job_id}/duplicate", response=JobOut)
def duplicate_job(request: SignedInRequest, job_id: UUID, new: JobValues) -> Any:
    """Copy a job with its network, without its readings: they belong to the metal they were taken on."""
    job = asked_job(request, job_id)
    return opened_once(request.user.shop, new.id, lambda: copy_job(job, new.id, new.name))


@router.patch("/jobs/{job_id}", response=JobOut)
def change_job(request: SignedInRequest, job_id: UUID, change: JobChange) -> Any:
    """Rename, archive, take out of the archive, or change a job's particulars."""
    with transaction.atomic():
        job = asked_job(request, job_id, to_change=True)
        wanted = change.model_dump(exclude={"version"}, exclude_none=True)
        if job.version != change.version:
            if all(_is_so(getattr(job, name), value) for name, value in wanted.items()):
                return job  # the same change came twice
            raise StaleError("this job", str(job.pk), JobOut.from_orm(job).model_dump(mode="json"))
        for name, value in wanted.items():
            setattr(job, name, {**job.zone_temperature_c, **value} if name == "zone_temperature_c" else value)
        job.version += 1
        job.save()
        index_job(job)
    return job


def _is_so(stored: Any, wanted: Any) -> bool:
    """Whether a value is as it is wanted; of temperatures by zone those that are said."""
    if isinstance(wanted, dict):
        return bool({**stored, **wanted} == stored)
    return bool(stored == wanted)
