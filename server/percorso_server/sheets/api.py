"""HTTP API of the sheets a harness is built from: on screen, and each as CSV."""

from collections.abc import Sequence
from typing import Any
from uuid import UUID

from django.http import HttpResponse
from ninja import Router
from pydantic import BaseModel

from percorso.circuits.worst_currents import Flows
from percorso.sheets.job_sheets import SHEETS, Rows, SheetName, sheets
from percorso.sheets.sheet import Sheet
from percorso.spreadsheet import csv_text
from percorso.states.words import pulled_text
from percorso_server.jobs import models
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.schemas import AS_CSV, csv_answer
from percorso_server.network.solving import JobNetwork, asked_network
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["sheets"])


class HeadOut(BaseModel):
    """The head of a column; figures are set to the right."""

    head: str
    is_figure: bool


class CellOut(BaseModel):
    """What stands in a cell, and smaller below it."""

    text: str
    below: str


class SheetOut(BaseModel):
    """A sheet as it stands on a page; ``empty`` is said where it has no rows."""

    name: SheetName
    title: str
    empty: str
    heads: list[HeadOut]
    rows: list[list[CellOut]]


def _network(request: SignedInRequest, job_id: UUID) -> tuple[models.Job, JobNetwork]:
    job = asked_job(request, job_id)
    return job, asked_network(request, job)


def _rows(network: JobNetwork) -> Rows:
    if not network.vehicle.points:
        return sheets(network.vehicle, Flows({}, {}, {}), {}, network.rules)
    vehicle = network.at("planned").vehicle
    when_pulled = {each.part: pulled_text(vehicle, each) for each in network.pulled("planned", {})}
    return sheets(network.vehicle, network.plan("planned").worst, when_pulled, network.rules)


@router.get("/jobs/{job_id}/sheets", response=list[SheetOut])
def read_sheets(request: SignedInRequest, job_id: UUID) -> list[SheetOut]:
    """Every sheet of a job, in the order of the pages."""
    _, network = _network(request, job_id)
    rows = _rows(network)
    return [_out(each, rows[each.name]) for each in SHEETS]


def _out(sheet: Sheet[Any], rows: Sequence[Any]) -> SheetOut:
    cells = [
        [CellOut(text=each.cell(row), below=each.below(row) if each.below else "") for each in sheet.columns]
        for row in rows
    ]
    heads = [HeadOut(head=each.head, is_figure=each.is_figure) for each in sheet.columns]
    return SheetOut.model_validate(
        {"name": sheet.name, "title": sheet.title, "empty": sheet.empty, "heads": heads, "rows": cells}
    )


@router.get("/jobs/{job_id}/sheets/{name}.csv", openapi_extra=AS_CSV)
def read_csv(request: SignedInRequest, job_id: UUID, name: SheetName) -> HttpResponse:
    """One sheet as CSV."""
    job, network = _network(request, job_id)
    kind = next(each.row for each in SHEETS if each.name == name)
    return csv_answer(csv_text(_rows(network)[name], kind), job.vehicle, name)
