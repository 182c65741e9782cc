"""HTTP API of the map: the whole vehicle on one page, in the state that is looked at, and on paper."""

from typing import Annotated
from uuid import UUID

from django.http import HttpResponse
from ninja import Query, Router
from pydantic import Field

from percorso.map.drawing import drawn, heading_of, size_of
from percorso.map.folding import folded
from percorso.map.paper import MapSheets, Paper, sheets_of
from percorso.map.picture import Picture, picture_of
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.models import Job
from percorso_server.network.solving import Viewed, asked_network
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["map"])
AS_SVG = {"responses": {200: {"description": "OK", "content": {"image/svg+xml": {"schema": {"type": "string"}}}}}}
EMPTY = Picture(0, 0, (0, 0), (), (), (), ())
MOST_CIRCUITS = 500


class MapViewed(Viewed):
    """What is looked at on the map: all of it, or without some circuits; ``alone``: nor with what is in no circuit."""

    folded: Annotated[list[UUID], Field(max_length=MOST_CIRCUITS)] = []
    alone: bool = False


MapView = Query[MapViewed]


@router.get("/jobs/{job_id}/map", response=Picture)
def read_map(request: SignedInRequest, job_id: UUID, view: MapView) -> Picture:
    """Every line, mark and figure of the map; nothing while the job has no point."""
    return _picture(request, asked_job(request, job_id), view)


@router.get("/jobs/{job_id}/map.svg", openapi_extra=AS_SVG)
def read_map_drawing(request: SignedInRequest, job_id: UUID, view: MapView) -> HttpResponse:
    """The map as a drawing of its own, to be kept or printed."""
    job = asked_job(request, job_id)
    svg = drawn(_picture(request, job, view), heading_of(job.vehicle, view.stage, view.state))
    answer = HttpResponse(svg, content_type="image/svg+xml")
    answer["Content-Disposition"] = 'attachment; filename="map.svg"'
    return answer


@router.get("/jobs/{job_id}/map/sheets", response=MapSheets)
def read_map_sheets(request: SignedInRequest, job_id: UUID, paper: Paper, view: MapView) -> MapSheets:
    """On which sheets of paper the drawing is printed, and which part of it each shows."""
    return sheets_of(*size_of(_picture(request, asked_job(request, job_id), view)), paper)


def _picture(request: SignedInRequest, job: Job, view: MapViewed) -> Picture:
    solved = asked_network(request, job).seen(view)
    if solved is None:
        return EMPTY
    shown = folded(solved.vehicle, [str(each) for each in view.folded], alone=view.alone)
    return picture_of(shown, solved.solution)
