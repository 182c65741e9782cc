"""A trace as the API answers it: what is known, who is suspected, what is measured next, and the end."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from percorso.faults.cures import Cure
from percorso.faults.wording import fault_name
from percorso.tracing.answer import Recheck, Suspect, Trace
from percorso.tracing.left_out import LeftOut
from percorso.tracing.mending import Evidence, Mended
from percorso.tracing.next_check import NextCheck
from percorso.tracing.proof import Conclusion
from percorso.tracing.speaking import weighs
from percorso.tracing.wording import (
    beyond_says,
    check_of,
    evidence_says,
    fault_says,
    left_out_says,
    parts_of_outcome,
    spent_min,
)
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.naming import described, designation_of
from percorso.vehicle.segments import RelayContact
from percorso.verification.measured.measurements import Measurement
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


@dataclass(frozen=True)
class TraceView:
    """One trace of a job at a stage, with what of it was measured already."""

    network: JobNetwork
    stage: Stage
    readings: Sequence[Evidence]
    left_out: Sequence[LeftOut]
    came: Latest

    @property
    def _vehicle(self) -> Vehicle:
        return self.network.tracer(self.stage).vehicle

    def answer(
        self, found: Trace, known: list[KnownOut], not_believed: list[KnownOut], beside: list[KnownOut]
    ) -> TraceOut:
        """All of it. ``known`` is what counts, in the order of the readings."""
        vehicle = self._vehicle
        self._weigh(found, known)
        return TraceOut(
            known=[*known, *not_believed],
            beside=beside,
            again=[self._again(each) for each in found.again],
            suspects=[_suspect(vehicle, each) for each in found.suspects],
            of_metal=found.of_metal(),
            parts=[_part(vehicle, part, share) for part, share in found.of_units().items()],
            pairs=[
                PairOut(
                    names=[described(vehicle, one) for one in each.parts],
                    faults=[fault_name(one) for one in each.faults],
                    probability=each.probability,
                )
                for each in found.pairs
            ],
            acquitted=[
                AcquittedOut(
                    designation=designation_of(vehicle, each.part), name=described(vehicle, each.part), by=each.by
                )
                for each in found.acquitted
            ],
            next=[self._next(each) for each in found.next],
            likely=found.likely and LikelyOut(name=described(vehicle, found.likely.part), probability=_most(found)),
            stop=found.stop and self._stop(found, found.stop),
            fits=found.fits,
            not_described=found.not_described,
            beyond=beyond_says(vehicle, found.beyond) if found.beyond else "",
            left_out=[
                LeftOutOut(
                    says=left_out_says(vehicle, each),
                    left_out=LeftOutIn(measurement=each.measurement, why=each.why, reach_min=each.reach_min),
                )
                for each in self.left_out
            ],
            spent_min=self._spent_min(known),
            sound=found.sound,
            is_as_planned=found.is_as_planned,
        )

    def _spent_min(self, known: list[KnownOut]) -> float:
        """How long everything took that was measured, or tried."""
        logged = [one for one, told in zip(self.readings, known, strict=True) if told.reading_id is not None]
        measured = [each for each in logged if isinstance(each, Measurement)]
        return spent_min(self._vehicle, [*measured, *(each.measurement for each in self.left_out)])

    def _weigh(self, found: Trace, known: list[KnownOut]) -> None:
        """Add to what is known what it says of the likeliest part, and why it is not believed as it stands."""
        part = next(iter(found.of_units()), "")
        for each in found.speaks:
            known[each.reading].side = each.side
            known[each.reading].weighs = weighs(designation_of(self._vehicle, part), each)
        for doubtful in found.doubtful:
            for place in doubtful.readings:
                known[place].doubt = doubtful.why

    def _next(self, check: NextCheck) -> NextOut:
        """A measurement worth making, as the Tests room shows one."""
        meanings = [
            ThenOut(
                outcome=each.outcome,
                name=parts_of_outcome(self._vehicle, each.parts),
                probability=each.probability,
            )
            for each in check.meanings
        ]
        asked = self._check(check.measurement, check.minutes)
        return NextOut(test=asked, bits=check.bits, how_much=check.how_much, tells=meanings)

    def _stop(self, found: Trace, stop: Conclusion) -> StopOut:
        stops = [stop, *([stop.also] if stop.also else [])]
        return StopOut(
            name=described(self._vehicle, stop.part),
            parts=[designation_of(self._vehicle, each.part) for each in stops],
            prove=self._check(stop.prove) if stop.prove else None,
            by=stop.by,
            cures=[_cure(each) for one in stops for each in one.cures],
            also=described(self._vehicle, stop.also.part) if stop.also else None,
            is_proved=stop.is_proved,
            probability=found.pairs[0].probability if stop.also else _most(found),
        )

    def _again(self, again: Recheck) -> CheckOut:
        """A reading that was not as on sound metal, to be measured once more."""
        reading = self.readings[again.reading]
        if not isinstance(reading, Measurement):
            raise TypeError("only what was measured is measured again")
        return self._check(reading.model_copy(update={"value": None, "outcome": None}))

    def _check(self, measurement: Measurement, takes_min: float | None = None) -> CheckOut:
        check = check_of(self._vehicle, measurement, takes_min)
        [expected] = self.network.judge.expected([measurement])
        return check_out(self._vehicle, check, expected, self.stage, self.came)


def known_of(vehicle: Vehicle, evidence: Evidence, reading_id: str | None) -> KnownOut:
    """Something that is known, in words, with its id in the log where it is of it."""
    mended = evidence.part if isinstance(evidence, Mended) else None
    return KnownOut(says=evidence_says(vehicle, evidence), reading_id=reading_id, mended=mended)


def _most(found: Trace) -> float:
    """How probable the likeliest part is."""
    return next(iter(found.of_units().values()), 0.0)


def _part(vehicle: Vehicle, part: str, share: float) -> PartOut:
    called = {"designation": designation_of(vehicle, part), "name": described(vehicle, part)}
    return PartOut(part=part, probability=share, wasted=1 - share, **called)


def _cure(cure: Cure) -> CureOut:
    priced = {"work_min": cure.work_min, "copper_g": cure.copper_g}
    return CureOut(does=cure.does, condition=cure.condition, edits=list(cure.edits), **priced)


def _suspect(vehicle: Vehicle, suspect: Suspect) -> SuspectOut:
    return SuspectOut(
        part=suspect.part,
        unit=suspect.unit,
        piece=_piece(vehicle, suspect.part),
        name=described(vehicle, suspect.part),
        fault=fault_says(vehicle, suspect),
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
