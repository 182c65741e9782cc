"""HTTP API of the sheets a harness is built from: on screen, and each as CSV."""

from dataclasses import fields
from typing import Literal, get_args
from uuid import UUID

from django.http import HttpResponse
from ninja import Router
from pydantic import BaseModel

from percorso.circuits.worst_currents import Flows
from percorso.sheets.fuses import FuseRow
from percorso.sheets.job_sheets import Sheets, sheets
from percorso.sheets.labels import LabelRow
from percorso.sheets.relays import RelayRow
from percorso.sheets.shopping import CutRow, ShoppingRow
from percorso.sheets.wires import WireRow
from percorso.spreadsheet import csv_text
from percorso.states.words import said_pulled
from percorso_server.jobs import models
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.schemas import AS_CSV, as_json, csv_answer
from percorso_server.network.solving import JobNetwork, asked_network
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["sheets"])
SheetName = Literal["wires", "cuts", "shopping", "fuses", "relays", "labels"]


class SheetsOut(BaseModel):
    """Every sheet of a job."""

    wires: list[WireRow]
    cuts: list[CutRow]
    shopping: list[ShoppingRow]
    fuses: list[FuseRow]
    relays: list[RelayRow]
    labels: list[LabelRow]


def _network(request: SignedInRequest, job_id: UUID) -> tuple[models.Job, JobNetwork]:
    job = asked_job(request, job_id)
    return job, asked_network(request, job)


def _sheets(network: JobNetwork) -> Sheets:
    if not network.vehicle.points:
        return sheets(network.vehicle, Flows({}, {}, {}), {}, network.rules)
    vehicle = network.at("planned").vehicle
    when_pulled = {each.part: said_pulled(vehicle, each) for each in network.pulled("planned", {})}
    return sheets(network.vehicle, network.plan("planned").worst, when_pulled, network.rules)


@router.get("/jobs/{job_id}/sheets", response=SheetsOut)
def read_sheets(request: SignedInRequest, job_id: UUID) -> HttpResponse:
    """Every sheet of a job."""
    _, network = _network(request, job_id)
    made = _sheets(network)
    return as_json(SheetsOut(**{each.name: list(getattr(made, each.name)) for each in fields(made)}))


@router.get("/jobs/{job_id}/sheets/{name}.csv", openapi_extra=AS_CSV)
def read_csv(request: SignedInRequest, job_id: UUID, name: SheetName) -> HttpResponse:
    """One sheet as CSV."""
    job, network = _network(request, job_id)
    kind = get_args(SheetsOut.model_fields[name].annotation)[0]
    text = csv_text(getattr(_sheets(network), name), kind)
    return csv_answer(text, job.vehicle, name)
