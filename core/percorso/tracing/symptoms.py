"""What a customer says, as what is seen in which state."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated, Literal, get_args

from pydantic import BaseModel, ConfigDict, Field

from percorso.errors import TraceError
from percorso.tracing.complaints import Complaint, Sign
from percorso.vehicle.devices import Alternator, Battery, Starter
from percorso.vehicle.loads import IndicatorLamp, Load
from percorso.vehicle.model import Device, Stage, Vehicle, passing
from percorso.vehicle.naming import device_called, segment_called
from percorso.vehicle.states import STATES, State
from percorso.verification.measured.measurements import Measurement, Seen, Situation

Symptom = Literal[
    "does nothing when cranked",
    "clicks",
    "clicks once",
    "cranks slowly",
    "cranks and does not start",
    "battery flat in the morning",
    "not charging",
    "charges too high",
    "lamp stays on",
    "lamp never lights",
    "fuse keeps blowing",
    "device weak",
    "device dead",
    "device runs on",
    "gauges die when the key is turned",
    "module does not answer",
]
SYMPTOMS: tuple[Symptom, ...] = get_args(Symptom)


Still = Literal["cranked slowly", "clicked", "did nothing"]
STILLS: tuple[Still, ...] = get_args(Still)
DRAINED: Mapping[Still, float] = {
    "cranked slowly": 0.35,
    "clicked": 0.6,
    "did nothing": 0.85,
}  # of a charge, from memory


class Said(BaseModel):
    """What a customer says, and of which device or fuse, by its designation; of a battery that was flat how long it had
    stood (h), and what it still did.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")
    symptom: Symptom
    device: Annotated[str | None, Field(max_length=100)] = None
    stood_h: Annotated[float | None, Field(ge=1, le=2000)] = None
    still: Still | None = None


SymptomOf = Literal["the vehicle", "a device", "a fuse"]
Observations = list[Measurement | Complaint]
Observed = Callable[[Vehicle, Said, Stage], Observations]


@dataclass(frozen=True)
class SymptomKind:
    """Of what a symptom is said, and what was observed where somebody says it. ``observed`` raises TraceError."""

    of: SymptomOf
    observed: Observed


TURNING: tuple[State, ...] = ("idle", "road")
KEEPS_TIMES = 2  # that a fuse has blown at least, when it keeps blowing
MOST_STATES = 2  # in which a fuse is said to blow
FLAT_SHARE, FLAT_IN_H = 0.5, 60.0  # of its charge, in a weekend: then it no longer cranks; from memory
STOOD_SHARE = 0.5  # one standard deviation of the drain that is too much: how long it stood nobody knows, from memory
METER_SHARE = 0.01  # one standard deviation of what is called too high a voltage
GIVES_IDLING_A = 0.5  # a battery that gives as much while the engine idles is not charged, from memory
WEAK_SHARE = 0.8  # of its voltage while cranking, 9.6 of 12 V: a battery with less is low or weak, common practice
TOO_HIGH_SHARE = 1.25  # 15 of 12 V: it gasses, and bulbs burn out; common practice


def readings_of(
    vehicle: Vehicle,
    symptom: Symptom,
    stage: Stage,
    device: str | None = None,
    *,
    stood_h: float | None = None,
    still: Still | None = None,
) -> Observations:
    """What a symptom says was seen; ``device`` is the device, or the fuse, it is of where it is of one. Of a battery
    that was flat, ``stood_h`` is how long it had stood (h) and ``still`` what it still did, as far as anybody knows.

    Raises TraceError, and UnknownNameError.
    """
    # Not checked again: a device that nobody has is refused by its name, whatever its length.
    said = Said.model_construct(symptom=symptom, device=device, stood_h=stood_h, still=still)
    return OF_SYMPTOMS[symptom].observed(vehicle, said, stage)


def _keeps_blowing(vehicle: Vehicle, said: Said, stage: Stage) -> Observations:
    """A fuse that blows again in the states in which its circuits work: not by itself, then."""
    if said.device is None:
        raise TraceError(f'say which fuse it is: "{said.symptom}"', field=("device",))
    segment = segment_called(vehicle, said.device)
    used_in = {each.state for each in passing(vehicle, segment.id)}
    states = [each for each in STATES if each == "on" or each in used_in][:MOST_STATES]
    signs = [
        Sign((Measurement(quantity="seen", segment=segment.id, situation=each, outcome="blown"),), words=("blown",))
        for each in (Situation(stage=stage, state=state) for state in states)
    ]
    says, itself = f"{segment.designation} keeps blowing", frozenset([(segment.id, "blown")])
    return [Complaint(says, tuple(signs), itself, seen_times=KEEPS_TIMES)]


def _does_not_start(vehicle: Vehicle, said: Said, stage: Stage) -> Observations:
    """The starter turns, and something the engine does not run without gets too little meanwhile."""
    needed = [
        each for each in vehicle.devices.values() if isinstance(each.spec, Load) and each.spec.keeps_engine_running
    ]
    if said.device is not None:
        needed = [device_called(vehicle, said.device)]
    if not needed:
        why = "no device is marked as one that the engine stops without: mark it, or say which it is"
        raise TraceError(why, field=("symptom",))
    cranking = Situation(stage=stage, state="cranking")
    signs = [
        Sign(
            (Measurement(quantity="seen", device=each.id, situation=cranking),),
            words=("dead", "weak", "clicks", "clicks once"),
        )
        for each in needed
    ]
    turn = [_seen(each, "cranking", stage, "works") for each in _some(vehicle, Starter, "starter")]
    return [Complaint(said.symptom, tuple(signs)), *turn]


def _flat(vehicle: Vehicle, said: Said, stage: Stage) -> Observations:
    """Something draws from a battery at rest, or nothing charges it, or it does not keep its charge.

    The drain that is too much follows from how long it stood and how flat it was; nobody knows either well.
    """
    signs: list[Sign] = []
    share, hours = DRAINED[said.still] if said.still else FLAT_SHARE, said.stood_h or FLAT_IN_H
    within = STOOD_SHARE * 0.5 ** sum(each is not None for each in (said.stood_h, said.still))
    says = said.symptom if said.stood_h is None else f"battery flat after {said.stood_h:g} h"
    says += f", then it {said.still}" if said.still else ""
    for battery in _some(vehicle, Battery, "battery"):
        assert isinstance(battery.spec, Battery)
        post = battery.terminals["+"]
        leads = [each for each in vehicle.segments.values() if post in (each.from_point, each.to_point)]
        away = tuple(1.0 if each.from_point == post else -1.0 for each in leads)
        for state, least in (("off", share * battery.spec.capacity_ah / hours), ("idle", GIVES_IDLING_A)):
            situation = Situation(stage=stage, state=state)
            clamped = tuple(Measurement(quantity="current", segment=each.id, situation=situation) for each in leads)
            signs += [Sign(clamped, above=least, times=away, within=within if state == "off" else STOOD_SHARE)] * bool(
                leads
            )
        cranking = _across(battery, Situation(stage=stage, state="cranking"))
        signs.append(Sign((cranking,), below=WEAK_SHARE * vehicle.nominal_v))
    return [Complaint(says, tuple(signs))]


def _too_high(vehicle: Vehicle, said: Said, stage: Stage) -> Observations:
    batteries = _some(vehicle, Battery, "battery")
    turning = [_across(one, Situation(stage=stage, state=each)) for one in batteries for each in TURNING]
    high_v = TOO_HIGH_SHARE * vehicle.nominal_v
    return [Complaint(said.symptom, tuple(Sign((each,), above=high_v, within=METER_SHARE) for each in turning))]


def _across(device: Device, situation: Situation) -> Measurement:
    pair = {"red_point": device.terminals["+"], "black_point": device.terminals["-"]}
    return Measurement(quantity="voltage", **pair, situation=situation)


def _some(vehicle: Vehicle, kind: type, what: str) -> list[Device]:
    found = [each for each in vehicle.devices.values() if isinstance(each.spec, kind)]
    if not found:
        raise TraceError(f"there is no {what} in this description", field=("symptom",))
    return found


def _seen(device: Device, state: State, stage: Stage, outcome: Seen) -> Measurement:
    situation = Situation(stage=stage, state=state)
    return Measurement(quantity="seen", device=device.id, situation=situation, outcome=outcome)


def _of_every(kind: type, what: str, state: State, outcome: Seen) -> Observed:
    """Every device of a kind is seen like that in a state."""

    def observed(vehicle: Vehicle, _: Said, stage: Stage) -> Observations:
        return [_seen(each, state, stage, outcome) for each in _some(vehicle, kind, what)]

    return observed


def _of_device(outcome: Seen, state: Callable[[Device], State]) -> Observed:
    """The device that is named is seen like that in a state."""

    def observed(vehicle: Vehicle, said: Said, stage: Stage) -> Observations:
        if said.device is None:
            raise TraceError(f'say which device it is: "{said.symptom}"', field=("device",))
        device = device_called(vehicle, said.device)
        return [_seen(device, state(device), stage, outcome)]

    return observed


def _of_tell_tale(state: State, outcome: Seen) -> Observed:
    """The tell-tale that is named, or the first, is seen like that in a state."""

    def observed(vehicle: Vehicle, said: Said, stage: Stage) -> Observations:
        named = device_called(vehicle, said.device) if said.device else None
        return [_seen(named or _some(vehicle, IndicatorLamp, "tell-tale")[0], state, stage, outcome)]

    return observed


def _runs(device: Device) -> State:
    """The state in which a device is missed."""
    return next(iter(getattr(device.spec, "runs_in", ())), "idle")


def _rests(device: Device) -> State:
    """The state in which a device should rest."""
    return next(iter(getattr(device.spec, "rests_in", ())), "off")


# Each symptom: of what it is said, and what was observed then.
OF_SYMPTOMS: Mapping[Symptom, SymptomKind] = {
    "does nothing when cranked": SymptomKind("the vehicle", _of_every(Starter, "starter", "cranking", "dead")),
    "clicks": SymptomKind("the vehicle", _of_every(Starter, "starter", "cranking", "clicks")),
    "clicks once": SymptomKind("the vehicle", _of_every(Starter, "starter", "cranking", "clicks once")),
    "cranks slowly": SymptomKind("the vehicle", _of_every(Starter, "starter", "cranking", "weak")),
    "cranks and does not start": SymptomKind("the vehicle", _does_not_start),
    "battery flat in the morning": SymptomKind("the vehicle", _flat),
    "not charging": SymptomKind("the vehicle", _of_every(Alternator, "alternator", "idle", "dead")),
    "charges too high": SymptomKind("the vehicle", _too_high),
    "lamp stays on": SymptomKind("the vehicle", _of_tell_tale("idle", "stays on")),
    "lamp never lights": SymptomKind("the vehicle", _of_tell_tale("on", "dead")),
    "fuse keeps blowing": SymptomKind("a fuse", _keeps_blowing),
    "device weak": SymptomKind("a device", _of_device("weak", _runs)),
    "device dead": SymptomKind("a device", _of_device("dead", _runs)),
    "device runs on": SymptomKind("a device", _of_device("stays on", _rests)),
    "gauges die when the key is turned": SymptomKind("a device", _of_device("dead", lambda _: "cranking")),
    "module does not answer": SymptomKind("a device", _of_device("dead", lambda _: "on")),
}
