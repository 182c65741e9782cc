"""HTTP API of cases: what is known where a vehicle is traced at a stage, for everybody in the shop."""

from typing import Annotated
from uuid import UUID

from ninja import Router
from pydantic import BaseModel, Field

from jobs.schemas import Body
from percorso.files.job_file import MOST_COUNTED, MOST_MENDED, MOST_SAID, MOST_SUSPECTED
from percorso.tracing.symptoms import Said
from percorso.vehicle.model import Stage
from verification.api import job_of
from verification.models import Case
from workshop.signed_in import SignedInRequest

router = Router(tags=["trace"])
Counted = Annotated[list[UUID], Field(max_length=MOST_COUNTED)]


Designation = Annotated[str, Field(min_length=1, max_length=100)]


class MendedIn(Body):
    """A part that was mended, by its designation, and the readings that counted before."""

    part: Designation
    before: Counted = []


class CaseIn(Body):
    """What was said, which readings of the log count or are doubted, what was mended since, and what is suspected."""

    said: Annotated[list[Said], Field(max_length=MOST_SAID)] = []
    readings: Counted = []
    doubted: Counted = []
    mended: Annotated[list[MendedIn], Field(max_length=MOST_MENDED)] = []
    suspected: Annotated[list[Designation], Field(max_length=MOST_SUSPECTED)] = []


class CaseOut(BaseModel):
    """The same as it is kept."""

    said: list[Said]
    readings: list[UUID]
    doubted: list[UUID]
    mended: list[MendedIn]
    suspected: list[Designation]


@router.get("/jobs/{job_id}/cases/{stage}", response=CaseOut)
def read_case(request: SignedInRequest, job_id: UUID, stage: Stage) -> CaseOut:
    """The case of a job at a stage; nothing is known of one that nobody began."""
    row = Case.objects.filter(job=job_of(request, job_id), stage=stage).first()
    return CaseOut(said=[], readings=[], doubted=[], mended=[], suspected=[]) if row is None else _told(row)


@router.put("/jobs/{job_id}/cases/{stage}", response=CaseOut)
def keep_case(request: SignedInRequest, job_id: UUID, stage: Stage, case: CaseIn) -> CaseOut:
    """Keep a case as it is now; the last one to say something is right."""
    values = {
        "said": [each.model_dump() for each in case.said],
        "readings": [str(each) for each in case.readings],
        "doubted": [str(each) for each in case.doubted],
        "mended": [each.model_dump(mode="json") for each in case.mended],
        "suspected": case.suspected,
    }
    row, _ = Case.objects.update_or_create(job=job_of(request, job_id), stage=stage, defaults=values)
    return _told(row)


def _told(row: Case) -> CaseOut:
    return CaseOut.model_validate({name: getattr(row, name) for name in CaseOut.model_fields})
