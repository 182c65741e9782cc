"""In which situations the next test may be: those that were read in, the usual ones, and with a suspect on trial."""

import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from percorso.faults.at_segments import CHAFED, OPENS, RESISTS
from percorso.faults.library import FaultMode
from percorso.tracing.complaints import Observation, looks_of
from percorso.tracing.suspects import Posterior
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.segments import GUARDS, RelayContact, SensorSwitch, Switch, Wire
from percorso.vehicle.states import State
from percorso.verification.bench.prepared_vehicle import JUMPER_A
from percorso.verification.measured.measurements import Measurement, Situation
from percorso.verification.measured.preparations import Bridge, LampInPlace, Lift, Preparation, Pull, Swap, Unplug

MOST_SITUATIONS = 4  # that were read in
SPOKEN_OF: tuple[State, ...] = ("cranking", "idle", "on")
MOST_TRIALS = 4
ON_TRIAL = 0.05  # probability from which a suspect is bridged, swapped or taken out of the way
CONDUCTS = (*CHAFED, "touching its neighbour", "welded", "shorted")
BRIDGED = {*OPENS, *RESISTS}

Carries = Callable[[str, Situation], float]  # the current through a segment on sound metal in a situation, A
By = Literal["bridged", "out of the way", "swapped", "measured"]


def situations(vehicle: Vehicle, stage: Stage, known: Sequence[Observation], blown: Iterable[str]) -> list[Situation]:
    """Those of what is known, the latest first, and usual ones; before them with a lamp in place of what has ``blown``.

    That is in the first situation that was read in and the last: what blew it is there while what it feeds is on.
    """
    readings = [one for each in known for one in looks_of(each)]
    live = [each for each in readings if not each.situation.is_dead]
    guards = [guard for guard in blown if _protects(vehicle, guard)]
    lamps = [_with_lamp(each, guard) for guard in guards for each in (*live[:1], *live[-1:])]
    read = {each.key: each for each in (one.situation for one in (*lamps, *readings[::-1]))}
    usual = [Situation(stage=stage, state=each) for each in (("on",) if read else ("on", "idle"))]
    found = {each.key: each for each in (*list(read.values())[:MOST_SITUATIONS], *usual)}
    return [each for each in found.values() if not each.is_dead]


def spoken_of(vehicle: Vehicle, stage: Stage) -> list[Measurement]:
    """A look in each state that customers mostly speak of."""
    device = next(iter(vehicle.devices))
    found = [Situation(stage=stage, state=each) for each in SPOKEN_OF]
    return [Measurement(quantity="seen", device=device, situation=each) for each in found]


def _with_lamp(reading: Measurement, guard: str) -> Measurement:
    """A reading with a lamp in place of a fuse that has blown: the short lights it."""
    lamp = LampInPlace(part=guard)
    return reading if lamp in reading.situation.preparations else prepared_again(reading, lamp)


def _with_lamps(vehicle: Vehicle, look: Measurement, blown: Sequence[str]) -> Measurement:
    for guard in blown:
        look = _with_lamp(look, guard) if _protects(vehicle, guard) else look
    return look


def had_a_lamp(known: Sequence[Observation], guard: str) -> bool:
    """Whether something was read with a lamp in place of a fuse."""
    readings = [each for each in known if isinstance(each, Measurement)]
    return any(LampInPlace(part=guard) in each.situation.preparations for each in readings)


def _protects(vehicle: Vehicle, part: str | None) -> bool:
    return part is not None and part in vehicle.segments and isinstance(vehicle.segments[part].spec, GUARDS)


def looked_at(known: Sequence[Observation]) -> Measurement | None:
    """What is looked at again when a suspect is on trial: the first thing that was seen, or what was read last."""
    live = [one for each in known for one in looks_of(each) if not one.situation.is_dead]
    return next((each for each in live if each.quantity == "seen"), live[-1] if live else None)


@dataclass(frozen=True)
class Trial:
    """A look at what was wrong with a suspect bridged, swapped or out of the way; more than ``most_bits`` it cannot
    tell.
    """

    measurement: Measurement
    most_bits: float


def trials(
    vehicle: Vehicle, found: Posterior, known: Sequence[Observation], blown: Sequence[str], carries_a: Carries
) -> Iterator[Trial]:
    """The likeliest suspects on trial; what blew a fuse with a lamp in its place."""
    look, units = looked_at(known), found.of_units()
    if look is None:
        return
    likeliest = {each.unit: each for each in (found.hypotheses.modes[at] for at in np.argsort(found.of_modes).tolist())}
    for unit in sorted(units, key=units.__getitem__, reverse=True)[:MOST_TRIALS]:
        if units[unit] < ON_TRIAL:
            break
        mode = likeliest[unit]
        if _protects(vehicle, mode.part):
            continue  # what blew it may be there yet
        trial = trial_of(vehicle, mode, look, blown, carries_a)
        if trial is not None:
            yield Trial(trial, 1.0 if mode.fault in CONDUCTS else _entropy(units[unit]))


def trial_of(
    vehicle: Vehicle, mode: FaultMode, look: Measurement, blown: Sequence[str], carries_a: Carries
) -> Measurement | None:
    """A look at what was wrong with a part on trial; None where nothing simple brings right what is wrong with it."""
    relief = proof_by_substitution(vehicle, mode, look.situation, carries_a)
    if relief is None:
        return None
    preparation, by = relief
    there = _with_lamps(vehicle, look, blown) if by == "out of the way" else look
    if look.segment is not None and LampInPlace(part=look.segment) in there.situation.preparations:
        return None  # there is no fuse to look at
    return None if preparation in there.situation.preparations else prepared_again(there, preparation)


def _entropy(share: float) -> float:
    """What the answer to a question tells that is yes with some probability, bits."""
    return -sum(each * math.log2(each) for each in (share, 1 - share) if each > 0)


def proof_by_substitution(
    vehicle: Vehicle, mode: FaultMode, situation: Situation, carries_a: Carries
) -> tuple[Preparation, By] | None:
    """What brings right what is wrong if it is this, and what that does; None where nothing simple does."""
    segment, unit = vehicle.segments.get(mode.part), vehicle.devices.get(mode.unit)
    if unit is not None and isinstance(unit.spec, RelayCoil):
        return Swap(part=unit.id), "swapped"
    if mode.fault in CONDUCTS:
        out = _out_of_the_way(vehicle, mode.part)
        return None if out is None else (out, "out of the way")
    if segment is None or mode.fault not in BRIDGED or segment.from_point == segment.to_point:
        return None
    if isinstance(segment.spec, GUARDS):
        return None  # a jumper over a fuse leaves its wire without one
    lead: Literal["jumper", "booster cable"] = "jumper"
    if abs(carries_a(segment.id, situation)) > JUMPER_A:
        lead = "booster cable"
    return Bridge(from_point=segment.from_point, to_point=segment.to_point, lead=lead), "bridged"


def _out_of_the_way(vehicle: Vehicle, part: str) -> Preparation | None:
    """What takes a part that conducts where it must not out of the circuit; None where nothing simple does."""
    segment = vehicle.segments.get(part)
    if segment is None:
        return Unplug(part=part)
    if isinstance(segment.spec, RelayContact):
        return Pull(part=part)
    if isinstance(segment.spec, Switch | SensorSwitch):
        return Unplug(part=part)
    return Lift(part=part) if isinstance(segment.spec, Wire) else None


def prepared_again(look: Measurement, preparation: Preparation) -> Measurement:
    """The same once more with something done to the metal."""
    preparations = (*look.situation.preparations, preparation)
    situation = look.situation.model_copy(update={"preparations": preparations})
    return look.model_copy(update={"situation": situation, "value": None, "outcome": None})
