"""What can be done to a case, one step at a time: what two people do to it comes together, nothing is written over."""

from collections.abc import Sequence
from typing import Annotated, Any, Literal, TypeVar
from uuid import UUID

from pydantic import BaseModel, Field

from percorso.errors import PercorsoError
from percorso.files.job_file import MOST_COUNTED, MOST_MENDED, MOST_SAID, MOST_SUSPECTED
from percorso.tracing.left_out import WhyNot
from percorso.tracing.symptoms import Said
from percorso.verification.measured.measurements import Measurement
from percorso_server.jobs.schemas import Body

Designation = Annotated[str, Field(min_length=1, max_length=100)]
MOST = {
    "said": MOST_SAID,
    "readings": MOST_COUNTED,
    "doubted": MOST_COUNTED,
    "mended": MOST_MENDED,
    "suspected": MOST_SUSPECTED,
    "left_out": MOST_COUNTED,
}
_One = TypeVar("_One")


class MendedIn(Body):
    """A part that was mended, by its designation, and the readings that counted before."""

    part: Designation
    before: Annotated[list[UUID], Field(max_length=MOST_COUNTED)] = []


class LeftOutIn(Body):
    """A test that somebody cannot, will not or could not make; ``reach_min`` is how long one takes to get at it."""

    measurement: Measurement
    why: WhyNot
    reach_min: Annotated[float | None, Field(ge=0, le=1000)] = None


class CaseOut(BaseModel):
    """What was said, which readings of the log count or are doubted, what was mended since, what is suspected, and
    which tests are left out.

    ``version`` grows with each step.
    """

    version: int
    said: list[Said]
    readings: list[UUID]
    doubted: list[UUID]
    mended: list[MendedIn]
    suspected: list[Designation]
    left_out: list[LeftOutIn]


NOTHING = CaseOut(version=0, said=[], readings=[], doubted=[], mended=[], suspected=[], left_out=[])


class OfSaid(Body):
    """Something that a customer says is known, or taken back."""

    do: Literal["say", "unsay"]
    said: Said

    def change(self, case: CaseOut) -> dict[str, Any]:
        """What becomes of the case."""
        return {"said": _set(case.said, self.said, there=self.do == "say")}


class OfReading(Body):
    """A reading of the log counts, or is doubted, or is trusted again."""

    do: Literal["count", "doubt", "trust"]
    reading: UUID

    def change(self, case: CaseOut) -> dict[str, Any]:
        """What becomes of the case."""
        if self.do == "count":
            return {"readings": _set(case.readings, self.reading, there=True)}
        return {"doubted": _set(case.doubted, self.reading, there=self.do == "doubt")}


class OfPart(Body):
    """A part was mended, after what counted by then, or somebody suspects it; or neither after all."""

    do: Literal["mend", "unmend", "suspect", "unsuspect"]
    part: Designation

    def change(self, case: CaseOut) -> dict[str, Any]:
        """What becomes of the case."""
        if self.do in ("suspect", "unsuspect"):
            return {"suspected": _set(case.suspected, self.part, there=self.do == "suspect")}
        others = [each for each in case.mended if each.part != self.part]
        if self.do == "unmend":
            return {"mended": others}
        is_known = len(others) < len(case.mended)
        return {} if is_known else {"mended": [*others, MendedIn(part=self.part, before=case.readings)]}


class OfCheck(Body):
    """A test is left out, or offered again after all."""

    do: Literal["leave out", "take up"]
    left_out: LeftOutIn

    def change(self, case: CaseOut) -> dict[str, Any]:
        """What becomes of the case."""
        others = [each for each in case.left_out if each.measurement.key != self.left_out.measurement.key]
        return {"left_out": [*others, self.left_out] if self.do == "leave out" else others}


class Begin(Body):
    """Nothing is known any more."""

    do: Literal["begin"]

    def change(self, case: CaseOut) -> dict[str, Any]:
        """What becomes of the case."""
        return {name: [] for name in MOST}


CaseStep = Annotated[OfSaid | OfReading | OfPart | OfCheck | Begin, Field(discriminator="do")]


def after(case: CaseOut, step: OfSaid | OfReading | OfPart | OfCheck | Begin) -> CaseOut:
    """The case after a step. Raises PercorsoError where it would hold more than a case does."""
    changed = case.model_copy(update={**step.change(case), "version": case.version + 1})
    for name, most in MOST.items():
        if len(getattr(changed, name)) > most:
            raise PercorsoError(f"a case holds no more than {most} of these; begin anew", field=(name,))
    return changed


def _set(listed: Sequence[_One], one: _One, *, there: bool) -> list[_One]:
    """The same with something in it, once and at its place, or without it."""
    if not there:
        return [each for each in listed if each != one]
    return list(listed) if one in listed else [*listed, one]
