"""What can be bad at a battery, an alternator, a starter, a relay or a load, and what it is in the metal."""

import math
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any, Literal

from percorso.errors import FaultError
from percorso.faults.changes import BrokenInside, FaultChange, OtherValues, Rewired
from percorso.network.branches import usual_acceptance_a, usual_resistance_ohm
from percorso.vehicle.devices import Alternator, Battery, RelayCoil, Starter
from percorso.vehicle.loads import IndicatorLamp, Load, ResistiveLoad
from percorso.vehicle.model import Device, Vehicle

DeviceFault = Literal[
    "open",
    "shorted",
    "draws too much",
    "draws too little",
    "of the wrong kind",
    "needs too much to pull in",
    "low",
    "weak",
    "dead cell",
    "does not wake up",
    "regulates wrongly",
    "gives too little",
    "drags",
    "solenoid contacts burnt",
    "dead",
    "two leads swapped",
]
# How bad what is bad usually is where nobody says so, all from memory.
OPEN_OHM = 1e9  # of a coil that is broken
SHORT_OHM = 0.02
DRAWS_TIMES, DRAWS_LESS_TIMES = 1.6, 0.5
LED_A = 0.01  # of a tell-tale with an LED in place of a bulb
PULLS_IN_AT = 1.05  # of the nominal voltage: a coil with shorted turns, or a stiff armature
LOW_SHARE = 0.15  # of a full charge
WEAK_TIMES = 4.0
CELLS_OF_12_V = {"LiFePO4": 4}  # lead has six
NEVER_A = 10.0
SETPOINT_TIMES = 1.1
GIVES_SHARE = 0.3
DRAGS_TIMES = 1.8
BURNT_OHM = 0.05

DeviceFaultChange = Callable[
    [Vehicle, Device, float | None], FaultChange
]  # with how bad it is: Ω, or times what it should be


def _other_values(device: Device, **values: Any) -> FaultChange:
    return OtherValues(device, device.spec.model_copy(update=values))


def _load_open(vehicle: Vehicle, device: Device, _: float | None) -> FaultChange:
    return BrokenInside(device, "+")


def _load_shorted(vehicle: Vehicle, device: Device, ohm: float | None) -> FaultChange:
    spec = device.spec
    assert isinstance(spec, Load)
    kept = {each: getattr(spec, each) for each in Load.model_fields if not each.startswith("measured")}
    shorted = ResistiveLoad.model_construct(**{**kept, "rated_a": spec.rated_v / (ohm or SHORT_OHM)})
    return OtherValues(device, shorted)


def _draws_too_much(vehicle: Vehicle, device: Device, times: float | None) -> FaultChange:
    return _draws(vehicle, device, times or DRAWS_TIMES)


def _draws_too_little(vehicle: Vehicle, device: Device, times: float | None) -> FaultChange:
    return _draws(vehicle, device, times or DRAWS_LESS_TIMES)


def _draws(vehicle: Vehicle, device: Device, times: float) -> FaultChange:
    spec = device.spec
    assert isinstance(spec, Load)
    measured = None if spec.measured_a is None else times * spec.measured_a
    return _other_values(device, rated_a=times * spec.rated_a, measured_a=measured)


def _of_the_wrong_kind(vehicle: Vehicle, device: Device, _: float | None) -> FaultChange:
    return _other_values(device, technology="LED", rated_a=LED_A, measured_a=None)


def _coil_open(vehicle: Vehicle, device: Device, _: float | None) -> FaultChange:
    return _without_field(vehicle, device, OPEN_OHM)


def _coil_shorted(vehicle: Vehicle, device: Device, _: float | None) -> FaultChange:
    return _without_field(vehicle, device, SHORT_OHM)


def _without_field(vehicle: Vehicle, device: Device, ohm: float) -> FaultChange:
    """A coil that pulls nothing, whatever is across it: no current flows through its turns, or past most of them."""
    return _other_values(device, resistance_ohm=ohm, pull_in_v=math.inf, drop_out_v=math.inf)


def _needs_too_much(vehicle: Vehicle, device: Device, times: float | None) -> FaultChange:
    """``times`` the nominal voltage, and never less than it usually needs."""
    spec = device.spec
    assert isinstance(spec, RelayCoil)
    return _other_values(device, pull_in_v=max(spec.pull_in_v, (times or PULLS_IN_AT) * vehicle.nominal_v))


def _low(vehicle: Vehicle, device: Device, share: float | None) -> FaultChange:
    """A battery without charge: what was measured of it when it had some moves as that of its kind does."""
    spec = device.spec
    assert isinstance(spec, Battery)
    charge = {"state_of_charge_percent": 100 * (share or LOW_SHARE)}
    low = spec.model_copy(update=charge)
    values: dict[str, float] = {}
    if spec.resistance_ohm is not None:
        usual, now = (usual_resistance_ohm(each, vehicle.nominal_v) for each in (low, spec))
        values["resistance_ohm"] = spec.resistance_ohm * usual / now
    if spec.charge_a is not None and usual_acceptance_a(spec) > 0:
        values["charge_a"] = spec.charge_a * usual_acceptance_a(low) / usual_acceptance_a(spec)
    return _other_values(device, **charge, **values)


def _weak(vehicle: Vehicle, device: Device, times: float | None) -> FaultChange:
    return _other_values(device, resistance_ohm=(times or WEAK_TIMES) * _resistance_ohm(vehicle, device))


def _dead_cell(vehicle: Vehicle, device: Device, _: float | None) -> FaultChange:
    spec = device.spec
    assert isinstance(spec, Battery)
    volts = spec.nominal_v or vehicle.nominal_v
    cells = CELLS_OF_12_V.get(spec.chemistry, 6) * volts / 12
    known = {"resistance_ohm": _resistance_ohm(vehicle, device)}
    return _other_values(device, nominal_v=volts * (cells - 1) / cells, **known)


def _resistance_ohm(vehicle: Vehicle, device: Device) -> float:
    spec = device.spec
    assert isinstance(spec, Battery)
    return spec.resistance_ohm or usual_resistance_ohm(spec, vehicle.nominal_v)


def _does_not_wake_up(vehicle: Vehicle, device: Device, _: float | None) -> FaultChange:
    return _other_values(device, excitation_a=NEVER_A, self_excites_rpm=None)


def _regulates_wrongly(vehicle: Vehicle, device: Device, times: float | None) -> FaultChange:
    spec = device.spec
    assert isinstance(spec, Alternator)
    return _other_values(device, setpoint_v=(times or SETPOINT_TIMES) * spec.setpoint_v)


def _gives_too_little(vehicle: Vehicle, device: Device, share: float | None) -> FaultChange:
    spec = device.spec
    assert isinstance(spec, Alternator)
    times = share or GIVES_SHARE
    less = tuple(each.model_copy(update={"current_a": times * each.current_a}) for each in spec.output)
    return _other_values(device, at_1800_a=times * spec.at_1800_a, at_6000_a=times * spec.at_6000_a, output=less)


def _drags(vehicle: Vehicle, device: Device, times: float | None) -> FaultChange:
    """It turns slowly for more current: its running point moves towards where it is locked."""
    spec = device.spec
    assert isinstance(spec, Starter)
    highest = 0.9 * spec.running_v / spec.winding_ohm
    return _other_values(device, running_a=min((times or DRAGS_TIMES) * spec.running_a, highest))


def _burnt_contacts(vehicle: Vehicle, device: Device, ohm: float | None) -> FaultChange:
    """Its contacts' resistance before the motor: both points by which it is known stand so much higher."""
    spec, more = device.spec, BURNT_OHM if ohm is None else ohm
    assert isinstance(spec, Starter)
    running_v, locked_v = spec.running_v + more * spec.running_a, spec.locked_v + more * spec.locked_a
    return _other_values(device, running_v=running_v, locked_v=locked_v)


def _dead(vehicle: Vehicle, device: Device, _: float | None) -> FaultChange:
    return BrokenInside(device, "30")


def swapped_leads(device: Device, terminals: str) -> FaultChange:
    """The leads of two terminals swapped. Raises FaultError."""
    marks = terminals.split()
    if len(marks) != 2 or not set(marks) <= set(device.terminals):
        wired = ", ".join(device.terminals)
        raise FaultError(f"say which two of its terminals are swapped: it has {wired}", field=("other",))
    first, second = marks
    swapped = {**device.terminals, first: device.terminals[second], second: device.terminals[first]}
    return Rewired(devices=(replace(device, terminals=swapped),))


AT_DEVICES: Mapping[tuple[str, type], DeviceFaultChange] = {
    ("open", Load): _load_open,
    ("shorted", Load): _load_shorted,
    ("draws too much", Load): _draws_too_much,
    ("draws too little", Load): _draws_too_little,
    ("of the wrong kind", IndicatorLamp): _of_the_wrong_kind,
    ("open", RelayCoil): _coil_open,
    ("shorted", RelayCoil): _coil_shorted,
    ("needs too much to pull in", RelayCoil): _needs_too_much,
    ("low", Battery): _low,
    ("weak", Battery): _weak,
    ("dead cell", Battery): _dead_cell,
    ("does not wake up", Alternator): _does_not_wake_up,
    ("regulates wrongly", Alternator): _regulates_wrongly,
    ("gives too little", Alternator): _gives_too_little,
    ("drags", Starter): _drags,
    ("solenoid contacts burnt", Starter): _burnt_contacts,
    ("dead", Starter): _dead,
}
