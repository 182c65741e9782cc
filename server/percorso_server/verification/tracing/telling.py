"""A trace in words and tests: what is known, who is suspected, what is measured next, and the end."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from percorso.faults.cures import Cure
from percorso.tracing.answer import Recheck, Suspect, Trace, beyond_says
from percorso.tracing.complaints import Complaint
from percorso.tracing.left_out import LeftOut
from percorso.tracing.mending import Mended
from percorso.tracing.next_check import NextCheck
from percorso.tracing.proof import Conclusion
from percorso.tracing.speaking import weighs
from percorso.tracing.trace import Evidence
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.segments import RelayContact, describe
from percorso.verification.checks.asked import Check
from percorso.verification.checks.minutes import minutes
from percorso.verification.checks.wording import caution, how, situation_says, words
from percorso.verification.measured.instruments import UNITS
from percorso.verification.measured.measurements import Measurement, places
from percorso_server.network.solving import JobNetwork
from percorso_server.verification.checks.api import CheckOut, Latest, check_out
from percorso_server.verification.tracing.case_steps import LeftOutIn
from percorso_server.verification.tracing.schemas import (
    AcquittedOut,
    CureOut,
    KnownOut,
    LeftOutOut,
    LikelyOut,
    NextOut,
    PairOut,
    PartOut,
    StopOut,
    SuspectOut,
    ThenOut,
    TraceOut,
)

NOT_DESCRIBED = "something this job does not describe"


@dataclass(frozen=True)
class Telling:
    """What is said of one trace, with what of it was measured at which stage already."""

    network: JobNetwork
    stage: Stage
    readings: Sequence[Evidence]
    left_out: Sequence[LeftOut]
    came: Latest

    @property
    def _vehicle(self) -> Vehicle:
        return self.network.tracer(self.stage).vehicle

    def told(
        self, found: Trace, known: list[KnownOut], not_believed: list[KnownOut], beside: list[KnownOut]
    ) -> TraceOut:
        """A trace in words and tests."""
        vehicle = self._vehicle
        self._weigh(found, known)
        parts = [
            PartOut(
                part=part,
                designation=_designation(vehicle, part),
                name=_name(vehicle, part),
                probability=share,
                wasted=1 - share,
            )
            for part, share in found.of_units().items()
        ]
        pairs = [
            PairOut(
                names=[_name(vehicle, one) for one in each.parts],
                faults=list(each.faults),
                probability=each.probability,
            )
            for each in found.pairs
        ]
        return TraceOut(
            known=[*known, *not_believed],
            beside=beside,
            again=[self._again(each) for each in found.again],
            suspects=[_suspect(vehicle, each) for each in found.suspects],
            parts=parts,
            pairs=pairs,
            acquitted=[
                AcquittedOut(designation=_designation(vehicle, each.part), name=_name(vehicle, each.part), by=each.by)
                for each in found.acquitted
            ],
            next=[self._next(each) for each in found.next],
            likely=self._likely(found),
            stop=self._stop(found, found.stop) if found.stop else None,
            fits=found.fits,
            not_described=found.not_described,
            beyond=self._beyond(found),
            left_out=[self._left_out(each) for each in self.left_out],
            spent_min=self._spent_min(known),
            sound=found.sound,
            is_as_planned=found.is_as_planned,
        )

    def _left_out(self, one: LeftOut) -> LeftOutOut:
        title, situation = _title(self._vehicle, one.measurement), one.measurement.situation
        says = f"{title}, {situation_says(self._vehicle, situation, briefly=True)}: {one.why}"
        kept = LeftOutIn(measurement=one.measurement, why=one.why, reach_min=one.reach_min)
        return LeftOutOut(says=says, left_out=kept)

    def _spent_min(self, known: list[KnownOut]) -> float:
        """How long everything took that was measured, or tried."""
        logged = [one for one, told in zip(self.readings, known, strict=True) if told.reading_id is not None]
        measured = [each for each in logged if isinstance(each, Measurement)]
        tried = [*measured, *(each.measurement for each in self.left_out)]
        before = [None, *(each.situation for each in tried)]
        return round(sum(minutes(self._vehicle, each, last) for each, last in zip(tried, before, strict=False)), 1)

    def _weigh(self, found: Trace, known: list[KnownOut]) -> None:
        """Add to what is known what it says of the likeliest part, and why it is not believed as it stands."""
        part = next(iter(found.of_units()), "")
        for each in found.speaks:
            known[each.reading].side = each.side
            known[each.reading].weighs = weighs(_designation(self._vehicle, part), each)
        for doubtful in found.doubtful:
            for place in doubtful.readings:
                known[place].doubt = doubtful.why

    def _next(self, test: NextCheck) -> NextOut:
        """A measurement worth making, as the Tests room shows one."""
        tells = [
            ThenOut(
                outcome=each.outcome,
                name=" and ".join(_name(self._vehicle, one) if one else NOT_DESCRIBED for one in each.parts),
                probability=each.probability,
            )
            for each in test.meanings
        ]
        return NextOut(
            test=self._test(test.measurement, test.minutes), bits=test.bits, how_much=test.how_much, tells=tells
        )

    def _beyond(self, found: Trace) -> str:
        """Where something is that is not described, and what it does there; empty where nothing says so."""
        return beyond_says(self._vehicle, found.beyond) if found.beyond else ""

    def _likely(self, found: Trace) -> LikelyOut | None:
        if found.likely is None:
            return None
        return LikelyOut(name=_name(self._vehicle, found.likely.part), probability=_most(found))

    def _stop(self, found: Trace, stop: Conclusion) -> StopOut:
        stops = [stop, *([stop.also] if stop.also else [])]
        return StopOut(
            name=_name(self._vehicle, stop.part),
            parts=[_designation(self._vehicle, each.part) for each in stops],
            prove=self._test(stop.prove) if stop.prove else None,
            by=stop.by,
            cures=[_cure(each) for one in stops for each in one.cures],
            also=_name(self._vehicle, stop.also.part) if stop.also else None,
            is_proved=stop.is_proved,
            probability=found.pairs[0].probability if stop.also else _most(found),
        )

    def _again(self, again: Recheck) -> CheckOut:
        """A reading that was not as on sound metal, to be measured once more."""
        reading = self.readings[again.reading]
        if not isinstance(reading, Measurement):
            raise TypeError("only what was measured is measured again")
        return self._test(reading.model_copy(update={"value": None, "outcome": None}))

    def _test(self, measurement: Measurement, takes: float | None = None) -> CheckOut:
        vehicle = self._vehicle
        asked = Check(
            about="trace",
            what=".".join(str(each) for each in measurement.key_at_any_stage),
            title=_title(vehicle, measurement),
            group="under load",
            measurement=measurement,
            how=how(vehicle, measurement),
            caution=caution(measurement),
            minutes=minutes(vehicle, measurement, None) if takes is None else takes,
        )
        [expected] = self.network.judge.expected([measurement])
        return check_out(vehicle, asked, expected, self.stage, self.came)


def _most(found: Trace) -> float:
    """How probable the likeliest part is."""
    return next(iter(found.of_units().values()), 0.0)


def _cure(cure: Cure) -> CureOut:
    priced = {"work_min": cure.work_min, "copper_g": cure.copper_g}
    return CureOut(does=cure.does, condition=cure.condition, edits=list(cure.edits), **priced)


def _suspect(vehicle: Vehicle, suspect: Suspect) -> SuspectOut:
    other = vehicle.segments.get(suspect.other or "")
    return SuspectOut(
        part=suspect.part,
        unit=suspect.unit,
        piece=_piece(vehicle, suspect.part),
        name=_name(vehicle, suspect.part),
        fault=suspect.fault if other is None else f"{suspect.fault}: {other.designation}",
        probability=suspect.probability,
        how_bad=suspect.how_bad,
        explains=list(suspect.explains),
        because=list(suspect.because),
        comes_and_goes=suspect.comes_and_goes,
    )


def _piece(vehicle: Vehicle, part: str) -> Literal["coil", "contact"] | None:
    """What of a relay a part is."""
    device, segment = vehicle.devices.get(part), vehicle.segments.get(part)
    if device is not None and isinstance(device.spec, RelayCoil):
        return "coil"
    return "contact" if segment is not None and isinstance(segment.spec, RelayContact) else None


def _designation(vehicle: Vehicle, part: str) -> str:
    return (vehicle.devices.get(part) or vehicle.segments[part]).designation


def _name(vehicle: Vehicle, part: str) -> str:
    """A part as people call it: its designation, and what it is."""
    device = vehicle.devices.get(part)
    if device is not None:
        return f"{device.designation} {device.name}"
    segment = vehicle.segments[part]
    return f"{segment.designation} {describe(segment.spec)}"


def known_of(vehicle: Vehicle, known: Evidence, reading_id: str | None) -> KnownOut:
    """Something that is known, in words, with its id in the log where it is of it."""
    if isinstance(known, Mended):
        return KnownOut(says=f"{known.part} fixed", mended=known.part)
    return KnownOut(says=says_of(vehicle, known), reading_id=reading_id)


def says_of(vehicle: Vehicle, measurement: Measurement | Complaint) -> str:
    """What was read, seen or said, in words."""
    if isinstance(measurement, Complaint):
        return measurement.says
    said = dict(words(vehicle, measurement)).get(measurement.outcome or "", measurement.outcome)
    unit = UNITS.get(measurement.quantity, "")
    value = f"{measurement.value:.3g} {unit}" if measurement.value is not None else said
    return f"{_title(vehicle, measurement)}, {situation_says(vehicle, measurement.situation, briefly=True)}: {value}"


def _title(vehicle: Vehicle, measurement: Measurement) -> str:
    part = measurement.device or measurement.segment
    if part is None:
        return " → ".join(places(vehicle, measurement))
    name = _name(vehicle, part)
    return f"current in {name}" if measurement.quantity == "current" else name
