"""What the HTTP API of tracing takes and answers."""

from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from percorso.faults.cures import Renewal
from percorso.files.job_file import MOST_COUNTED, MOST_MENDED, MOST_SAID, MOST_SUSPECTED
from percorso.tracing.situations import By
from percorso.tracing.speaking import EvidenceSide
from percorso.tracing.symptoms import Said, Symptom, SymptomOf
from percorso.vehicle.model import Stage
from percorso_server.jobs.schemas import Body
from percorso_server.verification.checks.api import CheckOut
from percorso_server.verification.tracing.case_steps import Designation, LeftOutIn, MendedIn


class TraceIn(Body):
    """What is known of a vehicle: what was said, which readings of the log count, what was mended since, which parts
    somebody suspects, and which tests are left out.
    """

    stage: Stage = "planned"
    said: Annotated[list[Said], Field(max_length=MOST_SAID)] = []
    reading_ids: Annotated[list[UUID], Field(max_length=MOST_COUNTED)] = []
    mended: Annotated[list[MendedIn], Field(max_length=MOST_MENDED)] = []
    suspected: Annotated[list[Designation], Field(max_length=MOST_SUSPECTED)] = []
    left_out: Annotated[list[LeftOutIn], Field(max_length=MOST_COUNTED)] = []


class SymptomOut(BaseModel):
    """What a customer can say, and what one has to say it of."""

    symptom: Symptom
    of: SymptomOf


class SuspectOut(BaseModel):
    """One way a part can be bad, how probable that is, and the known things it explains, by their places. ``unit`` is
    what it is renewed with, and ``piece`` what of that it is.
    """

    part: str
    unit: str
    piece: Literal["coil", "contact"] | None
    name: str
    fault: str
    probability: float
    how_bad: str
    explains: list[int]
    because: list[str]
    comes_and_goes: bool


class PartOut(BaseModel):
    """A part with all its suspects: how probable it is, and how probable that replacing it is for nothing."""

    part: str
    designation: str
    name: str
    probability: float
    wasted: float


class PairOut(BaseModel):
    """Two faults that explain what is known together."""

    names: list[str]
    faults: list[str]
    probability: float


class KnownOut(BaseModel):
    """Something that is known, in words; ``reading_id`` where it is of the log, ``said`` where a customer says it, and
    ``mended`` the part that was mended.
    ``side`` and ``weighs`` say whether it speaks for the likeliest part and how far off it is, ``doubt`` why it is not
    believed as it stands.
    """

    says: str
    said: Said | None = None
    side: EvidenceSide = "neither"
    weighs: str = ""
    doubt: str = ""
    reading_id: str | None = None
    mended: str | None = None


class LeftOutOut(BaseModel):
    """A test that is left out, in words."""

    says: str
    left_out: LeftOutIn


class AcquittedOut(BaseModel):
    """A part that is not it, and the place of what says so most among what is known."""

    designation: str
    name: str
    by: int


class ThenOut(BaseModel):
    """What an outcome would mean: the part that is most probable then, empty for none."""

    outcome: str
    name: str
    probability: float


class NextOut(BaseModel):
    """A measurement worth making, as a test, with how many bits it tells, in words too, and what its outcomes mean."""

    test: CheckOut
    bits: float
    how_much: str
    tells: list[ThenOut]


class CureOut(BaseModel):
    """One way to mend a part, with its work (minutes) and its copper (g), what must hold for it, and what it is in the
    plan.
    """

    does: str
    work_min: float
    copper_g: float
    condition: str
    edits: list[Renewal]


class StopOut(BaseModel):
    """The part that is known well enough, how to prove it, and what cures it; ``also`` is the other of two parts, and
    ``parts`` what the two are called.

    ``by``: the part is bridged, swapped or taken out of the way, and what was wrong must come right, or it is measured
    itself.
    """

    name: str
    parts: list[str]
    prove: CheckOut | None
    by: By | None
    cures: list[CureOut]
    also: str | None
    is_proved: bool
    probability: float


class LikelyOut(BaseModel):
    """A part that is probable enough, and is looked at itself before that is the end."""

    name: str
    probability: float


class TraceOut(BaseModel):
    """What is known says this; ``is_as_planned`` where sound metal explains all of it. ``beside``: readings of the log
    at this stage that are not counted. ``of_metal``: how probable each piece and device is. ``again``: what was off,
    and is measured once more when something was mended. ``fits``: something explains what was read as well as one may
    expect. ``spent_min``: how long all took that was measured, or tried.
    """

    known: list[KnownOut]
    beside: list[KnownOut]
    suspects: list[SuspectOut]
    of_metal: dict[str, float]
    parts: list[PartOut]
    pairs: list[PairOut]
    acquitted: list[AcquittedOut]
    next: list[NextOut]
    likely: LikelyOut | None
    stop: StopOut | None
    fits: bool
    again: list[CheckOut]
    not_described: float
    beyond: str
    left_out: list[LeftOutOut]
    spent_min: float
    sound: float
    is_as_planned: bool
