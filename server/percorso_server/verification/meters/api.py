"""HTTP API of the shop's instruments: which there are, and what one of them shows now."""

import hashlib
import json
from collections.abc import Iterator
from contextlib import contextmanager
from uuid import UUID

from ninja import Router
from pydantic import BaseModel

from percorso.files.job_file import JobHead, job_file_of
from percorso.verification.measured.measurements import Measurement
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.schemas import Body
from percorso_server.network.solving import JobNetwork, asked_network
from percorso_server.verification.meters.instruments import InstrumentError, LaidOut, Read, instruments, read
from percorso_server.workshop.signed_in import SignedInRequest
from percorso_server.workshop.turns import TURNS, turn_of

router = Router(tags=["instruments"])


class InstrumentName(BaseModel):
    """An instrument by the name that the operator gave it."""

    name: str


class Asked(Body):
    """Which instrument is read, and what its probes are at."""

    name: str
    measurement: Measurement


@router.get("/instruments", response=list[InstrumentName])
def list_instruments(request: SignedInRequest) -> list[InstrumentName]:
    """The instruments that can be read."""
    return [InstrumentName(name=each) for each in instruments()]


@router.post("/jobs/{job_id}/instruments/read", response=Read)
def read_instrument(request: SignedInRequest, job_id: UUID, asked: Asked) -> Read:
    """What an instrument shows now; nothing is logged. An answer comes within three seconds."""
    job = asked_job(request, job_id)
    network = asked_network(request, job)
    text = _metal(network)
    laid_out = LaidOut(lambda: text, hashlib.sha256(text.encode()).hexdigest(), asked.measurement)
    with one_at_a_time(request.user.pk), TURNS.apart(turn_of(request)):
        return read(asked.name, laid_out)


_reading: set[int] = set()  # the people for whom this process reads an instrument


@contextmanager
def one_at_a_time(person: int) -> Iterator[None]:
    """Raise InstrumentError where a reading of this person is under way."""
    if person in _reading:
        raise InstrumentError("the reading before is still under way; try again when it has come", field=("name",))
    _reading.add(person)
    try:
        yield
    finally:
        _reading.discard(person)


def _metal(network: JobNetwork) -> str:
    """The job's metal on one line of ASCII, for a meter that is simulated."""
    file = job_file_of(JobHead("on the bench", "vehicle", ""), network.vehicle, [])
    return json.dumps(file.model_dump(mode="json", by_alias=True))
