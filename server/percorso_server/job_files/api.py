"""HTTP API of job files: a preview of what one holds, a new job made of it, and a job written as one."""

from typing import Any
from urllib.parse import quote
from uuid import UUID

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema

from percorso.files.job_file import JobFile, write_job_file
from percorso.files.reading import MAX_BYTES, read_job_file
from percorso_server.job_files.rows import read_job, write_job
from percorso_server.jobs.api import JobOut
from percorso_server.jobs.models import Job
from percorso_server.jobs.opening import opened_once
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["job files"])
CHUNK = 65536
GIVE_UP_BYTES = 200_000_000  # an upload longer than this is cut off instead of read to its end


class Preview(Schema):
    """What a job file holds."""

    name: str
    vehicle: str
    wish: str
    nominal_v: int
    circuits: list[str]
    devices: list[str]
    points: int
    segments: int
    inputs: list[str]
    readings: int


def _uploaded(request: HttpRequest) -> JobFile:
    """The job file a request carries as its body. Raises JobFileError."""
    text = request.read(MAX_BYTES + 1)
    left = GIVE_UP_BYTES
    while left > 0 and request.read(CHUNK):  # the answer is only heard by who has said everything
        left -= CHUNK
    return read_job_file(text)


@router.post("/job-files/preview", response=Preview)
def preview_job_file(request: SignedInRequest) -> Preview:
    """Check a job file and say what it holds; nothing is written."""
    file = _uploaded(request)
    return Preview(
        name=file.name,
        vehicle=file.vehicle,
        wish=file.wish,
        nominal_v=file.nominal_v,
        circuits=[each.name for each in file.circuits],
        devices=[each.name for each in file.devices],
        points=len(file.points),
        segments=len(file.segments),
        inputs=[each.name for each in file.inputs],
        readings=len(file.readings),
    )


@router.post("/job-files", response=JobOut)
def import_job_file(request: SignedInRequest, id: UUID) -> Any:
    """Open a new job with all a job file holds. Sent twice with the same id it is opened once."""
    file = _uploaded(request)
    return opened_once(request.user.shop, id, lambda: write_job(file, request.user, id))


@router.get("/jobs/{job_id}/file")
def export_job_file(request: SignedInRequest, job_id: UUID) -> HttpResponse:
    """The job as a job file to keep."""
    job = Job.objects.filter(shop=request.user.shop, pk=job_id).first()
    if job is None:
        raise Http404
    answer = HttpResponse(write_job_file(read_job(job)), content_type="application/json")
    name = quote(f"{job.vehicle}, {job.name}.json")
    answer["Content-Disposition"] = f"attachment; filename*=UTF-8''{name}"
    return answer
