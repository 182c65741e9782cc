"""HTTP API of the list of jobs. Every query starts from the signed-in person's shop."""

from datetime import datetime
from typing import Any
from uuid import UUID, uuid4

from ninja import Router, Schema
from pydantic import Field

from jobs import models
from jobs.opening import opened_once
from jobs.schemas import Body
from percorso.files.job_file import Nominal
from percorso.names import Name, Note
from workshop.signed_in import SignedInRequest

router = Router(tags=["jobs"])


class JobValues(Body):
    """What a person says of a job."""

    id: UUID = Field(default_factory=uuid4)
    name: Name
    vehicle: Name
    wish: Note = ""
    nominal_v: Nominal = 12


class JobOut(Schema):
    """A job as stored."""

    id: UUID
    name: str
    vehicle: str
    wish: str
    nominal_v: int
    zone_temperature_c: dict[str, float]
    archived: bool
    version: int
    changed_at: datetime


@router.get("/jobs", response=list[JobOut])
def list_jobs(request: SignedInRequest, archived: bool = False) -> Any:
    """The shop's jobs, the last changed first."""
    return models.Job.objects.filter(shop=request.user.shop, archived=archived).order_by("-changed_at")


@router.post("/jobs", response=JobOut)
def create_job(request: SignedInRequest, values: JobValues) -> Any:
    """Open a new job. Sent twice with the same id it is opened once."""
    shop = request.user.shop
    return opened_once(shop, values.id, lambda: models.Job.objects.create(shop=shop, **values.model_dump()))
