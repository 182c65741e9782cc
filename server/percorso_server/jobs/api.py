"""HTTP API of the list of jobs. Every query starts from the signed-in person's shop."""

from datetime import datetime
from typing import Annotated, Any
from uuid import UUID, uuid4

from ninja import Query, Router, Schema
from pydantic import Field

from percorso.files.job_file import Nominal
from percorso.names import Name, Note
from percorso_server.jobs import models
from percorso_server.jobs.opening import opened_once
from percorso_server.jobs.schemas import Body
from percorso_server.jobs.searching import found_by, index_job
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["jobs"])
PAGE = 50


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


class JobsAsked(Schema):
    """Which jobs are listed: those with words that begin like the words of ``search``, a page at a time."""

    archived: bool = False
    nominal_v: Annotated[int, Field(ge=1, le=100)] | None = None
    search: Annotated[str, Field(max_length=100)] = ""
    page: Annotated[int, Field(ge=1, le=10_000)] = 1


@router.get("/jobs", response=list[JobOut])
def list_jobs(request: SignedInRequest, asked: Query[JobsAsked]) -> Any:
    """The shop's jobs, the last changed first. A page that is not full is the last one."""
    jobs = models.Job.objects.filter(shop=request.user.shop, archived=asked.archived)
    if asked.nominal_v is not None:
        jobs = jobs.filter(nominal_v=asked.nominal_v)
    first = PAGE * (asked.page - 1)
    return found_by(jobs, asked.search).order_by("-changed_at", "-id")[first : first + PAGE]


@router.post("/jobs", response=JobOut)
def create_job(request: SignedInRequest, values: JobValues) -> Any:
    """Open a new job. Sent twice with the same id it is opened once."""
    shop = request.user.shop

    def create() -> models.Job:
        job = models.Job.objects.create(shop=shop, **values.model_dump())
        index_job(job)
        return job

    return opened_once(shop, values.id, create)
