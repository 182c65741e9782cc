"""How long a measurement takes: to bring its situation about, to get at its places, and to read."""

from percorso.faults.cures import renew_min
from percorso.vehicle.access import Access
from percorso.vehicle.access import minutes as access_min
from percorso.vehicle.devices import Battery, RelayCoil
from percorso.vehicle.model import Device, Segment, Vehicle
from percorso.vehicle.naming import named, point_called
from percorso.vehicle.segments import RelayContact, Wire
from percorso.vehicle.states import State
from percorso.verification.measured.measurements import Measurement, Situation
from percorso.verification.measured.preparations import (
    BatteryOff,
    Bridge,
    LampInPlace,
    Lift,
    LoadPoint,
    Preparation,
    Pull,
    Swap,
    Unplug,
)

READ_MIN = 0.3  # to read an instrument and write it down, from memory
CLAMP_MIN = 0.5  # to zero a clamp first, from memory
DO_MIN = 1.0  # to pull, unplug, lift or bridge something once one is at it, from memory
POST_MIN = 0.1  # to touch a battery's post: nothing is in the way, and a clip stays there; common practice
SOCKET_MIN = 1.0  # more, for a pin of a relay in its socket: from behind, or with the relay half out; from memory
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
    return READ_MIN + zeroed + reach_min(vehicle, measurement) + _change_min(vehicle, before, measurement.situation)


def reach_min(vehicle: Vehicle, measurement: Measurement) -> float:
    """To get at the points that are measured, or at the part."""
    points = [each for each in (measurement.red_point, measurement.black_point) if each is not None]
    if measurement.segment in vehicle.segments:
        segment = vehicle.segments[measurement.segment or ""]
        return access_min(vehicle.access_to_segment(segment))
    return sum(_touch_min(vehicle, each) for each in points)


def _touch_min(vehicle: Vehicle, point: str) -> float:
    """To get at a point with a probe, as said, or as one does at its kind."""
    reach = access_min(vehicle.access_to_point(point))
    if point not in vehicle.points or vehicle.points[point].access is not None:
        return reach
    devices, segments = vehicle.wired.get(point, ()), vehicle.meeting.get(point, ())
    if any(isinstance(each.spec, Battery) for each in devices):
        return POST_MIN
    specs = [*(each.spec for each in devices), *(each.spec for each in segments)]
    in_a_socket = any(isinstance(each, RelayCoil | RelayContact) for each in specs)
    elsewhere = any(not isinstance(each, RelayCoil | RelayContact | Wire) for each in specs)
    return reach + (SOCKET_MIN if in_a_socket and not elsewhere else 0.0)


def _change_min(vehicle: Vehicle, before: Situation | None, situation: Situation) -> float:
    """To bring a situation about after another one."""
    if before is not None and before.key == situation.key:
        return 0.0
    same_state = before is not None and (before.state, before.inputs) == (situation.state, situation.inputs)
    done = [each for each in situation.preparations if before is None or each not in before.preparations]
    takes = sum(_prepare_min(vehicle, each) for each in done)
    return takes + (0.0 if same_state else STATE_MIN[situation.state])


def _prepare_min(vehicle: Vehicle, preparation: Preparation) -> float:
    """To get at what is prepared, and to do it."""
    match preparation:
        case BatteryOff():
            return BATTERY_OFF_MIN
        case Bridge(from_point=start, to_point=end):
            return DO_MIN + sum(_point_min(vehicle, each) for each in (start, end))
        case LoadPoint(point=point):
            return DO_MIN + _point_min(vehicle, point)
        case Pull(part=part) | Unplug(part=part) | Lift(part=part) | LampInPlace(part=part):
            return DO_MIN + min((access_min(_access(vehicle, each)) for each in _parts(vehicle, part)), default=0.0)
        case Swap(part=part):
            return max((_swap_min(vehicle, each) for each in _parts(vehicle, part)), default=DO_MIN)


def _swap_min(vehicle: Vehicle, part: Segment | Device) -> float:
    """To put another one in: a relay is pulled and plugged in, anything else is as much work as to renew it."""
    work = DO_MIN if isinstance(part.spec, RelayCoil | RelayContact) else renew_min(part)
    return work + access_min(_access(vehicle, part))


def _access(vehicle: Vehicle, part: Segment | Device) -> Access:
    return vehicle.access_to_segment(part) if isinstance(part, Segment) else part.access or "open"


def _point_min(vehicle: Vehicle, name: str) -> float:
    return access_min(vehicle.access_to_point(point_called(vehicle, name).id))


def _parts(vehicle: Vehicle, name: str) -> list[Segment | Device]:
    """What goes by a name: a part, or all ways of a plug."""
    devices, segments = named(vehicle.devices.values(), name), named(vehicle.segments.values(), name)
    return [*devices, *segments, *vehicle.plugs.get(name, ())]
