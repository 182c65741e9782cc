"""HTTP API of the map: the whole vehicle on one page, in the state that is looked at."""

from uuid import UUID

from django.http import HttpResponse
from ninja import Router

from percorso.map.drawing import drawn
from percorso.map.picture import Picture, picture_of
from percorso_server.jobs.asked import asked_job
from percorso_server.network.solving import View, asked_network
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["map"])
AS_SVG = {"responses": {200: {"description": "OK", "content": {"image/svg+xml": {"schema": {"type": "string"}}}}}}
EMPTY = Picture(0, 0, (0, 0), (), (), ())


@router.get("/jobs/{job_id}/map", response=Picture)
def read_map(request: SignedInRequest, job_id: UUID, view: View) -> Picture:
    """Every line, mark and figure of the map; nothing while the job has no point."""
    solved = asked_network(request, asked_job(request, job_id)).seen(view)
    return picture_of(solved.vehicle, solved.solution) if solved else EMPTY


@router.get("/jobs/{job_id}/map.svg", openapi_extra=AS_SVG)
def read_map_drawing(request: SignedInRequest, job_id: UUID, view: View) -> HttpResponse:
    """The map as a drawing of its own, to be kept or printed."""
    job = asked_job(request, job_id)
    solved = asked_network(request, job).seen(view)
    heading = f"{job.vehicle}, as {view.stage}, {view.state}"
    svg = drawn(solved.vehicle, solved.solution, heading) if solved else ""
    answer = HttpResponse(svg, content_type="image/svg+xml")
    answer["Content-Disposition"] = 'attachment; filename="map.svg"'
    return answer
