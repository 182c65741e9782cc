"""A measurement as it was logged, and everything that is said of it."""

from dataclasses import dataclass
from typing import Literal

from percorso.circuits.verdict import Verdict
from percorso.verification.judging.expected import Expected
from percorso.verification.judging.outcomes import Compared, Outcome
from percorso.verification.judging.readings import DropReading, Judgement
from percorso.verification.measured.measurements import Measurement

Standing = Literal[Compared, "over"]


@dataclass(frozen=True)
class Logged:
    """A measurement with its value or word. ``current_a`` is what flowed meanwhile, where somebody measured it.

    ``lead_offset`` is what the instrument shows with its probes together, in the unit of the value.
    """

    measurement: Measurement
    circuit_id: str | None = None
    current_a: float | None = None
    lead_offset: float = 0.0

    @property
    def key(self) -> tuple[object, ...]:
        """Tells apart what is judged."""
        one = self.measurement
        return self.circuit_id, self.current_a, self.lead_offset, one.value, one.outcome, *one.key

    @property
    def net(self) -> Measurement:
        """The measurement without what the leads add."""
        value = self.measurement.value
        if value is None or not self.lead_offset:
            return self.measurement
        return self.measurement.model_copy(update={"value": value - self.lead_offset})

    def as_drop(self, current_a: float) -> DropReading:
        """The measurement as a drop at a current."""
        one, value = self.measurement, self.measurement.value
        return DropReading(one.red_point or "", one.black_point or "", value or 0.0, current_a, self.lead_offset)


@dataclass(frozen=True)
class Judged:
    """What a logged measurement says: beside what is expected, and as a drop of its circuit where it is one.

    ``why_not`` says why nothing can be said, or nothing of the circuit.
    """

    expected: Expected
    outcome: Outcome
    drop: Judgement | None = None
    why_not: str = ""

    @property
    def standing(self) -> Standing:
        """Both in one word: over what it must keep to, or how it compares."""
        verdict = self.verdict
        return "over" if verdict is not None and verdict.word == "fail" else self.outcome.compared

    @property
    def verdict(self) -> Verdict | None:
        """Of the whole circuit with it, or of what it must come to."""
        if self.drop is not None:
            return self.drop.verdict
        return None if self.why_not else self.outcome.verdict


def unjudged(why_not: str) -> Judged:
    """Nothing can be said."""
    return Judged(Expected(why_not=why_not), Outcome("not known"), why_not=why_not)
