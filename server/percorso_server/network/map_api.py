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
from percorso.planning.apply import edited
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.schemas import Body
from percorso_server.network.edits_api import Edits, new_id
from percorso_server.network.solving import JobNetwork, Viewed, asked_network
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
    return _picture(asked_network(request, asked_job(request, job_id)), view)


class MapWhatIf(Body):
    """Edits that are tried, and what is looked at with them."""

    edits: Edits
    view: MapViewed = MapViewed()


@router.post("/jobs/{job_id}/map/what-if", response=Picture)
def try_on_the_map(request: SignedInRequest, job_id: UUID, tried: MapWhatIf) -> Picture:
    """The map with edits; nothing is written."""
    saved = asked_network(request, asked_job(request, job_id))
    vehicle = edited(saved.vehicle, tried.edits, saved.rules, new_id)
    return _picture(saved.with_vehicle(vehicle), tried.view)


@router.get("/jobs/{job_id}/map.svg", openapi_extra=AS_SVG)
def read_map_drawing(request: SignedInRequest, job_id: UUID, view: MapView) -> HttpResponse:
    """The map as a drawing of its own, to be kept or printed."""
    job = asked_job(request, job_id)
    svg = drawn(_picture(asked_network(request, job), view), heading_of(job.vehicle, view.stage, view.state))
    answer = HttpResponse(svg, content_type="image/svg+xml")
    answer["Content-Disposition"] = 'attachment; filename="map.svg"'
    return answer


@router.get("/jobs/{job_id}/map/sheets", response=MapSheets)
def read_map_sheets(request: SignedInRequest, job_id: UUID, paper: Paper, view: MapView) -> MapSheets:
    """On which sheets of paper the drawing is printed, and which part of it each shows."""
    network = asked_network(request, asked_job(request, job_id))
    return sheets_of(*size_of(_picture(network, view)), paper)


def _picture(network: JobNetwork, view: MapViewed) -> Picture:
    solved = network.seen(view)
    if solved is None:
        return EMPTY
    shown = folded(solved.vehicle, [str(each) for each in view.folded], alone=view.alone)
    return picture_of(shown, solved.solution)
