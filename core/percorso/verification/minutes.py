"""How long a measurement takes: to bring its situation about, to get at its places, and to read."""

from percorso.vehicle.access import minutes as access_min
from percorso.vehicle.model import Vehicle
from percorso.vehicle.states import State
from percorso.verification.measurements import Measurement, Situation
from percorso.verification.preparations import BatteryOff

READ_MIN = 0.3  # to read an instrument and write it down, from memory
CLAMP_MIN = 0.5  # to zero a clamp first, from memory
DO_MIN = 1.0  # to pull, unplug, lift or bridge something that is within reach, from memory
BATTERY_OFF_MIN = 3.0  # off and on again, from memory
STATE_MIN: dict[State, float] = {  # to bring a state about, from memory
    "off": 0.2,
    "accessory": 0.2,
    "on": 0.2,
    "cranking": 0.5,
    "idle": 1.0,
    "road": 2.0,
}


def minutes(vehicle: Vehicle, measurement: Measurement, before: Situation | None) -> float:
    """How long a measurement takes after one in another situation, or as the first of all."""
    zeroed = CLAMP_MIN if measurement.with_what == "clamp" else 0.0
    return READ_MIN + zeroed + _reach_min(vehicle, measurement) + _change_min(before, measurement.situation)


def _reach_min(vehicle: Vehicle, measurement: Measurement) -> float:
    """To get at the points that are measured, or at the part."""
    points = [each for each in (measurement.red_point, measurement.black_point) if each is not None]
    if measurement.segment in vehicle.segments:
        segment = vehicle.segments[measurement.segment or ""]
        return access_min(vehicle.access_to_segment(segment))
    return sum(access_min(vehicle.access_to_point(each)) for each in points)


def _change_min(before: Situation | None, situation: Situation) -> float:
    """To bring a situation about after another one."""
    if before is not None and before.key == situation.key:
        return 0.0
    same_state = before is not None and (before.state, before.inputs) == (situation.state, situation.inputs)
    done = [each for each in situation.preparations if before is None or each not in before.preparations]
    takes = sum(BATTERY_OFF_MIN if isinstance(each, BatteryOff) else DO_MIN for each in done)
    return takes + (0.0 if same_state else STATE_MIN[situation.state])
