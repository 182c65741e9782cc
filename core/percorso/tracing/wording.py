"""A trace in words: parts as people call them, what is known, what is suspected, and the check that is next."""

from collections.abc import Iterable, Sequence

from percorso.faults.beyond import point_of
from percorso.faults.library import FaultMode
from percorso.faults.wording import fault_name
from percorso.tracing.answer import Suspect
from percorso.tracing.complaints import Complaint
from percorso.tracing.left_out import LeftOut
from percorso.tracing.mending import Evidence, Mended
from percorso.vehicle.model import Vehicle
from percorso.vehicle.naming import described
from percorso.verification.checks.asked import Check
from percorso.verification.checks.minutes import minutes
from percorso.verification.checks.wording import caution, how, situation_says, words
from percorso.verification.measured.instruments import UNITS
from percorso.verification.measured.measurements import Measurement, places

NOT_DESCRIBED = "something this job does not describe"
BEYOND = {
    "something else draws": "something else draws current at {point}",
    "something else draws to the battery": "something else draws current at {point}, grounded at the battery",
    "something else feeds": "something else feeds {point}",
    "something else joins": "something else connects {other} and {point}",
}  # what is not described, at a point or between two


def parts_of_outcome(vehicle: Vehicle, parts: Iterable[str]) -> str:
    """The parts that an outcome would point to; the empty name is what is not described."""
    return " and ".join(described(vehicle, each) if each else NOT_DESCRIBED for each in parts)


def beyond_says(vehicle: Vehicle, mode: FaultMode) -> str:
    """What there is that is not described, and where."""
    point, other = point_of(mode.part), mode.other
    named = {"point": vehicle.points[point or ""].name, "other": vehicle.points[other].name if other else ""}
    return BEYOND[mode.fault].format(**named)


def fault_says(vehicle: Vehicle, suspect: Suspect) -> str:
    """A fault, and the other part it takes where it takes one."""
    fault, other = fault_name(suspect.fault), vehicle.segments.get(suspect.other or "")
    return fault if other is None else f"{fault}: {other.designation}"


def evidence_says(vehicle: Vehicle, evidence: Evidence) -> str:
    """What was read, seen, said or mended."""
    match evidence:
        case Complaint(says=says):
            return says
        case Mended(part=part):
            return f"{part} fixed"
    outcome = dict(words(vehicle, evidence)).get(evidence.outcome or "", evidence.outcome)
    unit = UNITS.get(evidence.quantity, "")
    read = f"{evidence.value:.3g} {unit}" if evidence.value is not None else outcome
    return f"{_where(vehicle, evidence)}: {read}"


def left_out_says(vehicle: Vehicle, left_out: LeftOut) -> str:
    """A check that is not made, and why."""
    return f"{_where(vehicle, left_out.measurement)}: {left_out.why}"


def check_of(vehicle: Vehicle, measurement: Measurement, takes_min: float | None = None) -> Check:
    """A measurement that no plan asks for as a check; it takes its usual minutes where nobody knows better."""
    return Check(
        about="measured",
        what=".".join(str(each) for each in measurement.key_at_any_stage),
        title=_title(vehicle, measurement),
        group="under load",
        measurement=measurement,
        how=how(vehicle, measurement),
        caution=caution(measurement),
        minutes=minutes(vehicle, measurement, None) if takes_min is None else takes_min,
    )


def spent_min(vehicle: Vehicle, made: Sequence[Measurement]) -> float:
    """How long checks took that were made one after the other, minutes."""
    before = [None, *(each.situation for each in made)]
    return round(sum(minutes(vehicle, each, last) for each, last in zip(made, before, strict=False)), 1)


def _where(vehicle: Vehicle, measurement: Measurement) -> str:
    situation = situation_says(vehicle, measurement.situation, briefly=True)
    return f"{_title(vehicle, measurement)}, {situation}"


def _title(vehicle: Vehicle, measurement: Measurement) -> str:
    part = measurement.device or measurement.segment
    if part is None:
        return " → ".join(places(vehicle, measurement))
    name = described(vehicle, part)
    return f"current in {name}" if measurement.quantity == "current" else name
