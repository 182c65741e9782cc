"""HTTP API of tracing: suspects from what a customer says and from readings of the log, and what to measure next."""

from typing import Annotated
from uuid import UUID

from django.http import HttpResponse
from ninja import Router
from pydantic import BaseModel, Field

from jobs.schemas import Body, as_json
from network.solving import JobNetwork, network_for_reading
from percorso.tracing.next_test import NextTest
from percorso.tracing.symptoms import Symptom, readings_of
from percorso.tracing.trace import Suspect, Trace
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.segments import describe
from percorso.verification.measurements import Measurement, places
from percorso.verification.test_list.asked import Asked
from percorso.verification.test_list.wording import caution, how, words
from verification.api import job_of
from verification.readings_told import ReadingOut
from verification.readings_told import readings_of as logged_readings_of
from verification.tests_api import Latest, TestOut, came_of, test_out
from workshop.signed_in import SignedInRequest

router = Router(tags=["trace"])
MOST_READINGS = 40


class Said(BaseModel):
    """What a customer says, and of which device or fuse, by its designation."""

    symptom: Symptom
    device: str | None = None


class TraceIn(Body):
    """What is known of a vehicle: what was said, and which readings of the log count."""

    stage: Stage = "planned"
    said: Annotated[list[Said], Field(max_length=5)] = []
    reading_ids: Annotated[list[UUID], Field(max_length=MOST_READINGS)] = []


class OhmOut(BaseModel):
    """Between what a resistance lies, Ω."""

    low: float
    high: float


class SuspectOut(BaseModel):
    """One way a part can be bad, how probable that is, and the known things it explains, by their places."""

    part: str
    name: str
    fault: str
    probability: float
    ohm: OhmOut | None
    explains: list[int]
    because: list[str]


class PairOut(BaseModel):
    """Two faults that explain what is known together."""

    names: list[str]
    faults: list[str]
    probability: float


class KnownOut(BaseModel):
    """Something that is known, in words; ``reading_id`` where it is of the log."""

    says: str
    reading_id: str | None


class AcquittedOut(BaseModel):
    """A part that is not it, and the place of what says so most among what is known."""

    name: str
    by: int


class ThenOut(BaseModel):
    """What an outcome would mean: the part that is most probable then, empty for none."""

    outcome: str
    name: str
    probability: float


class NextOut(BaseModel):
    """A measurement worth making, as a test, with how many bits it tells and what its outcomes would mean."""

    test: TestOut
    bits: float
    tells: list[ThenOut]


class StopOut(BaseModel):
    """The part that is known well enough, how to prove it, and what cures it."""

    name: str
    prove: str | None
    cures: list[str]


class TraceOut(BaseModel):
    """What is known says this; ``is_as_planned`` where sound metal explains all of it."""

    known: list[KnownOut]
    suspects: list[SuspectOut]
    pairs: list[PairOut]
    acquitted: list[AcquittedOut]
    next: list[NextOut]
    stop: StopOut | None
    not_described: float
    sound: float
    is_as_planned: bool


@router.post("/jobs/{job_id}/trace", response=TraceOut)
def trace(request: SignedInRequest, job_id: UUID, asked: TraceIn) -> HttpResponse:
    """Trace what is wrong; nothing is written. Readings that have not arrived yet do not count yet."""
    job = job_of(request, job_id)
    network = network_for_reading(job, request.user.shop.house_rules)
    tracer = network.tracer(asked.stage)
    vehicle = tracer.vehicle
    logged = logged_readings_of(job, network)
    counting = _counting(logged, asked)
    said = [one for each in asked.said for one in readings_of(vehicle, each.symptom, asked.stage, each.device)]
    readings = [*said, *(each.logged.net for each in counting)]
    found = tracer.trace(readings)
    ids = [None] * len(said) + [each.id for each in counting]
    known = [KnownOut(says=_says(vehicle, each), reading_id=of) for each, of in zip(readings, ids, strict=True)]
    return as_json(_told(network, asked.stage, found, known, came_of(logged)))


def _counting(logged: list[ReadingOut], asked: TraceIn) -> list[ReadingOut]:
    """The readings that count, the oldest first."""
    wanted = {str(each) for each in asked.reading_ids}
    return [each for each in reversed(logged) if each.id in wanted and not each.superseded]


def _told(network: JobNetwork, stage: Stage, found: Trace, known: list[KnownOut], came: Latest) -> TraceOut:
    vehicle = network.tracer(stage).vehicle
    stop = found.stop
    return TraceOut(
        known=known,
        suspects=[_suspect(vehicle, each) for each in found.suspects],
        pairs=[
            PairOut(
                names=[_name(vehicle, part) for part in each.parts],
                faults=list(each.faults),
                probability=each.probability,
            )
            for each in found.pairs
        ],
        acquitted=[AcquittedOut(name=_name(vehicle, each.part), by=each.by) for each in found.acquitted],
        next=[_next(network, stage, each, came) for each in found.next],
        stop=stop
        and StopOut(
            name=_name(vehicle, stop.part),
            prove=how(vehicle, stop.prove) if stop.prove else None,
            cures=list(stop.cures),
        ),
        not_described=found.not_described,
        sound=found.sound,
        is_as_planned=found.is_as_planned,
    )


def _suspect(vehicle: Vehicle, suspect: Suspect) -> SuspectOut:
    return SuspectOut(
        part=suspect.part,
        name=_name(vehicle, suspect.part),
        fault=suspect.fault,
        probability=suspect.probability,
        ohm=OhmOut(low=suspect.ohm[0], high=suspect.ohm[1]) if suspect.ohm else None,
        explains=list(suspect.explains),
        because=list(suspect.because),
    )


def _name(vehicle: Vehicle, part: str) -> str:
    """A part as people call it: its designation, and what it is."""
    device = vehicle.devices.get(part)
    if device is not None:
        return f"{device.designation} {device.name}"
    segment = vehicle.segments[part]
    return f"{segment.designation} {describe(segment.spec)}"


def _says(vehicle: Vehicle, measurement: Measurement) -> str:
    """What was read or seen, in words."""
    said = dict(words(vehicle, measurement)).get(measurement.outcome or "", measurement.outcome)
    value = f"{measurement.value:.4g}" if measurement.value is not None else said
    return f"{_title(vehicle, measurement)}: {value}"


def _title(vehicle: Vehicle, measurement: Measurement) -> str:
    part = measurement.device or measurement.segment
    if part is None:
        return " → ".join(places(vehicle, measurement))
    name = _name(vehicle, part)
    return f"current in {name}" if measurement.quantity == "current" else name


def _next(network: JobNetwork, stage: Stage, test: NextTest, came: Latest) -> NextOut:
    """A measurement worth making, as the Tests room shows one."""
    vehicle, measurement = network.tracer(stage).vehicle, test.measurement
    asked = Asked(
        about="trace",
        what=".".join(str(each) for each in measurement.key_at_any_stage),
        title=_title(vehicle, measurement),
        group="under load",
        measurement=measurement,
        how=how(vehicle, measurement),
        caution=caution(measurement),
        minutes=test.minutes,
    )
    [expected] = network.expected([measurement])
    tells = [
        ThenOut(outcome=each.outcome, name=_name(vehicle, each.part) if each.part else "", probability=each.probability)
        for each in test.tells
    ]
    return NextOut(test=test_out(vehicle, asked, expected, stage, came), bits=test.bits, tells=tells)
