"""HTTP API of what is live when: matrix, why of a cell, proof, pulled parts, and a drive step by step."""

from typing import Annotated
from uuid import UUID

from django.http import HttpResponse
from ninja import Query, Router
from pydantic import Field

from percorso.errors import PathError
from percorso.network.operating_point import Network
from percorso.planning.apply import edited
from percorso.vehicle.states import A_DRIVE, read_way, steps
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.schemas import Body, as_json
from percorso_server.network.edits_api import Edits, new_id
from percorso_server.network.solving import JobNetwork, View, Viewed, asked_network
from percorso_server.states.views import (
    DriveView,
    MatrixView,
    ProofView,
    PulledView,
    WhyView,
    drive_view,
    matrix_view,
    proof_view,
    pulled_views,
    why_view,
)
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["states"])


def _network(request: SignedInRequest, job_id: UUID) -> JobNetwork:
    job = asked_job(request, job_id)
    return asked_network(request, job)


def _fed(network: JobNetwork, view: Viewed) -> Network:
    """The network that is looked at. Raises PathError while the job has no point."""
    if not network.vehicle.points:
        raise PathError("there is nothing in this job yet that could be live: say what the vehicle has", field=())
    return network.at(view.stage, view.prepared())


@router.get("/jobs/{job_id}/states", response=MatrixView)
def read_matrix(request: SignedInRequest, job_id: UUID, view: View) -> HttpResponse:
    """Every device in every state, with inputs as chosen."""
    network = _network(request, job_id)
    return as_json(matrix_view(network, _fed(network, view), view))


@router.get("/jobs/{job_id}/states/why/{part}", response=WhyView)
def read_why(request: SignedInRequest, job_id: UUID, part: str, view: View) -> HttpResponse:
    """Why a device does what it does in a state: its current's path, and what holds each contact on it."""
    network = _network(request, job_id)
    solution = _fed(network, view).solve(view.state, view.chosen(), look_ahead=False)
    if part not in solution.vehicle.devices:
        raise PathError("this device is not there at that stage", field=("part",))
    return as_json(why_view(solution, part))


@router.get("/jobs/{job_id}/proof", response=ProofView)
def read_proof(request: SignedInRequest, job_id: UUID, view: View) -> HttpResponse:
    """Everything forbidden that can be brought about at a stage, and how."""
    network = _network(request, job_id)
    _fed(network, view)
    proof = network.proof(view.stage, view.prepared())
    planned = network.proof("planned") if view.stage == "found" else proof
    return as_json(proof_view(proof, planned, network.rules))


class TriedEdits(Body):
    """Edits of the plan that are tried."""

    edits: Edits


@router.post("/jobs/{job_id}/proof/what-if", response=ProofView)
def try_proof(request: SignedInRequest, job_id: UUID, tried: TriedEdits) -> HttpResponse:
    """The proof of a plan with edits; nothing is written."""
    network = _network(request, job_id)
    changed = network.with_vehicle(edited(network.vehicle, tried.edits, network.rules, new_id))
    _fed(changed, Viewed())
    proof = changed.proof("planned")
    return as_json(proof_view(proof, proof, network.rules))


@router.get("/jobs/{job_id}/pulled", response=list[PulledView])
def read_pulled(request: SignedInRequest, job_id: UUID, view: View) -> list[PulledView]:
    """What each fuse, link, breaker, relay and joint to ground does when it is taken out."""
    network = _network(request, job_id)
    vehicle = _fed(network, view).vehicle
    return pulled_views(vehicle, network.pulled(view.stage, view.chosen()))


Way = Annotated[str, Query(max_length=2000), Field(description="off, on, cranking, idle heater=on, road, off")]


@router.get("/jobs/{job_id}/drive", response=DriveView)
def read_drive(request: SignedInRequest, job_id: UUID, view: View, way: Way = "") -> HttpResponse:
    """A way through the states step by step; from parked to parked where none is said."""
    network = _network(request, job_id)
    taken = read_way(way) if way else steps(A_DRIVE, view.chosen())
    return as_json(drive_view(_fed(network, view), taken))
