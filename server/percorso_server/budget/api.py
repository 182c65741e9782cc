"""HTTP API of the load budget: ledger, balances, a drive and advice; its file out, and in as edits."""

from dataclasses import asdict
from typing import Annotated, Any, Literal
from uuid import UUID

from django.http import HttpResponse
from ninja import Router
from pydantic import BaseModel, Field

from percorso.changes.edits import AddDevice, ChangeDevice
from percorso.findings.finding import Finding
from percorso.load_budget.advice import Advice
from percorso.load_budget.balance import Balance
from percorso.load_budget.budget import Budget, draw_up, drive_named
from percorso.load_budget.drive import Driven
from percorso.load_budget.endurance import Endurance
from percorso.load_budget.ledger import RATED_V_SHARE, Entry, Typical, typical_consumers
from percorso.load_budget.ledger_csv import MAX_BYTES, ledger_csv, ledger_edits, read_ledger_csv
from percorso.planning.apply import edited
from percorso.vehicle.devices import DeviceKind
from percorso.vehicle.loads import HowMeasured
from percorso.vehicle.model import Device, Fate, Origin, Stage, Vehicle
from percorso.vehicle.scenarios import PRESETS, STANDARD, Drive, Scenario, Spell
from percorso.vehicle.states import State
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.schemas import AS_CSV, Body, as_json, csv_answer
from percorso_server.network.edits_api import Edits, new_id
from percorso_server.network.solving import JobNetwork, asked_network
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["loads"])


class DeviceRow(BaseModel):
    """A device as stored."""

    id: str
    designation: str
    name: str
    origin: Origin
    fate: Fate
    version: int
    spec: DeviceKind


class SourceOut(DeviceRow):
    """The battery or the alternator; ``rpm`` is how fast an alternator turns idling and on the road."""

    rpm: dict[State, float]


class LoadOut(DeviceRow):
    """One line of the ledger, with the circuit that feeds it."""

    group: str
    drawn_v: float
    drawn_a: float
    measured_how: HowMeasured | None
    measured: bool
    differs_percent: float | None
    counted_in: list[State]
    circuit_id: str | None
    circuit: str | None
    design_current_a: float | None
    wired: bool


class ScenarioOut(BaseModel):
    """A scenario; ``version`` is 0 for a standard one."""

    scenario: Scenario
    version: int


class DriveOut(BaseModel):
    """A drive there is; ``version`` is 0 for a usual one."""

    id: str
    name: str
    spells: list[Spell]
    from_percent: float | None
    version: int


class BudgetOut(BaseModel):
    """The load budget of a stage, with the drive that was asked for; ``rated_v`` is what a new load is usually for."""

    stage: Stage
    loads: list[LoadOut]
    battery: SourceOut | None
    alternator: SourceOut | None
    balances: list[Balance]
    endurances: list[Endurance]
    advice: Advice
    driven: Driven | None
    findings: list[Finding]
    scenarios: list[ScenarioOut]
    drives: list[DriveOut]
    drive_id: str
    rated_v: float


def _drives(vehicle: Vehicle) -> list[Drive]:
    """The job's own drives by name, then the usual ones."""
    return [*sorted(vehicle.drives.values(), key=lambda each: each.name), *PRESETS.values()]


def _drive_id(vehicle: Vehicle, asked: str | None) -> str:
    return asked or _drives(vehicle)[0].id


def _row(network: JobNetwork, device: Device) -> dict[str, Any]:
    named = {name: getattr(device, name) for name in ("id", "designation", "name", "origin", "fate", "spec")}
    return named | {"version": network.versions.get(device.id, 0)}


def _load(network: JobNetwork, entry: Entry) -> LoadOut:
    circuit = network.vehicle.circuits.get(entry.circuit_id or "")
    return LoadOut(
        **_row(network, entry.device),
        group=entry.group,
        drawn_v=entry.load.drawn_v,
        drawn_a=entry.load.drawn_a,
        measured=entry.load.measured_a is not None,
        measured_how=entry.load.measured_how,
        differs_percent=entry.differs_percent,
        counted_in=list(entry.load.counted_in),
        circuit_id=entry.circuit_id,
        circuit=circuit.name if circuit else None,
        design_current_a=circuit.design_current_a if circuit else None,
        wired=bool(entry.device.terminals),
    )


def _source(network: JobNetwork, device: Device | None, rpm: dict[State, float]) -> SourceOut | None:
    return SourceOut(**_row(network, device), rpm=rpm) if device else None


def _out(network: JobNetwork, stage: Stage, drive_id: str, found: Budget) -> BudgetOut:
    vehicle = network.vehicle
    scenarios = [(each, network.versions.get(each.id, 0)) for each in (*vehicle.scenarios.values(), *STANDARD.values())]
    drives = [(each, network.versions.get(each.id, 0)) for each in _drives(vehicle)]
    return BudgetOut(
        stage=stage,
        loads=[_load(network, each) for each in found.entries],
        battery=_source(network, found.battery, {}),
        alternator=_source(network, found.alternator, {each.scenario.state: each.rpm for each in found.balances}),
        balances=list(found.balances),
        endurances=list(found.endurances),
        advice=found.advice,
        driven=found.driven,
        findings=list(found.findings),
        scenarios=[ScenarioOut(scenario=one, version=version) for one, version in scenarios],
        drives=[DriveOut(**asdict(one) | {"version": version}) for one, version in drives],
        drive_id=drive_id,
        rated_v=RATED_V_SHARE * vehicle.nominal_v,
    )


def _network(request: SignedInRequest, job_id: UUID) -> JobNetwork:
    job = asked_job(request, job_id)
    return asked_network(request, job)


@router.get("/jobs/{job_id}/budget", response=BudgetOut)
def read_budget(
    request: SignedInRequest, job_id: UUID, stage: Stage = "planned", drive: str | None = None
) -> HttpResponse:
    """The load budget of a job, with one of its drives; None: its own first one, or a usual one."""
    network = _network(request, job_id)
    drive_id = _drive_id(network.vehicle, drive)
    return as_json(_out(network, stage, drive_id, network.budget(stage, drive_named(network.vehicle, drive_id))))


class BudgetTrial(Body):
    """Edits that are tried on a budget."""

    edits: Edits
    stage: Stage = "planned"
    drive: str | None = None


@router.post("/jobs/{job_id}/budget/what-if", response=BudgetOut)
def try_budget(request: SignedInRequest, job_id: UUID, tried: BudgetTrial) -> HttpResponse:
    """The load budget with edits; nothing is written."""
    saved = _network(request, job_id)
    vehicle = edited(saved.vehicle, tried.edits, saved.rules, new_id)
    drive_id = _drive_id(vehicle, tried.drive)
    found = draw_up(vehicle, tried.stage, saved.rules, drive_named(vehicle, drive_id))
    return as_json(_out(saved.with_vehicle(vehicle), tried.stage, drive_id, found))


@router.get("/jobs/{job_id}/typical-consumers", response=list[Typical])
def read_typical(request: SignedInRequest, job_id: UUID) -> Any:
    """What many vehicles have, at this one's voltage: typical, measure yours."""
    return typical_consumers(_network(request, job_id).vehicle.nominal_v)


@router.get("/jobs/{job_id}/loads.csv", openapi_extra=AS_CSV)
def read_ledger(request: SignedInRequest, job_id: UUID, stage: Stage = "planned") -> HttpResponse:
    """The ledger as CSV."""
    job = asked_job(request, job_id)
    network = asked_network(request, job)
    text = ledger_csv(network.budget(stage, None).entries)
    return csv_answer(text, job.vehicle, "loads")


class LedgerFile(Body):
    """The text of a ledger file."""

    text: Annotated[str, Field(max_length=MAX_BYTES)]


class LedgerLineOut(BaseModel):
    """What one line of a ledger file will do."""

    line: int
    name: str
    drawn_a: float
    does: Literal["add", "change", "leave"]


class LedgerPreview(BaseModel):
    """What a ledger file will do line by line, and the edits that do it."""

    lines: list[LedgerLineOut]
    edits: list[AddDevice | ChangeDevice]
    seen: dict[str, int]


@router.post("/jobs/{job_id}/loads/preview", response=LedgerPreview)
def preview_ledger(request: SignedInRequest, job_id: UUID, file: LedgerFile) -> LedgerPreview:
    """Check a ledger file and say what each line will do; nothing is written."""
    network = _network(request, job_id)
    lines = read_ledger_csv(file.text, network.vehicle, new_id)
    edits = ledger_edits(lines)
    changed = [each.device_id for each in edits if isinstance(each, ChangeDevice)]
    return LedgerPreview(
        lines=[
            LedgerLineOut(line=each.line, name=each.device.name, drawn_a=each.load.drawn_a, does=each.does)
            for each in lines
        ],
        edits=edits,
        seen={each: network.versions[each] for each in changed},
    )
