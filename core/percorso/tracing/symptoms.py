"""What a customer says, as what is seen in which state."""

from collections.abc import Callable, Mapping
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
OF_STARTERS: dict[Symptom, Seen] = {
    "does nothing when cranked": "dead",
    "clicks": "clicks",
    "clicks once": "clicks once",
    "cranks slowly": "weak",
}
OF_DEVICES: dict[Symptom, Seen] = {"device weak": "weak", "device dead": "dead", "device runs on": "stays on"}
DEAD_IN: dict[Symptom, State] = {"gauges die when the key is turned": "cranking", "module does not answer": "on"}

TURNING: tuple[State, ...] = ("idle", "road")
KEEPS_TIMES = 2  # that a fuse has blown at least, when it keeps blowing
MOST_STATES = 2  # in which a fuse is said to blow
FLAT_SHARE, FLAT_IN_H = 0.5, 60.0  # of its charge, in a weekend: then it no longer cranks; from memory
STOOD_SHARE = 0.5  # one standard deviation of the drain that is too much: how long it stood nobody knows, from memory
METER_SHARE = 0.01  # one standard deviation of what is called too high a voltage
GIVES_IDLING_A = 0.5  # a battery that gives as much while the engine idles is not charged, from memory
WEAK_SHARE = 0.8  # of its voltage while cranking, 9.6 of 12 V: a battery with less is low or weak, common practice
TOO_HIGH_SHARE = 1.25  # 15 of 12 V: it gasses, and bulbs burn out; common practice


def said_of(symptom: Symptom) -> SymptomOf:
    """What a symptom has to be said of."""
    if symptom == "fuse keeps blowing":
        return "a fuse"
    return "a device" if symptom in (*OF_DEVICES, *DEAD_IN) else "the vehicle"


def readings_of(
    vehicle: Vehicle,
    symptom: Symptom,
    stage: Stage,
    device: str | None = None,
    *,
    stood_h: float | None = None,
    still: Still | None = None,
) -> list[Measurement | Complaint]:
    """What a symptom says was seen; ``device`` is the device, or the fuse, it is of where it is of one. Of a battery
    that was flat, ``stood_h`` is how long it had stood (h) and ``still`` what it still did, as far as anybody knows.

    Raises TraceError, and UnknownNameError.
    """
    if symptom in OF_SIGNS:
        said = Said(symptom=symptom, device=device, stood_h=stood_h, still=still)
        complaint = OF_SIGNS[symptom](vehicle, said, stage)
        turn = _starters(vehicle) if symptom == "cranks and does not start" else []
        return [complaint, *(_seen(each, "cranking", stage, "works") for each in turn)]
    if symptom in OF_STARTERS:
        return [_seen(each, "cranking", stage, OF_STARTERS[symptom]) for each in _starters(vehicle)]
    if symptom == "not charging":
        return [_seen(each, "idle", stage, "dead") for each in _some(vehicle, Alternator, "alternator")]
    if symptom in ("lamp stays on", "lamp never lights"):
        return [_lamp(vehicle, symptom, stage, device)]
    one = _said(vehicle, symptom, device)
    if symptom in DEAD_IN:
        return [_seen(one, DEAD_IN[symptom], stage, "dead")]
    return [_seen(one, _state(one, runs_on=symptom == "device runs on"), stage, OF_DEVICES[symptom])]


def _keeps_blowing(vehicle: Vehicle, said: Said, stage: Stage) -> Complaint:
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
    return Complaint(says, tuple(signs), itself, seen_times=KEEPS_TIMES)


def _does_not_start(vehicle: Vehicle, said: Said, stage: Stage) -> Complaint:
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
    return Complaint(said.symptom, tuple(signs))


def _flat(vehicle: Vehicle, said: Said, stage: Stage) -> Complaint:
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
    return Complaint(says, tuple(signs))


def _too_high(vehicle: Vehicle, said: Said, stage: Stage) -> Complaint:
    batteries = _some(vehicle, Battery, "battery")
    turning = [_across(one, Situation(stage=stage, state=each)) for one in batteries for each in TURNING]
    high_v = TOO_HIGH_SHARE * vehicle.nominal_v
    return Complaint(said.symptom, tuple(Sign((each,), above=high_v, within=METER_SHARE) for each in turning))


OF_SIGNS: Mapping[Symptom, Callable[[Vehicle, Said, Stage], Complaint]] = {
    "battery flat in the morning": _flat,
    "fuse keeps blowing": _keeps_blowing,
    "cranks and does not start": _does_not_start,
    "charges too high": _too_high,
}


def _across(device: Device, situation: Situation) -> Measurement:
    pair = {"red_point": device.terminals["+"], "black_point": device.terminals["-"]}
    return Measurement(quantity="voltage", **pair, situation=situation)


def _starters(vehicle: Vehicle) -> list[Device]:
    return _some(vehicle, Starter, "starter")


def _some(vehicle: Vehicle, kind: type, what: str) -> list[Device]:
    found = [each for each in vehicle.devices.values() if isinstance(each.spec, kind)]
    if not found:
        raise TraceError(f"there is no {what} in this description", field=("symptom",))
    return found


def _said(vehicle: Vehicle, symptom: Symptom, device: str | None) -> Device:
    if device is None:
        raise TraceError(f'say which device it is: "{symptom}"', field=("device",))
    return device_called(vehicle, device)


def _seen(device: Device, state: State, stage: Stage, outcome: Seen) -> Measurement:
    situation = Situation(stage=stage, state=state)
    return Measurement(quantity="seen", device=device.id, situation=situation, outcome=outcome)


def _state(device: Device, *, runs_on: bool) -> State:
    """The state in which a device is missed, or in which it should rest."""
    meant = getattr(device.spec, "rests_in" if runs_on else "runs_in", ())
    return next(iter(meant), "off" if runs_on else "idle")


def _lamp(vehicle: Vehicle, symptom: Symptom, stage: Stage, device: str | None) -> Measurement:
    one = device_called(vehicle, device) if device else _some(vehicle, IndicatorLamp, "tell-tale")[0]
    if symptom == "lamp stays on":
        return _seen(one, "idle", stage, "stays on")
    return _seen(one, "on", stage, "dead")
