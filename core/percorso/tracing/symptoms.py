"""What a customer says, as what is seen in which state."""

from collections.abc import Iterator
from typing import Literal, get_args

from percorso.errors import TraceError
from percorso.vehicle.devices import Alternator, Starter
from percorso.vehicle.loads import IndicatorLamp
from percorso.vehicle.model import Device, Stage, Vehicle, passing
from percorso.vehicle.naming import device_called, segment_called
from percorso.vehicle.states import State
from percorso.verification.measurements import Measurement, Seen, Situation

Symptom = Literal[
    "does nothing when cranked",
    "clicks",
    "cranks slowly",
    "not charging",
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
OF_STARTERS: dict[Symptom, Seen] = {
    "does nothing when cranked": "dead",
    "clicks": "clicks",
    "cranks slowly": "weak",
}
OF_DEVICES: dict[Symptom, Seen] = {"device weak": "weak", "device dead": "dead", "device runs on": "stays on"}
DEAD_IN: dict[Symptom, State] = {"gauges die when the key is turned": "cranking", "module does not answer": "on"}


def readings_of(vehicle: Vehicle, symptom: Symptom, stage: Stage, device: str | None = None) -> list[Measurement]:
    """What a symptom says was seen; ``device`` is the device, or the fuse, it is of where it is of one.

    Raises TraceError, and UnknownNameError.
    """
    if symptom in OF_STARTERS:
        starters = [each for each in vehicle.devices.values() if isinstance(each.spec, Starter)]
        return [_seen(each, "cranking", stage, OF_STARTERS[symptom]) for each in _some(starters, "a starter")]
    if symptom in OF_DEVICES:
        one = _said(vehicle, symptom, device)
        return [_seen(one, _state(one, runs_on=symptom == "device runs on"), stage, OF_DEVICES[symptom])]
    if symptom in DEAD_IN:
        return [_seen(_said(vehicle, symptom, device), DEAD_IN[symptom], stage, "dead")]
    if symptom == "not charging":
        alternators = [each for each in vehicle.devices.values() if isinstance(each.spec, Alternator)]
        return [_seen(each, "idle", stage, "dead") for each in _some(alternators, "an alternator")]
    if symptom == "fuse keeps blowing":
        return [_blown(vehicle, symptom, stage, device)]
    return list(_lamps(vehicle, symptom, stage, device))


def _blown(vehicle: Vehicle, symptom: Symptom, stage: Stage, fuse: str | None) -> Measurement:
    """A fuse that is blown in the state in which its circuits work."""
    if fuse is None:
        raise TraceError(f'say which fuse it is: "{symptom}"', field=("device",))
    segment = segment_called(vehicle, fuse)
    states = [each.state for each in passing(vehicle, segment.id)]
    situation = Situation(stage=stage, state=next(iter(states), "on"))
    return Measurement(quantity="seen", segment=segment.id, situation=situation, outcome="blown")


def _some(found: list[Device], what: str) -> list[Device]:
    if not found:
        raise TraceError(f"this vehicle has not {what}", field=("symptom",))
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


def _lamps(vehicle: Vehicle, symptom: Symptom, stage: Stage, device: str | None) -> Iterator[Measurement]:
    lamps = [each for each in vehicle.devices.values() if isinstance(each.spec, IndicatorLamp)]
    some = [device_called(vehicle, device)] if device else _some(lamps, "a tell-tale")[:1]
    for each in some:
        if symptom == "lamp stays on":
            yield _seen(each, "idle", stage, "stays on")
        else:
            yield _seen(each, "on", stage, "dead")
