"""When one part is known well enough: how to prove it before anything is replaced, and what cures it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from percorso.faults.cures import Cure, cures_of
from percorso.faults.library import Way
from percorso.tracing.complaints import Heard
from percorso.tracing.situations import By, Carries, looked_at, prepared_again, relief_of
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import GUARDS
from percorso.verification.measurements import Measurement, Situation


@dataclass(frozen=True)
class Stop:
    """The part that is known well enough, a measurement that would read otherwise if it were not it, and its cures.

    ``by``: what the proof does: the part is bridged, swapped or taken out of the way, and what was wrong must come
    right, or it is measured itself. ``also`` is the other of two parts.
    """

    part: str
    prove: Measurement | None
    by: By | None
    cures: tuple[Cure, ...]
    also: "Stop | None" = None


def stop_at_two(vehicle: Vehicle, parts: tuple[str, str], faults: tuple[str, str]) -> Stop:
    """What to do once two parts are known: with one of them bridged nothing comes right, so nothing is proved."""
    first, second = (
        Stop(part, None, None, cures_of(vehicle, part, fault)) for part, fault in zip(parts, faults, strict=True)
    )
    return replace(first, also=second)


def stop_at(vehicle: Vehicle, way: Way, known: Sequence[Heard], carries_a: Carries) -> Stop:
    """What to do once a part is known, by the likeliest way it is bad."""
    proof, by = _proof(vehicle, way, looked_at(known), carries_a)
    if proof is not None and proof.key in {each.key for each in known if isinstance(each, Measurement)}:
        proof, by = None, None
    return Stop(way.part, proof, by, cures_of(vehicle, way.part, way.fault))


def _proof(
    vehicle: Vehicle, way: Way, look: Measurement | None, carries_a: Carries
) -> tuple[Measurement | None, By | None]:
    """What proves that it is the part, and by what."""
    if look is None:
        return None, None
    relief = relief_of(vehicle, way, look.situation, carries_a)
    if relief is not None:
        preparation, by = relief
        return prepared_again(look, preparation), by
    across = _across(vehicle, way.part, look.situation)
    return across, "measured" if across else None


def _across(vehicle: Vehicle, part: str, situation: Situation) -> Measurement | None:
    """The voltage over a device, or a fuse, itself."""
    device, segment = vehicle.devices.get(part), vehicle.segments.get(part)
    if device is not None:
        red, black = (device.terminals.get(each) for each in device.spec.TERMINALS)
    elif segment is not None and isinstance(segment.spec, GUARDS):
        red, black = segment.from_point, segment.to_point
    else:
        return None
    if red is None or black is None or red == black:
        return None
    return Measurement(quantity="voltage", red_point=red, black_point=black, situation=situation)
