"""HTTP API of tracing: suspects from what a customer says and from readings of the log, and what to measure next."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal
from uuid import UUID

from django.http import HttpResponse
from ninja import Router

from jobs.schemas import as_json
from network.solving import JobNetwork, network_for_reading, tracer_of
from percorso.errors import PercorsoError
from percorso.faults.cures import Cure
from percorso.tracing.answer import Again, Suspect, Trace
from percorso.tracing.complaints import Complaint
from percorso.tracing.left_out import LeftOut
from percorso.tracing.mending import Mended
from percorso.tracing.next_test import NextTest
from percorso.tracing.proof import Stop
from percorso.tracing.speaking import weighs
from percorso.tracing.symptoms import SYMPTOMS, readings_of, said_of
from percorso.tracing.trace import Known
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.naming import named
from percorso.vehicle.segments import RelayContact, describe
from percorso.verification.instruments import UNITS
from percorso.verification.measurements import Measurement, by_ids, places
from percorso.verification.minutes import minutes
from percorso.verification.situation import prepared
from percorso.verification.test_list.asked import Asked
from percorso.verification.test_list.wording import caution, how, situation_says, words
from verification.ahead import AHEAD
from verification.api import job_of
from verification.case_steps import LeftOutIn, MendedIn
from verification.readings_told import ReadingOut
from verification.readings_told import readings_of as logged_readings_of
from verification.tests_api import Latest, TestOut, came_of, test_out
from verification.trace_schemas import (
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
    SymptomOut,
    ThenOut,
    TraceIn,
    TraceOut,
)
from workshop.signed_in import SignedInRequest

router = Router(tags=["trace"])
MOST_BESIDE = 30
NOT_DESCRIBED = "something not in this description"


@router.get("/symptoms", response=list[SymptomOut])
def list_symptoms(request: SignedInRequest) -> list[SymptomOut]:
    """What a customer can say."""
    return [SymptomOut(symptom=each, of=said_of(each)) for each in SYMPTOMS]


@router.post("/jobs/{job_id}/trace", response=TraceOut)
def trace(request: SignedInRequest, job_id: UUID, asked: TraceIn) -> HttpResponse:
    """Trace what is wrong; nothing is written. Readings that have not arrived yet do not count yet."""
    job = job_of(request, job_id)
    network = network_for_reading(job, request.user.shop.house_rules)
    AHEAD.give_way()
    tracer = tracer_of(job, network, asked.stage)
    vehicle = tracer.vehicle
    logged = logged_readings_of(job, network)
    counting = _counting(logged, asked)
    readings, known, not_believed = _listed(vehicle, asked, counting)
    beside = [
        KnownOut(says=_says(vehicle, each.logged.net), reading_id=each.id)
        for each in logged
        if each.measurement.situation.stage == asked.stage and not each.superseded and each not in counting
    ]
    left_out = [
        LeftOut(each.measurement, each.why, each.reach_min)
        for each in asked.left_out
        if _can_be_asked(vehicle, each.measurement)
    ]
    suspected = [each for each in asked.suspected if _is_there(vehicle, each)]
    found = tracer.trace(readings, suspected=suspected, left_out=left_out)
    telling = _Telling(network, asked.stage, readings, left_out, came_of(logged))
    told = as_json(telling.told(found, known, not_believed, beside[:MOST_BESIDE]))
    AHEAD.begin(tracer, found)
    return told


def _listed(
    vehicle: Vehicle, asked: TraceIn, counting: list[ReadingOut]
) -> tuple[list[Known], list[KnownOut], list[KnownOut]]:
    """What is known, in order, and in words; then what is not believed, for its part is not there any more."""
    readings, known, not_believed = list[Known](), list[KnownOut](), list[KnownOut]()
    for said in asked.said:
        try:
            told = said.symptom, asked.stage, said.device
            heard = readings_of(vehicle, *told, stood_h=said.stood_h, still=said.still)
        except PercorsoError as error:
            if said.device is None and said_of(said.symptom) != "the vehicle":
                raise  # nobody said of what
            says = f"{said.symptom}: {said.device}" if said.device else said.symptom
            not_believed.append(KnownOut(says=says, said=said, doubt=f"does not count: {error}"))
            continue
        readings += heard
        known += [KnownOut(says=_says(vehicle, each), said=said) for each in heard]
    there = [each for each in asked.mended if _is_there(vehicle, each.part)]
    for each in asked.mended:
        if each not in there:
            doubt = "does not count: there is no such part any more"
            not_believed.append(KnownOut(says=f"{each.part} mended", mended=each.part, doubt=doubt))
    for one, of in _in_order(counting, there):
        readings.append(one)
        known.append(_known(vehicle, one, of))
    return readings, known, not_believed


def _is_there(vehicle: Vehicle, designation: str) -> bool:
    return bool(named(vehicle.devices.values(), designation) or named(vehicle.segments.values(), designation))


def _can_be_asked(vehicle: Vehicle, measurement: Measurement) -> bool:
    """Whether what is measured is all there."""
    try:
        by_ids(prepared(vehicle, measurement.situation.preparations), measurement)
    except PercorsoError:
        return False
    return True


def _counting(logged: list[ReadingOut], asked: TraceIn) -> list[ReadingOut]:
    """The readings that count, the oldest first."""
    wanted = {str(each) for each in asked.reading_ids}
    return [each for each in reversed(logged) if each.id in wanted and not each.superseded]


def _in_order(counting: list[ReadingOut], mended: list[MendedIn]) -> Iterator[tuple[Known, str | None]]:
    """The readings with what was mended between them, each with its id in the log."""
    left = {each.id: each.logged.net for each in counting}
    for each in mended:
        for of in [str(one) for one in each.before if str(one) in left]:
            yield left.pop(of), of
        yield Mended(part=each.part), None
    yield from ((net, of) for of, net in left.items())


@dataclass(frozen=True)
class _Telling:
    """What is said of one trace, with what of it was measured at which stage already."""

    network: JobNetwork
    stage: Stage
    readings: Sequence[Known]
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

    def _next(self, test: NextTest) -> NextOut:
        """A measurement worth making, as the Tests room shows one."""
        tells = [
            ThenOut(
                outcome=each.outcome,
                name=" and ".join(_name(self._vehicle, one) if one else NOT_DESCRIBED for one in each.parts),
                probability=each.probability,
            )
            for each in test.tells
        ]
        return NextOut(test=self._test(test.measurement, test.minutes), bits=test.bits, tells=tells)

    def _beyond(self, found: Trace) -> str:
        """Where something is that is not described, and what it does there; empty where nothing says so."""
        if found.beyond is None:
            return ""
        point, does = found.beyond
        return f"{does} at {self._vehicle.points[point].name}"

    def _likely(self, found: Trace) -> LikelyOut | None:
        if found.likely is None:
            return None
        return LikelyOut(name=_name(self._vehicle, found.likely.part), probability=_most(found))

    def _stop(self, found: Trace, stop: Stop) -> StopOut:
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

    def _again(self, again: Again) -> TestOut:
        """A reading that was not as on sound metal, to be measured once more."""
        reading = self.readings[again.reading]
        if not isinstance(reading, Measurement):
            raise TypeError("only what was measured is measured again")
        return self._test(reading.model_copy(update={"value": None, "outcome": None}))

    def _test(self, measurement: Measurement, takes: float | None = None) -> TestOut:
        vehicle = self._vehicle
        asked = Asked(
            about="trace",
            what=".".join(str(each) for each in measurement.key_at_any_stage),
            title=_title(vehicle, measurement),
            group="under load",
            measurement=measurement,
            how=how(vehicle, measurement),
            caution=caution(measurement),
            minutes=minutes(vehicle, measurement, None) if takes is None else takes,
        )
        [expected] = self.network.expected([measurement])
        return test_out(vehicle, asked, expected, self.stage, self.came)


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


def _known(vehicle: Vehicle, known: Known, reading_id: str | None) -> KnownOut:
    if isinstance(known, Mended):
        return KnownOut(says=f"{known.part} mended", mended=known.part)
    return KnownOut(says=_says(vehicle, known), reading_id=reading_id)


def _says(vehicle: Vehicle, measurement: Measurement | Complaint) -> str:
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
