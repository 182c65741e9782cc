"""HTTP API of the vehicle that came in: what is asked, the map of what is usual, and a new job as it came in."""

from typing import Annotated, Any
from uuid import UUID, uuid4

from ninja import Router
from pydantic import BaseModel, Field

from percorso.files.job_file import JobHead, job_file_of
from percorso.map.picture import Picture, picture_of
from percorso.names import Name, Note
from percorso.network.operating_point import Network
from percorso.usual_vehicles.laying import usual_vehicle
from percorso.usual_vehicles.questions import QUESTIONS, Question, complete
from percorso_server.job_files.rows import write_job
from percorso_server.jobs.api import JobOut
from percorso_server.jobs.opening import opened_once
from percorso_server.jobs.schemas import Body
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["came in"])
Answers = dict[str, Annotated[str, Field(max_length=500)]]


class CameIn(Body):
    """What is known of a vehicle that came in, by question; what is left out is open."""

    answers: Answers = {}


class Laid(BaseModel):
    """The usual vehicle from some answers: its map, how much it has, and what every question was taken as."""

    picture: Picture
    points: int
    segments: int
    devices: int
    taken_as: dict[str, str]


class JobCameIn(CameIn):
    """A new job on a vehicle that came in."""

    id: UUID = Field(default_factory=uuid4)
    name: Name
    vehicle: Name
    wish: Note = ""


@router.get("/came-in/questions", response=list[Question])
def list_questions(request: SignedInRequest) -> Any:
    """What is asked of a vehicle that came in."""
    return QUESTIONS


@router.post("/came-in/vehicle", response=Laid)
def lay_usual_vehicle(request: SignedInRequest, said: CameIn) -> Laid:
    """What would be laid; nothing is written."""
    vehicle = usual_vehicle(said.answers)
    return Laid(
        picture=picture_of(vehicle, Network(vehicle).solve("idle")),
        points=len(vehicle.points),
        segments=len(vehicle.segments),
        devices=len(vehicle.devices),
        taken_as=complete(said.answers),
    )


@router.post("/came-in/jobs", response=JobOut)
def open_job_as_it_came_in(request: SignedInRequest, said: JobCameIn) -> Any:
    """Open a new job on the usual vehicle as found. Sent twice with the same id it is opened once."""
    head = JobHead(said.name, said.vehicle, said.wish)
    file = job_file_of(head, usual_vehicle(said.answers), [], came_in=said.answers)
    return opened_once(request.user.shop, said.id, lambda: write_job(file, request.user, said.id))
