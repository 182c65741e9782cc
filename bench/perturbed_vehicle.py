"""A vehicle as its metal really is: every part by lot as far from its description as sound metal may be.

What sound metal may differ is said by the core's own spreads, by which tracing doubts what it computes.
"""

import random
from dataclasses import replace

from percorso.network.branches import usual_acceptance_a, usual_resistance_ohm
from percorso.vehicle.alternators import scaled
from percorso.vehicle.devices import Alternator, Battery, DeviceKind, RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Device, Segment, Vehicle
from percorso.vehicle.resistance import IDEAL_OHM
from percorso.vehicle.segments import Diode, FusibleLink, SegmentSpec, Shunt, Wire
from percorso.verification.judging.spreads import Z_95, Spread, of_segment, spread


def perturbed(vehicle: Vehicle, chance: random.Random) -> Vehicle:
    """The same vehicle, with every segment and device otherwise by lot."""
    segments = {each.id: replace(each, spec=_segment(each, vehicle, chance)) for each in vehicle.segments.values()}
    devices = {each.id: replace(each, spec=_device(each, vehicle, chance)) for each in vehicle.devices.values()}
    return replace(vehicle, segments=segments, devices=devices)


def _drawn(of: Spread, chance: random.Random) -> float:
    """How far a part is off: half of all below, half above, normally distributed on either side."""
    less, more = of
    by = chance.gauss() / Z_95
    return by * more if by > 0 else -by * less


def _segment(segment: Segment, vehicle: Vehicle, chance: random.Random) -> SegmentSpec:
    spec = segment.spec
    if isinstance(spec, Shunt):
        return spec
    if isinstance(spec, Diode):
        return spec.model_copy(update={"forward_v": spec.forward_v + _drawn(spread("junction"), chance)})
    times = 1 + _drawn(of_segment(segment), chance)
    if isinstance(spec, Wire | FusibleLink):
        return spec.model_copy(update={"length_m": times * spec.length_m})
    ohm = 1 / segment.conductance_s(vehicle.zone_temperature_c)
    return spec if ohm <= IDEAL_OHM else spec.model_copy(update={"resistance_ohm": times * ohm})


def _device(device: Device, vehicle: Vehicle, chance: random.Random) -> DeviceKind:
    def times(of: str) -> float:
        return 1 + _drawn(spread(of, device.known), chance)

    spec, changed = device.spec, dict[str, float]()
    match spec:
        case Load(measured_a=float() as measured_a):
            changed = {"measured_a": times("measured load") * measured_a}
        case Load():
            changed = {"rated_a": times("load") * spec.rated_a}
        case Starter():
            changed = {"running_a": times("load") * spec.running_a}
        case RelayCoil():
            changed = {"resistance_ohm": times("coil") * spec.resistance_ohm}
        case Alternator():
            off_v = _drawn(spread("regulator"), chance) * vehicle.nominal_v / 12
            spec, changed = scaled(spec, times("output") * spec.at_6000_a), {"setpoint_v": spec.setpoint_v + off_v}
        case Battery():
            charge = spec.state_of_charge_percent + _drawn(spread("charge"), chance)
            known = "battery" if spec.resistance_ohm is None else "measured"
            usual = spec.resistance_ohm or usual_resistance_ohm(spec, vehicle.nominal_v)
            changed = {
                "state_of_charge_percent": min(max(charge, 0.0), 100.0),
                "resistance_ohm": times(known) * usual,
                "charge_a": times("acceptance") * (spec.charge_a or usual_acceptance_a(spec)),
            }
    return spec.model_copy(update=changed)
