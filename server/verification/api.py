"""HTTP API of the log: readings are added and read, never changed."""

from datetime import datetime
from typing import Annotated, Any
from uuid import UUID, uuid4

from django.db import IntegrityError, transaction
from django.http import Http404
from django.utils import timezone
from ninja import Router
from pydantic import BaseModel, ConfigDict, Field

from jobs.models import Circuit, Job
from network.circuit_view import Basis, shown
from network.solving import JobNetwork, View, network_for_reading
from percorso.circuits.voltage_profile import Profile
from percorso.errors import PercorsoError, ReadingError
from percorso.files.job_file import READING_VOLTAGE
from percorso.names import Note
from percorso.quantities import CURRENT
from percorso.vehicle.model import Stage
from percorso.vehicle.typed_fields import typed
from percorso.verification.readings import DropReading, Judgement, Mark, mark
from verification.models import Reading
from workshop.signed_in import SignedInRequest

router = Router(tags=["readings"])


class ReadingValues(BaseModel):
    """A voltage drop as measured: red probe nearer the source."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    id: UUID = Field(default_factory=uuid4)
    stage: Stage = "planned"
    red_point: UUID
    black_point: UUID
    value_v: Annotated[float, typed(READING_VOLTAGE)]
    current_a: Annotated[float, typed(CURRENT)]
    lead_offset_v: Annotated[float, typed(READING_VOLTAGE)] = 0.0
    instrument: Note = ""
    note: Note = ""
    supersedes: UUID | None = None


class ReadingOut(BaseModel):
    """A logged reading; ``judgement`` is None when its probes left the circuit, and ``why_not`` says so.

    ``mark`` is its place on the profile that is shown.
    """

    id: str
    circuit_id: str
    stage: Stage
    red_point: str
    red_name: str
    black_point: str
    black_name: str
    value_v: float
    current_a: float
    lead_offset_v: float
    instrument: str
    note: str
    taken_at: datetime
    taken_by: str
    superseded: bool
    judgement: Judgement | None
    mark: Mark | None = None
    why_not: str


@router.get("/jobs/{job_id}/readings", response=list[ReadingOut])
def list_readings(request: SignedInRequest, job_id: UUID, view: View, basis: Basis = "design") -> list[ReadingOut]:
    """Every reading of a job, the newest first, judged against the plan as it is now."""
    job = Job.objects.filter(shop=request.user.shop, pk=job_id).first()
    if job is None:
        raise Http404
    rows = Reading.objects.filter(circuit__job=job, circuit__live=True)
    with_names = rows.select_related("red_point", "black_point", "taken_by", "superseded_by")
    network = network_for_reading(job, request.user.shop.house_rules)
    judged = [_judged(network, row) for row in with_names]
    profiles: dict[str, Profile] = {}
    for reading in judged:
        if reading.circuit_id not in profiles:
            profiles[reading.circuit_id], _ = shown(network, reading.circuit_id, view, basis)
        reading.mark = mark(profiles[reading.circuit_id], _drop(reading))
    return judged


@router.post("/circuits/{circuit_id}/readings", response=ReadingOut)
def log_reading(request: SignedInRequest, circuit_id: UUID, values: ReadingValues) -> ReadingOut:
    """Log what the meter said. Sent twice with the same id it is logged once."""
    circuit = Circuit.objects.filter(pk=circuit_id, job__shop=request.user.shop, live=True).first()
    if circuit is None:
        raise Http404
    network = network_for_reading(circuit.job, request.user.shop.house_rules)
    same = Reading.objects.filter(pk=values.id, circuit=circuit).first()
    if same is not None:
        return _judged(network, same)
    judgement = network.judge(str(circuit_id), values.stage, _drop(values))
    return _reading_out(_written_once(request, circuit, values), judgement)


def _written_once(request: SignedInRequest, circuit: Circuit, values: ReadingValues) -> Reading:
    """The reading written now, or the one of that id that was written at the same moment."""
    try:
        with transaction.atomic():
            return _write(request, circuit, values)
    except IntegrityError:
        same = Reading.objects.filter(pk=values.id, circuit=circuit).first()
        if same is None:
            raise
        return same


def _write(request: SignedInRequest, circuit: Circuit, values: ReadingValues) -> Reading:
    superseded = None
    if values.supersedes:
        superseded = Reading.objects.filter(pk=values.supersedes, circuit=circuit, superseded_by=None).first()
        if superseded is None:
            raise ReadingError("that reading is not here, or was superseded already", field=("supersedes",))
    columns = values.model_dump(exclude={"red_point", "black_point", "supersedes"})
    return Reading.objects.create(
        circuit=circuit,
        red_point_id=values.red_point,
        black_point_id=values.black_point,
        supersedes=superseded,
        taken_at=timezone.now(),
        taken_by=request.user,
        **columns,
    )


def _drop(reading: ReadingValues | ReadingOut) -> DropReading:
    return DropReading(
        str(reading.red_point),
        str(reading.black_point),
        reading.value_v,
        reading.current_a,
        reading.lead_offset_v,
    )


def _judged(network: JobNetwork, row: Reading) -> ReadingOut:
    """A reading against the plan as it is now."""
    stage: Stage = "found" if row.stage == "found" else "planned"
    red, black = str(row.red_point_id), str(row.black_point_id)
    measured = DropReading(red, black, row.value_v, row.current_a, row.lead_offset_v)
    try:
        return _reading_out(row, network.judge(str(row.circuit_id), stage, measured))
    except PercorsoError as error:
        return _reading_out(row, None, str(error))


def _reading_out(row: Reading, judgement: Judgement | None, why_not: str = "") -> ReadingOut:
    values: dict[str, Any] = {
        name: getattr(row, name)
        for name in ("stage", "value_v", "current_a", "lead_offset_v", "instrument", "note", "taken_at")
    }
    return ReadingOut(
        id=str(row.id),
        circuit_id=str(row.circuit_id),
        red_point=str(row.red_point_id),
        red_name=row.red_point.name,
        black_point=str(row.black_point_id),
        black_name=row.black_point.name,
        taken_by=row.taken_by.username,
        superseded=hasattr(row, "superseded_by"),
        judgement=judgement,
        why_not=why_not,
        **values,
    )
