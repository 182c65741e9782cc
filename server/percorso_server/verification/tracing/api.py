"""HTTP API of tracing: suspects from what a customer says and from readings of the log, and what to measure next."""

from collections.abc import Iterator
from uuid import UUID

from django.http import HttpResponse
from ninja import Router

from percorso.errors import PercorsoError
from percorso.tracing.left_out import LeftOut
from percorso.tracing.mending import Evidence, Mended
from percorso.tracing.symptoms import OF_SYMPTOMS, SYMPTOMS, readings_of
from percorso.tracing.wording import evidence_says
from percorso.vehicle.model import Vehicle
from percorso.vehicle.naming import named
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.measured.measurements import Measurement, by_ids
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.schemas import as_json
from percorso_server.network.solving import asked_network, tracer_of
from percorso_server.verification.checks.api import came_of
from percorso_server.verification.readings.judged import ReadingOut
from percorso_server.verification.readings.judged import readings_of as logged_readings_of
from percorso_server.verification.tracing.case_steps import MendedIn
from percorso_server.verification.tracing.prefetcher import PREFETCHER
from percorso_server.verification.tracing.schemas import (
    KnownOut,
    SymptomOut,
    TraceIn,
    TraceOut,
)
from percorso_server.verification.tracing.views import TraceView, known_of
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["trace"])
MOST_BESIDE = 30


@router.get("/symptoms", response=list[SymptomOut])
def list_symptoms(request: SignedInRequest) -> list[SymptomOut]:
    """What a customer can say."""
    return [SymptomOut(symptom=each, of=OF_SYMPTOMS[each].of) for each in SYMPTOMS]


@router.post("/jobs/{job_id}/trace", response=TraceOut)
def trace(request: SignedInRequest, job_id: UUID, asked: TraceIn) -> HttpResponse:
    """Trace what is wrong; nothing is written. Readings that have not arrived yet do not count yet."""
    job = asked_job(request, job_id)
    network = asked_network(request, job)
    PREFETCHER.pause()
    tracer = tracer_of(job, network, asked.stage)
    vehicle = tracer.vehicle
    logged = logged_readings_of(job, network)
    counting = _counting(logged, asked)
    readings, known, not_believed = _listed(vehicle, asked, counting)
    beside = [
        KnownOut(says=evidence_says(vehicle, each.logged.net), reading_id=each.id)
        for each in logged
        if each.measurement.situation.stage == asked.stage and not each.superseded and each not in counting
    ]
    left_out = [
        LeftOut(each.measurement, each.why, each.reach_min)
        for each in asked.left_out
        if _can_be_asked(vehicle, each.measurement)
    ]
    suspected = [each for each in asked.suspected if _is_there(vehicle, each)]
    found = tracer.trace(readings, suspected=suspected, left_out=left_out)
    view = TraceView(network, asked.stage, readings, left_out, came_of(logged))
    told = as_json(view.answer(found, known, not_believed, beside[:MOST_BESIDE]))
    PREFETCHER.start(tracer, found)
    return told


def _listed(
    vehicle: Vehicle, asked: TraceIn, counting: list[ReadingOut]
) -> tuple[list[Evidence], list[KnownOut], list[KnownOut]]:
    """What is known, in order, and in words; then what is not believed, for its part is not there any more."""
    readings, known, not_believed = list[Evidence](), list[KnownOut](), list[KnownOut]()
    for said in asked.said:
        try:
            told = said.symptom, asked.stage, said.device
            heard = readings_of(vehicle, *told, stood_h=said.stood_h, still=said.still)
        except PercorsoError as error:
            if said.device is None and OF_SYMPTOMS[said.symptom].of != "the vehicle":
                raise  # nobody said of what
            says = f"{said.symptom}: {said.device}" if said.device else said.symptom
            not_believed.append(KnownOut(says=says, said=said, doubt=f"does not count: {error}"))
            continue
        readings += heard
        known += [KnownOut(says=evidence_says(vehicle, each), said=said) for each in heard]
    there = [each for each in asked.mended if _is_there(vehicle, each.part)]
    for each in asked.mended:
        if each not in there:
            doubt = "does not count: there is no such part any more"
            not_believed.append(KnownOut(says=f"{each.part} fixed", mended=each.part, doubt=doubt))
    for one, of in _in_order(counting, there):
        readings.append(one)
        known.append(known_of(vehicle, one, of))
    return readings, known, not_believed


def _is_there(vehicle: Vehicle, designation: str) -> bool:
    return bool(named(vehicle.devices.values(), designation) or named(vehicle.segments.values(), designation))


def _can_be_asked(vehicle: Vehicle, measurement: Measurement) -> bool:
    """Whether what is measured is all there."""
    try:
        by_ids(prepared(vehicle, measurement.situation.preparations), measurement)
    except PercorsoError:
        return False
    return True


def _counting(logged: list[ReadingOut], asked: TraceIn) -> list[ReadingOut]:
    """The readings that count, the oldest first."""
    wanted = {str(each) for each in asked.reading_ids}
    return [each for each in reversed(logged) if each.id in wanted and not each.superseded]


def _in_order(counting: list[ReadingOut], mended: list[MendedIn]) -> Iterator[tuple[Evidence, str | None]]:
    """The readings with what was mended between them, each with its id in the log."""
    left = {each.id: each.logged.net for each in counting}
    for each in mended:
        for of in [str(one) for one in each.before if str(one) in left]:
            yield left.pop(of), of
        yield Mended(part=each.part), None
    yield from ((net, of) for of, net in left.items())
