"""HTTP API of one circuit: its view, what edits would make of it, and the sizes recommended for it."""

from uuid import UUID

from django.http import HttpResponse
from ninja import Router
from pydantic import BaseModel

from percorso.changes.edits import ChangeSegment
from percorso.changes.extensions import Extension, extensions
from percorso.components.conductors import Series
from percorso.errors import PathError
from percorso.house_rules import School
from percorso.network.mornings import LEAST_POSTS_V, LEAST_SPEED
from percorso.planning.apply import edited
from percorso.sizing.advice import ContactAdvice, FuseAdvice, LinkAdvice, Recommendation, WireAdvice
from percorso.sizing.circuit_advice import CircuitAdvice
from percorso.sizing.search import recommend
from percorso.states.cold_start import ColdStart, cold_starts
from percorso.vehicle.model import Stage
from percorso.vehicle.stages import vehicle_at
from percorso.verification.checks.offers import Offer, offers
from percorso_server.jobs import models
from percorso_server.jobs.schemas import Body, as_json
from percorso_server.network.carrying_out import job_of
from percorso_server.network.circuit_view import Basis, CircuitView, circuit_view
from percorso_server.network.edits_api import Edits, new_id
from percorso_server.network.reading import network_of
from percorso_server.network.solving import View, Viewed, asked_network, network_for_reading
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["circuits"])


@router.get("/circuits/{circuit_id}", response=CircuitView)
def read_circuit(
    request: SignedInRequest, circuit_id: UUID, view: View, basis: Basis = "design", series: Series | None = None
) -> HttpResponse:
    """A circuit with its profile, findings and ladders."""
    job = job_of(request, models.Circuit, circuit_id)
    network = asked_network(request, job)
    return as_json(circuit_view(network, str(circuit_id), job_id=str(job.pk), view=view, basis=basis, series=series))


@router.get("/circuits/{circuit_id}/extensions", response=list[Extension])
def read_extensions(request: SignedInRequest, circuit_id: UUID) -> list[Extension]:
    """Segments of the job that a route could lead on over, with the edit that does it."""
    vehicle = network_of(job_of(request, models.Circuit, circuit_id)).vehicle
    return extensions(vehicle, vehicle.circuits[str(circuit_id)])


@router.get("/circuits/{circuit_id}/preparations", response=list[Offer])
def read_preparations(request: SignedInRequest, circuit_id: UUID, stage: Stage = "planned") -> list[Offer]:
    """What can be done to the metal along a circuit for a test; nothing where its route is not there at the stage."""
    job = job_of(request, models.Circuit, circuit_id)
    vehicle = asked_network(request, job).at(stage).vehicle
    circuit = vehicle.circuits.get(str(circuit_id))
    return list(offers(vehicle, circuit)) if circuit else []


class InTheCold(BaseModel):
    """How cold it may be for a circuit's starter still to crank; None where it is of no starter at the stage."""

    coldest_morning_c: float
    least_posts_v: float
    least_speed: float
    starter: ColdStart | None


@router.get("/circuits/{circuit_id}/cold", response=InTheCold)
def read_cold(request: SignedInRequest, circuit_id: UUID, stage: Stage = "planned") -> HttpResponse:
    """How cold it may be for the starter of a circuit, what limits it, and what cures would win."""
    rules = request.user.shop.house_rules
    vehicle = network_for_reading(job_of(request, models.Circuit, circuit_id), rules).at(stage).vehicle
    circuit = vehicle.circuits.get(str(circuit_id))
    found = next((each for each in cold_starts(vehicle) if circuit and each.device_id == circuit.device_id), None)
    asked = InTheCold(
        coldest_morning_c=rules.coldest_morning_c,
        least_posts_v=LEAST_POSTS_V * vehicle.nominal_v / 12,
        least_speed=LEAST_SPEED,
        starter=found,
    )
    return as_json(asked)


class WhatIf(Body):
    """Edits that are tried, and what to look at with them; ``ladder_of`` is the one segment whose ladder is wanted."""

    edits: Edits
    view: Viewed = Viewed()
    basis: Basis = "design"
    series: Series | None = None
    ladder_of: UUID | None = None


@router.post("/circuits/{circuit_id}/what-if", response=CircuitView)
def what_if(request: SignedInRequest, circuit_id: UUID, tried: WhatIf) -> HttpResponse:
    """A circuit's view with edits, without a comparison of stages; nothing is written."""
    job = job_of(request, models.Circuit, circuit_id)
    saved = asked_network(request, job)
    vehicle = edited(saved.vehicle, tried.edits, saved.rules, new_id)
    changed = saved.with_vehicle(vehicle)
    return as_json(
        circuit_view(
            changed,
            str(circuit_id),
            job_id=str(job.pk),
            view=tried.view,
            basis=tried.basis,
            series=tried.series,
            ladder_of=str(tried.ladder_of) if tried.ladder_of else None,
            compare=False,
        )
    )


class Sizes(BaseModel):
    """What is recommended for a route, its copper now and then, and the edits that make it so."""

    circuits: list[CircuitAdvice]
    wires: list[WireAdvice]
    fuses: list[FuseAdvice]
    links: list[LinkAdvice]
    contacts: list[ContactAdvice]
    copper_kg: float
    present_copper_kg: float
    school: School
    edits: list[ChangeSegment]


@router.get("/circuits/{circuit_id}/sizes", response=Sizes)
def read_sizes(
    request: SignedInRequest, circuit_id: UUID, series: Series | None = None, new_only: bool = False
) -> HttpResponse:
    """The least copper that meets every rule on a circuit as planned; ``new_only`` leaves what exists as it is."""
    job = job_of(request, models.Circuit, circuit_id)
    network = asked_network(request, job)
    vehicle = vehicle_at(network.vehicle, "planned")
    if str(circuit_id) not in vehicle.circuits:
        raise PathError("this circuit is not there as planned", field=("circuit_id",))
    old = frozenset(each.id for each in vehicle.segments.values() if each.origin == "existing")
    keep = old if new_only else frozenset()
    return as_json(_sizes(recommend(vehicle, network.rules, [str(circuit_id)], series, keep)))


def _sizes(found: Recommendation) -> Sizes:
    return Sizes(
        circuits=list(found.circuits),
        wires=list(found.wires),
        fuses=list(found.fuses),
        links=list(found.links),
        contacts=list(found.contacts),
        copper_kg=found.copper_kg,
        present_copper_kg=found.present_copper_kg,
        school=found.school,
        edits=[ChangeSegment(segment_id=each, change=dict(change)) for each, change in found.changes.items()],
    )
