"""HTTP API of cases: what is known where a vehicle is traced at a stage, for everybody in the shop."""

from typing import Annotated
from uuid import UUID

from django.db import transaction
from ninja import Body as BodyParameter
from ninja import Router

from percorso.vehicle.model import Stage
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.schemas import Key
from percorso_server.verification.models import Case
from percorso_server.verification.tracing.case_steps import NOTHING, CaseOut, CaseStep, after
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["trace"])
REMEMBERED = 200  # steps by their keys: one that is sent again after a lost answer was among the last


@router.get("/jobs/{job_id}/cases/{stage}", response=CaseOut)
def read_case(request: SignedInRequest, job_id: UUID, stage: Stage) -> CaseOut:
    """The case of a job at a stage; nothing is known of one that nobody began."""
    row = Case.objects.filter(job=asked_job(request, job_id), stage=stage).first()
    return NOTHING if row is None else _out(row)


@router.post("/jobs/{job_id}/cases/{stage}/steps", response=CaseOut)
def take_step(
    request: SignedInRequest, job_id: UUID, stage: Stage, step: Annotated[CaseStep, BodyParameter()], key: Key
) -> CaseOut:
    """One step on top of what anybody did before. Sent twice with the same key it is taken once."""
    job = asked_job(request, job_id)
    Case.objects.get_or_create(job=job, stage=stage)
    with transaction.atomic():
        row = Case.objects.select_for_update().get(job=job, stage=stage)
        if str(key) not in row.keys:
            for name, value in after(_out(row), step).model_dump(mode="json").items():
                setattr(row, name, value)
            row.keys = [*row.keys, str(key)][-REMEMBERED:]
            row.save()
    return _out(row)


def _out(row: Case) -> CaseOut:
    return CaseOut.model_validate({name: getattr(row, name) for name in CaseOut.model_fields})
