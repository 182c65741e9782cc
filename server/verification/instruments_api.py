"""HTTP API of the shop's instruments: which there are, and what one of them shows now."""

import hashlib
import json
from uuid import UUID

from ninja import Router
from pydantic import BaseModel

from jobs.schemas import Body
from network.solving import JobNetwork, network_for_reading
from percorso.files.job_file import JobHead, job_file_of
from percorso.verification.measurements import Measurement
from verification.api import job_of
from verification.instruments import LaidOut, Read, instruments, read
from workshop.signed_in import SignedInRequest

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
    job = job_of(request, job_id)
    network = network_for_reading(job, request.user.shop.house_rules)
    text = _metal(network)
    return read(asked.name, LaidOut(lambda: text, hashlib.sha256(text.encode()).hexdigest(), asked.measurement))


def _metal(network: JobNetwork) -> str:
    """The job's metal on one line of ASCII, for a meter that is simulated."""
    file = job_file_of(JobHead("on the bench", "vehicle", ""), network.vehicle, [])
    return json.dumps(file.model_dump(mode="json", by_alias=True))
