"""HTTP API of the log: measurements are added and read, never changed."""

from dataclasses import replace
from datetime import datetime, timedelta
from typing import Annotated, Any
from uuid import UUID, uuid4
from weakref import WeakKeyDictionary

from django.db import IntegrityError, transaction
from django.http import HttpResponse
from django.utils import timezone
from ninja import Router
from pydantic import (
    AwareDatetime,
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    TypeAdapter,
    ValidationInfo,
)

from percorso.circuits.voltage_profile import Profile
from percorso.errors import MeasurementError, ReadingError
from percorso.kept import BoundedCache
from percorso.names import Note
from percorso.quantities import CURRENT
from percorso.vehicle.typed_fields import Typed, typed
from percorso.verification.judging.logged import Logged
from percorso.verification.judging.readings import mark
from percorso.verification.measured.measurements import READ, Measurement
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.models import Circuit, Device, Job, Point, Segment
from percorso_server.network.circuit_view import Basis, shown
from percorso_server.network.solving import JobNetwork, View, asked_network
from percorso_server.verification.models import Reading
from percorso_server.verification.readings.judged import ReadingOut, reading_of, readings_of
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["readings"])
CLOCK_IS_RIGHT = timedelta(seconds=30)  # a phone that is no further off keeps its own time
LINKED = {"red_point": Point, "black_point": Point, "segment": Segment, "device": Device}


def _offset(value: Any, info: ValidationInfo) -> Any:
    """What the leads add, as a number or as typed, in the unit of what is measured."""
    measured = info.data.get("measurement")
    kind = READ.get(measured.quantity) if measured else None
    return Typed(kind).read(value) if kind else value


class ReadingValues(BaseModel):
    """What was measured or seen, with its value or word.

    ``taken_at`` and ``sent_at`` are by the clock of who sends it: how far that clock is off follows from ``sent_at``.
    ``must_prove``: a drop that says nothing of its circuit is refused, while it can still be measured better.
    """

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    id: UUID = Field(default_factory=uuid4)
    measurement: Measurement
    circuit_id: UUID | None = None
    current_a: Annotated[float | None, typed(CURRENT, optional=True)] = None
    lead_offset: Annotated[float, BeforeValidator(_offset, json_schema_input_type=float | str)] = 0.0
    meter: Note = ""
    note: Note = ""
    taken_at: AwareDatetime | None = None
    sent_at: AwareDatetime | None = None
    supersedes: UUID | None = None
    must_prove: bool = False


READING = TypeAdapter(ReadingOut)
MOST_VIEWS = 8  # of a job, whose readings are kept as they were written down
Written = dict[tuple[str, bool], bytes]  # by its id, and whether it is superseded
_WRITTEN: WeakKeyDictionary[JobNetwork, BoundedCache[str, Written]] = WeakKeyDictionary()


@router.get("/jobs/{job_id}/readings", response=list[ReadingOut])
def list_readings(request: SignedInRequest, job_id: UUID, view: View, basis: Basis = "design") -> HttpResponse:
    """Every reading of a job, the newest first, judged against the plan as it is now."""
    job = asked_job(request, job_id)
    network = asked_network(request, job)
    profiles: dict[str, tuple[Profile, bool]] = {}

    def marked(reading: ReadingOut) -> ReadingOut:
        circuit_id, drop = reading.circuit_id, reading.judged.drop
        if circuit_id is None or drop is None:
            return reading
        if circuit_id not in profiles:
            profile, why_not = shown(network, circuit_id, view, basis)
            profiles[circuit_id] = profile, basis == "design" or why_not != ""
        profile, alone = profiles[circuit_id]
        read = reading.logged.as_drop(drop.current_a)
        if alone:  # what others lost on shared metal is not in it
            read = replace(read, value_v=drop.own_v, lead_offset_v=0.0)
        return reading.model_copy(update={"mark": mark(profile, read)})

    views = _WRITTEN.setdefault(network, BoundedCache(MOST_VIEWS))
    written = views.get_or(f"{basis} {view.model_dump_json()}", dict)
    told = []
    for each in readings_of(job, network):
        key = each.id, each.superseded
        if key not in written:
            written[key] = READING.dump_json(marked(each))
        told.append(written[key])
    return HttpResponse(b"[" + b",".join(told) + b"]", content_type="application/json")  # it is its own proof


@router.post("/jobs/{job_id}/readings", response=ReadingOut)
def log_reading(request: SignedInRequest, job_id: UUID, values: ReadingValues) -> ReadingOut:
    """Log what was measured. Sent twice with the same id it is logged once; what it proves is said, not asked."""
    job = asked_job(request, job_id)
    network = asked_network(request, job)
    row = Reading.objects.filter(pk=values.id, job=job).first()
    if row is None:
        if values.must_prove:
            _prove(network, values)
        row = _written_once(request, job, values)
    return reading_of(job, network, row.pk)


def _prove(network: JobNetwork, values: ReadingValues) -> None:
    """Raises ReadingError, with the request's own field, where a drop proves nothing."""
    circuit_id = None if values.circuit_id is None else str(values.circuit_id)
    try:
        network.judge.drop(Logged(values.measurement, circuit_id, values.current_a, values.lead_offset))
    except ReadingError as error:
        asked = {"value_v": ("measurement", "value"), "current_a": ("current_a",)}
        field = next((asked.get(str(each), ("measurement", each)) for each in error.field), ())
        raise ReadingError(str(error), field=field) from error


def _written_once(request: SignedInRequest, job: Job, values: ReadingValues) -> Reading:
    """The reading written now, or the one of that id that was written at the same moment."""
    if values.measurement.value is None and values.measurement.outcome is None:
        raise MeasurementError("say what was read: a value or a word", field=("measurement", "value"))
    links = _links(job, values)
    try:
        with transaction.atomic():
            return _write(request, job, values, links)
    except IntegrityError:
        same = Reading.objects.filter(pk=values.id, job=job).first()
        if same is None:
            raise
        return same


def _links(job: Job, values: ReadingValues) -> dict[str, UUID]:
    """The rows a measurement is of, which this job must have. Raises MeasurementError."""
    wanted: dict[str, tuple[type[Any], str]] = {
        name: (model, text) for name, model in LINKED.items() if (text := getattr(values.measurement, name)) is not None
    }
    found: dict[str, UUID] = {}
    for name, (model, text) in wanted.items():
        found[f"{name}_id"] = _row_of(job, model, text, ("measurement", name))
    if values.circuit_id is not None:
        found["circuit_id"] = _row_of(job, Circuit, str(values.circuit_id), ("circuit_id",))
    return found


def _row_of(job: Job, model: type[Any], text: str, field: tuple[str, ...]) -> UUID:
    try:
        row_id = UUID(text)
    except ValueError:
        row_id = None
    if row_id is None or not model.objects.filter(pk=row_id, job=job).exists():
        raise MeasurementError(f"this job has no such {model.__name__.lower()}", field=field)
    return row_id


def _write(request: SignedInRequest, job: Job, values: ReadingValues, links: dict[str, UUID]) -> Reading:
    superseded = _latest(job, values.supersedes) if values.supersedes else None
    measurement = values.measurement
    return Reading.objects.create(
        id=values.id,
        job=job,
        quantity=measurement.quantity,
        situation=measurement.situation.model_dump(mode="json", by_alias=True),
        instrument=measurement.with_what,
        value=measurement.value,
        outcome=measurement.outcome,
        supersedes=superseded,
        taken_at=_taken_at(values, timezone.now()),
        taken_by=request.user,
        **values.model_dump(include={"current_a", "lead_offset", "meter", "note"}),
        **links,
    )


def _latest(job: Job, reading_id: UUID) -> Reading:
    """The reading of that id, or what superseded it meanwhile: two phones may correct one. Raises ReadingError."""
    row = Reading.objects.select_for_update().filter(pk=reading_id, job=job).first()
    if row is None:
        raise ReadingError("that reading is not here", field=("supersedes",))
    while (later := Reading.objects.select_for_update().filter(supersedes=row).first()) is not None:
        row = later
    return row


def _taken_at(values: ReadingValues, now: datetime) -> datetime:
    """When it was taken by our clock; a clock that is wrong by a day is set right by what it said when it sent."""
    if values.taken_at is None:
        return now
    off = now - values.sent_at if values.sent_at else timedelta()
    taken = values.taken_at + off if abs(off) > CLOCK_IS_RIGHT else values.taken_at
    return min(taken, now)
