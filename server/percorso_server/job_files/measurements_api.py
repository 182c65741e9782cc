"""HTTP API of measurements as a CSV file: out, and in after every line was looked at."""

from dataclasses import fields
from typing import Literal
from uuid import UUID, uuid4

from django.db import transaction
from django.http import HttpResponse
from ninja import Router
from pydantic import BaseModel, Field

from percorso.errors import PercorsoError
from percorso.files.job_file import FileReading
from percorso.files.measurements_csv import FORM, MeasurementLine, measurements_csv, read_measurements_csv
from percorso.vehicle.ids import Ids, with_ids
from percorso.vehicle.model import Vehicle
from percorso.verification.measured.instruments import UNITS
from percorso.verification.measured.measurements import places
from percorso_server.job_files.rows import file_readings, write_readings
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.models import Job
from percorso_server.jobs.schemas import AS_CSV, Body, csv_answer
from percorso_server.network.reading import StoredNetwork, network_of
from percorso_server.verification.models import Reading
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["measurements"])


class MeasurementsFile(Body):
    """The text of a file of measurements."""

    text: str = Field(max_length=FORM.most_bytes)


class LineOut(BaseModel):
    """What one line of a file is, and what becomes of it."""

    line: int
    name: str
    said: str
    does: Literal["add", "leave"]


@router.get("/jobs/{job_id}/measurements.csv", openapi_extra=AS_CSV)
def read_measurements(request: SignedInRequest, job_id: UUID) -> HttpResponse:
    """Every measurement of a job as CSV, in SI units."""
    job = asked_job(request, job_id)
    stored = network_of(job)
    ids = stored.ids_in_files
    text = measurements_csv(file_readings(job, ids), with_ids(stored.vehicle, ids))
    return csv_answer(text, job.vehicle, "measurements")


@router.post("/jobs/{job_id}/measurements/preview", response=list[LineOut])
def preview_measurements(request: SignedInRequest, job_id: UUID, file: MeasurementsFile) -> list[LineOut]:
    """Check a file of measurements and say what each line will do; nothing is written."""
    job = asked_job(request, job_id)
    stored = network_of(job)
    return _lines_out(_lines(job, stored, file.text), stored)


@router.post("/jobs/{job_id}/measurements", response=list[LineOut])
def write_measurements(request: SignedInRequest, job_id: UUID, file: MeasurementsFile) -> list[LineOut]:
    """Write what a file adds: all of it, or nothing. What the job has already stays as it is."""
    job = asked_job(request, job_id)
    with transaction.atomic():
        Job.objects.select_for_update().get(pk=job.pk)
        stored = network_of(job)
        lines = _lines(job, stored, file.text)
        new = [each.reading for each in lines if each.does == "add"]
        write_readings(new, job, request.user, _rows_by_file_id(stored))
    return _lines_out(lines, stored)


def _lines(job: Job, stored: StoredNetwork, text: str) -> tuple[MeasurementLine, ...]:
    """The lines of a file. Raises JobFileError, and PercorsoError where one supersedes what is superseded already."""
    known = dict(Reading.objects.filter(job=job).values_list("file_id", "superseded_by"))
    vehicle = with_ids(stored.vehicle, stored.ids_in_files)
    lines = read_measurements_csv(text, vehicle, known, lambda: str(uuid4()))
    for each in lines:
        if each.does == "add" and known.get(each.reading.supersedes or "") is not None:
            raise PercorsoError(f"line {each.line}: that reading was superseded already", field=("text",))
    return lines


def _rows_by_file_id(stored: StoredNetwork) -> Ids:
    rows = {file_id: row_id for row_id, file_id in stored.file_ids.items()}
    return Ids(*(rows for _ in fields(Ids)))


def _lines_out(lines: tuple[MeasurementLine, ...], stored: StoredNetwork) -> list[LineOut]:
    vehicle = with_ids(stored.vehicle, stored.ids_in_files)
    return [
        LineOut(line=each.line, name=_name(vehicle, each.reading), said=_reading_text(each.reading), does=each.does)
        for each in lines
    ]


def _name(vehicle: Vehicle, reading: FileReading) -> str:
    return f"{reading.quantity} {' → '.join(places(vehicle, reading))}"


def _reading_text(reading: FileReading) -> str:
    return reading.outcome or f"{reading.value:g} {UNITS[reading.quantity]}"
