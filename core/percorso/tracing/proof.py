"""When one part is known well enough: how to prove it before anything is replaced, and what cures it."""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from percorso.faults.cures import Cure, cures_of
from percorso.faults.library import FaultMode
from percorso.tracing.candidates import leads_of
from percorso.tracing.complaints import Observation
from percorso.tracing.situations import By, Carries, looked_at, prepared_again, proof_by_substitution
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import GUARDS
from percorso.vehicle.states import STATES
from percorso.verification.measured.measurements import Measurement, Situation

PROVES_FROM = 3.0  # standard deviations between the part bad and sound, from which a reading proves which it is
ENOUGH_APART = 8.0  # more make no better proof


@dataclass(frozen=True)
class Read:
    """What would be read: a word, or a value with one standard deviation of it; neither where nothing is told."""

    word: str | None
    value: float
    deviation: float

    def apart(self, other: "Read") -> float:
        """How many standard deviations two readings are apart: a word is another or the same."""
        if self.word is not None or other.word is not None:
            return math.inf if self.word != other.word else 0.0
        return abs(self.value - other.value) / math.hypot(self.deviation, other.deviation)


Reads = Callable[[Measurement, bool], Read]  # what a measurement would read, with the part bad or on sound metal


@dataclass(frozen=True)
class Conclusion:
    """The part that is known well enough, a measurement that would read otherwise if it were not it, and its cures.

    ``by``: what the proof does: the part is bridged, swapped or taken out of the way, and what was wrong must come
    right, or it is measured itself. None with ``is_proved`` where that was read already; without it nothing tells the
    part from a sound one. ``also`` is the other of two parts.
    """

    part: str
    prove: Measurement | None
    by: By | None
    cures: tuple[Cure, ...]
    also: "Conclusion | None" = None
    is_proved: bool = False


def stop_at_two(vehicle: Vehicle, parts: tuple[str, str], faults: tuple[str, str]) -> Conclusion:
    """What to do once two parts are known: with one of them bridged nothing comes right, so nothing is proved."""
    first, second = (
        Conclusion(part, None, None, cures_of(vehicle, part, fault)) for part, fault in zip(parts, faults, strict=True)
    )
    return replace(first, also=second)


def stop_at(
    vehicle: Vehicle, mode: FaultMode, known: Sequence[Observation], carries_a: Carries, reads: Reads
) -> Conclusion:
    """What to do once a part is known, by its likeliest fault mode."""
    stop, look = Conclusion(mode.part, None, None, cures_of(vehicle, mode.part, mode.fault)), looked_at(known)
    if look is None:
        return stop
    done = {each.key for each in known if isinstance(each, Measurement)}
    relief = proof_by_substitution(vehicle, mode, look.situation, carries_a)
    if relief is not None:
        preparation, by = relief
        for each in (look, *_live(known), *_blown_by_it(vehicle, look.situation, reads)):
            again = prepared_again(each, preparation)
            if preparation not in each.situation.preparations and _comes_right(each, again, reads):
                return replace(stop, is_proved=True) if again.key in done else replace(stop, prove=again, by=by)
    itself = list(_at_itself(vehicle, mode.part, look.situation))
    tells = {each.key: min(reads(each, True).apart(reads(each, False)), ENOUGH_APART) for each in itself}
    best = max(itself, key=lambda each: tells[each.key], default=None)
    if best is None or tells[best.key] < PROVES_FROM:
        return stop
    return replace(stop, is_proved=True) if best.key in done else replace(stop, prove=best, by="measured")


def _live(known: Sequence[Observation]) -> Iterator[Measurement]:
    """What was measured with the battery connected, the latest first."""
    readings = [each for each in known if isinstance(each, Measurement)]
    return (each for each in reversed(readings) if not each.situation.is_dead and each.quantity != "wiggle")


def _blown_by_it(vehicle: Vehicle, situation: Situation, reads: Reads) -> Iterator[Measurement]:
    """The fuses that the part blows, to be looked at."""
    for each in vehicle.segments.values():
        if isinstance(each.spec, GUARDS):
            seen = Measurement(quantity="seen", segment=each.id, situation=situation)
            if reads(seen, True).word == "blown":
                yield seen


def _comes_right(before: Measurement, after: Measurement, reads: Reads) -> bool:
    """Whether what is wrong with the part bad is another, and as on sound metal, with it on trial."""
    bad, right = reads(before, True), reads(after, True)
    return right.apart(bad) >= PROVES_FROM and right.apart(reads(before, False)) < PROVES_FROM


def _at_itself(vehicle: Vehicle, part: str, situation: Situation) -> Iterator[Measurement]:
    """What can be measured at a device, or a fuse, itself: across it, and what it draws or gives; where one looked
    already first, then in every state.
    """
    device, segment = vehicle.devices.get(part), vehicle.segments.get(part)
    if device is not None:
        red, black = (device.terminals.get(each) for each in device.spec.TERMINALS)
    elif segment is not None and isinstance(segment.spec, GUARDS):
        red, black = segment.from_point, segment.to_point
    else:
        return
    usual = [situation.model_copy(update={"state": each, "preparations": ()}) for each in STATES]
    for one in dict.fromkeys((situation, *usual)):
        if red is not None and black is not None and red != black:
            yield Measurement(quantity="voltage", red_point=red, black_point=black, situation=one)
        for lead in leads_of(vehicle, part) if device is not None else ():
            yield Measurement(quantity="current", segment=lead, situation=one)
