"""HTTP API of the tests that the plan asks for, each with what one should read and what was read before and after."""

from datetime import datetime
from uuid import UUID

from django.http import HttpResponse
from ninja import Router
from pydantic import BaseModel

from percorso.names import Identifier
from percorso.tracing.wording import check_of
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.segments import SegmentSpec, describe
from percorso.vehicle.stages import vehicle_at
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.checks.asked import GROUP_NAMES, Check, CheckGroup, CheckTarget, voltage
from percorso.verification.checks.between import metal_between
from percorso.verification.checks.minutes import reach_min
from percorso.verification.checks.wording import situation_says, words
from percorso.verification.judging.expected import Expected
from percorso.verification.judging.logged import Judged, Standing
from percorso.verification.measured.measurements import Measurement, Situation, by_ids, places
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.schemas import as_json
from percorso_server.network.solving import View, asked_network
from percorso_server.verification.readings.judged import ReadingOut, readings_of
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["tests"])


class PieceOut(BaseModel):
    """A piece of the metal between two probes, as the route strip draws it."""

    id: str
    designation: str
    description: str
    spec: SegmentSpec
    from_name: str
    to_name: str


class Came(BaseModel):
    """What was read last of a test at a stage; ``standing`` is what it says in one word."""

    id: str
    value: float | None
    outcome: str | None
    current_a: float | None
    note: str
    taken_at: datetime
    taken_by: str
    judged: Judged
    standing: Standing


class WordOut(BaseModel):
    """A word that can come of a test, and how one says it of what is looked at."""

    word: str
    says: str


class CheckOut(BaseModel):
    """A test: where and in what situation, what one should read, and what was read ``found`` and ``planned``.

    ``path`` is the metal between the probes; ``place`` names the points or the part that is measured; with the pieces
    ``moves_with`` the reading moved when they were wiggled.
    """

    id: str
    about: str
    title: str
    group: CheckGroup
    group_name: str
    circuit_id: str | None
    circuit: str
    measurement: Measurement
    situation: str
    place: list[str]
    path: list[PieceOut]
    moves_with: list[str]
    words: list[WordOut]
    expected: Expected
    target: CheckTarget | None
    only_if: str | None
    minutes: float
    reach_min: float
    how: str
    caution: str
    found: Came | None
    planned: Came | None


class CheckList(BaseModel):
    """Tests in working order, and how many minutes those take that nothing was read of yet."""

    tests: list[CheckOut]
    minutes_left: float


@router.get("/jobs/{job_id}/tests", response=CheckList)
def list_checks(
    request: SignedInRequest, job_id: UUID, stage: Stage = "planned", circuit_id: UUID | None = None
) -> HttpResponse:
    """The tests of a job at a stage in working order, or those of one circuit."""
    job = asked_job(request, job_id)
    network = asked_network(request, job)
    if not network.vehicle.points:
        return as_json(CheckList(tests=[], minutes_left=0.0))
    asked = network.checks(stage, None if circuit_id is None else str(circuit_id))
    came = came_of(readings_of(job, network))
    expected = network.judge.expected([each.measurement for each in asked])
    vehicle = network.at(stage).vehicle
    told = [check_out(vehicle, *each, stage, came) for each in zip(asked, expected, strict=True)]
    left = sum(each.minutes for each in told if each.only_if is None and getattr(each, stage) is None)
    return as_json(CheckList(tests=told, minutes_left=round(left, 1)))


@router.get("/jobs/{job_id}/tests/between", response=CheckOut)
def read_check_between(
    request: SignedInRequest, job_id: UUID, red_point: Identifier, black_point: Identifier, view: View
) -> HttpResponse:
    """A voltage between any two points in the state that is looked at, as a test. Raises MeasurementError."""
    job = asked_job(request, job_id)
    network = asked_network(request, job)
    situation = Situation(stage=view.stage, state=view.state, inputs=view.chosen(), preparations=view.prepared())
    asked = voltage(red_point, black_point, situation)
    vehicle = vehicle_at(network.vehicle, view.stage)
    measurement = by_ids(prepared(vehicle, situation.preparations), asked)
    [expected] = network.judge.expected([measurement])
    came = came_of(readings_of(job, network))
    return as_json(check_out(vehicle, check_of(vehicle, measurement), expected, view.stage, came))


Latest = dict[tuple[object, ...], Came]


def came_of(readings: list[ReadingOut]) -> Latest:
    """The latest reading of every measurement that nothing supersedes; the newest comes first."""
    found: Latest = {}
    for each in readings:
        if not each.superseded:
            values = {name: getattr(each, name) for name in Came.model_fields if hasattr(each, name)}
            measured = each.measurement
            read = {"value": measured.value, "outcome": measured.outcome}
            found.setdefault(measured.key, Came(**values, **read, standing=each.judged.standing))
    return found


def check_out(vehicle: Vehicle, asked: Check, expected: Expected, stage: Stage, came: Latest) -> CheckOut:
    """A test as it is shown, with what was read of it before and after."""
    measurement = asked.measurement
    circuit = vehicle.circuits.get(asked.circuit_id or "")
    red, black = measurement.red_point, measurement.black_point
    path = [measurement.segment or ""] if red is None or black is None else metal_between(vehicle, red, black, circuit)
    return CheckOut(
        id=asked.id,
        about=asked.about,
        title=asked.title,
        group=asked.group,
        group_name=GROUP_NAMES[asked.group],
        circuit_id=asked.circuit_id,
        circuit=circuit.name if circuit else "",
        measurement=measurement,
        situation=situation_says(vehicle, measurement.situation),
        place=places(vehicle, measurement),
        path=[_piece(vehicle, each) for each in path if each in vehicle.segments],
        moves_with=[each for each in path if _moved(measurement, each, stage, came)],
        words=[WordOut(word=word, says=says) for word, says in words(vehicle, measurement)],
        expected=expected,
        target=asked.target,
        only_if=asked.only_if,
        minutes=asked.minutes,
        reach_min=reach_min(vehicle, measurement),
        how=asked.how,
        caution=asked.caution,
        found=came.get(("found", *measurement.key_at_any_stage)),
        planned=came.get(("planned", *measurement.key_at_any_stage)),
    )


def _moved(measurement: Measurement, segment_id: str, stage: Stage, came: Latest) -> bool:
    """Whether what a measurement reads moved last when a piece was wiggled."""
    if measurement.red_point is None:
        return False
    wiggled = measurement.model_copy(update={"quantity": "wiggle", "segment": segment_id, "device": None})
    last = came.get((stage, *wiggled.key_at_any_stage))
    return last is not None and last.outcome == "moves"


def _piece(vehicle: Vehicle, segment_id: str) -> PieceOut:
    segment = vehicle.segments[segment_id]
    return PieceOut(
        id=segment.id,
        designation=segment.designation,
        description=describe(segment.spec),
        spec=segment.spec,
        from_name=vehicle.points[segment.from_point].name,
        to_name=vehicle.points[segment.to_point].name,
    )
