"""When one part is known well enough: how to prove it before anything is replaced, and what cures it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from percorso.faults.at_segments import OPENS, RESISTS
from percorso.faults.cures import Cure, cures_of
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import RelayContact, Wire
from percorso.verification.measurements import Measurement, Situation
from percorso.verification.preparations import Bridge, Lift, Preparation, Pull, Unplug
from percorso.verification.situation import JUMPER_A

BRIDGED = {*OPENS, *RESISTS} - {"blown"}  # never a jumper in place of a fuse that blew
CONDUCTS = ("chafed to ground", "touching its neighbour", "welded", "shorted")


@dataclass(frozen=True)
class Stop:
    """The part that is known well enough, a measurement that would read otherwise if it were not it, and its cures.

    ``by``: what the proof does: the part is bridged or taken out of the way, and what was wrong must come right, or it
    is measured itself. ``also`` is the other of two parts.
    """

    part: str
    prove: Measurement | None
    by: Literal["bridged", "out of the way", "measured"] | None
    cures: tuple[Cure, ...]
    also: "Stop | None" = None


def stop_at_two(vehicle: Vehicle, parts: tuple[str, str], faults: tuple[str, str]) -> Stop:
    """What to do once two parts are known: with one of them bridged nothing comes right, so nothing is proved."""
    first, second = (
        Stop(part, None, None, cures_of(vehicle, part, fault)) for part, fault in zip(parts, faults, strict=True)
    )
    return replace(first, also=second)


def stop_at(
    vehicle: Vehicle, part: str, fault: str, readings: Sequence[Measurement], carries_a: Callable[[Situation], float]
) -> Stop:
    """What to do once a part is known; ``carries_a`` is the current through it on sound metal in a situation."""
    live = [each for each in readings if not each.situation.is_dead]
    last = next((each for each in live if each.quantity == "seen"), live[-1] if live else None)
    proof, by = (None, None) if last is None else _proof(vehicle, part, fault, last, carries_a)
    done = {each.key for each in readings if each.value is not None or each.outcome is not None}
    if proof is None or proof.key in done:
        proof, by = None, None
    return Stop(part, proof, by, cures_of(vehicle, part, fault))


def _proof(
    vehicle: Vehicle, part: str, fault: str, last: Measurement, carries_a: Callable[[Situation], float]
) -> tuple[Measurement | None, Literal["bridged", "out of the way", "measured"] | None]:
    """What proves that it is the part, and by what."""
    segment, device = vehicle.segments.get(part), vehicle.devices.get(part)
    if fault in CONDUCTS:
        out = _out_of_the_way(vehicle, part)
        return (None, None) if out is None else (_again(last, out), "out of the way")
    if device is not None:
        ends = [device.terminals.get(each) for each in device.spec.TERMINALS]
        return _across(ends, last.situation), "measured"
    if segment is None or fault not in BRIDGED or segment.from_point == segment.to_point:
        return None, None
    lead: Literal["jumper", "booster cable"] = "jumper"
    if abs(carries_a(last.situation)) > JUMPER_A:
        lead = "booster cable"
    return _again(last, Bridge(from_point=segment.from_point, to_point=segment.to_point, lead=lead)), "bridged"


def _out_of_the_way(vehicle: Vehicle, part: str) -> Preparation | None:
    """What takes a part that conducts where it must not out of the circuit; None where nothing simple does."""
    device, segment = vehicle.devices.get(part), vehicle.segments.get(part)
    if device is not None:
        return Pull(part=part) if isinstance(device.spec, RelayCoil) else Unplug(part=part)
    if segment is not None and isinstance(segment.spec, Wire):
        return Lift(part=part)
    return Pull(part=part) if segment is not None and isinstance(segment.spec, RelayContact) else None


def _again(last: Measurement, preparation: Preparation) -> Measurement:
    preparations = (*last.situation.preparations, preparation)
    situation = last.situation.model_copy(update={"preparations": preparations})
    return last.model_copy(update={"situation": situation, "value": None, "outcome": None})


def _across(ends: Sequence[str | None], situation: Situation) -> Measurement | None:
    """The voltage over a part itself."""
    red, black = ends
    if red is None or black is None or red == black:
        return None
    return Measurement(quantity="voltage", red_point=red, black_point=black, situation=situation)
