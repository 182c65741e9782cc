"""HTTP API of the map: the whole vehicle on one page, in the state that is looked at."""

from uuid import UUID

from django.http import HttpResponse
from ninja import Router

from percorso.map.drawing import drawn, heading_of
from percorso.map.picture import Picture, picture_of
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.models import Job
from percorso_server.network.solving import View, Viewed, asked_network
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["map"])
AS_SVG = {"responses": {200: {"description": "OK", "content": {"image/svg+xml": {"schema": {"type": "string"}}}}}}
EMPTY = Picture(0, 0, (0, 0), (), (), (), ())


@router.get("/jobs/{job_id}/map", response=Picture)
def read_map(request: SignedInRequest, job_id: UUID, view: View) -> Picture:
    """Every line, mark and figure of the map; nothing while the job has no point."""
    return _picture(request, asked_job(request, job_id), view)


@router.get("/jobs/{job_id}/map.svg", openapi_extra=AS_SVG)
def read_map_drawing(request: SignedInRequest, job_id: UUID, view: View) -> HttpResponse:
    """The map as a drawing of its own, to be kept or printed."""
    job = asked_job(request, job_id)
    svg = drawn(_picture(request, job, view), heading_of(job.vehicle, view.stage, view.state))
    answer = HttpResponse(svg, content_type="image/svg+xml")
    answer["Content-Disposition"] = 'attachment; filename="map.svg"'
    return answer


def _picture(request: SignedInRequest, job: Job, view: Viewed) -> Picture:
    solved = asked_network(request, job).seen(view)
    return picture_of(solved.vehicle, solved.solution) if solved else EMPTY
