"""How a test is done, in two sentences, and its caution."""

from collections.abc import Iterator

from percorso.vehicle.devices import RelayCoil, Starter
from percorso.vehicle.loads import FilamentLamp, IndicatorLamp
from percorso.vehicle.model import Device, Segment, Vehicle
from percorso.vehicle.naming import point_called
from percorso.vehicle.states import State
from percorso.verification.measured.measurements import DEAD, WORDS, Measurement, Situation
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

STATE_SAYS: dict[State, str] = {
    "off": "Key off",
    "accessory": "Key on accessory",
    "on": "Key on, engine stopped",
    "cranking": "Crank, five seconds at most",
    "idle": "Engine idling",
    "road": "Engine at a fast idle, as on the road",
}
CAUTIONS: dict[State, str] = {
    "off": "",
    "accessory": "",
    "on": "",
    "cranking": "Out of gear, parking brake on, nobody under the vehicle or near the belt.",
    "idle": "Wheels chocked, exhaust led away; hands and leads clear of belt and fan.",
    "road": "Wheels chocked, exhaust led away; hands and leads clear of belt and fan.",
}
BRIDGE_CAUTIONS = {
    "jumper": "A jumper with a fuse only, and never across a load.",
    "booster cable": "Clamp the booster cable before cranking and take it off after; it has no fuse.",
}
SLEEPS = ", doors shut, until its modules sleep: mostly within the hour"  # common practice
DEAD_CAUTION = "Minus off first and on last; where the maker keeps memories or safety systems alive, follow the maker."


def how(vehicle: Vehicle, measurement: Measurement) -> str:
    """The situation in a sentence, and where the instrument goes in another."""
    sleeps = SLEEPS if measurement.quantity == "current" and measurement.situation.state == "off" else ""
    return f"{situation_says(vehicle, measurement.situation)}{sleeps}. {_probes(vehicle, measurement)}."


def caution(measurement: Measurement) -> str:
    """What can hurt while it is done; the vehicle maker's own comes before it."""
    dead = any(isinstance(each, BatteryOff) for each in measurement.situation.preparations)
    said = [CAUTIONS[measurement.situation.state], DEAD_CAUTION if dead else ""]
    said += [BRIDGE_CAUTIONS[each.lead] for each in measurement.situation.preparations if isinstance(each, Bridge)]
    return " ".join(each for each in said if each)


def situation_says(vehicle: Vehicle, situation: Situation, *, briefly: bool = False) -> str:
    """A situation as one tells it to a colleague; ``briefly``, with the state by its name alone."""
    state = situation.state if briefly else STATE_SAYS[situation.state]
    return ", ".join([state, *_inputs(vehicle, situation), *_done(vehicle, situation)])


def _inputs(vehicle: Vehicle, situation: Situation) -> Iterator[str]:
    for each, position in situation.inputs.items():
        name = vehicle.inputs[each].name if each in vehicle.inputs else each
        yield f"{name.lower()} {position.replace('_', ' ')}"


def _done(vehicle: Vehicle, situation: Situation) -> Iterator[str]:
    for each in situation.preparations:
        yield preparation_says(vehicle, each)


def preparation_says(vehicle: Vehicle, preparation: Preparation) -> str:
    """What is done to the metal, as one tells it to a colleague."""
    match preparation:
        case Pull(part=part) | Unplug(part=part) | Lift(part=part) | Swap(part=part) | LampInPlace(part=part):
            return DONE[preparation.do].format(_designation(vehicle, part))
        case Bridge(from_point=start, to_point=end, lead=lead):
            called = "fused jumper" if lead == "jumper" else lead
            return f"{called} from {point_called(vehicle, start).name} to {point_called(vehicle, end).name}"
        case LoadPoint(point=point):
            return f"headlamp bulb from {point_called(vehicle, point).name} to battery minus"
    return "battery minus off"


DONE = {
    "pull": "{} out",
    "unplug": "{} unplugged",
    "lift": "{} lifted",
    "swap": "another {}, known to be good",
    "lamp": "21 W lamp in place of {}",
}


def _designation(vehicle: Vehicle, part: str) -> str:
    every: list[Segment | Device] = [*vehicle.segments.values(), *vehicle.devices.values()]
    return next((each.designation for each in every if part in (each.id, each.designation)), part)


def _probes(vehicle: Vehicle, measurement: Measurement) -> str:
    if measurement.quantity in ("seen", "wiggle", "current"):
        return _at_part(vehicle, measurement)
    red, black = (point_called(vehicle, each or "").name for each in (measurement.red_point, measurement.black_point))
    if measurement.quantity == "lamp":
        return f"Test lamp from {red} to {black}"
    if measurement.quantity in DEAD:
        return f"Ohmmeter from {red} to {black}, its leads' own resistance taken off"
    return f"Red probe on {red} itself, black on {black}"


def _at_part(vehicle: Vehicle, measurement: Measurement) -> str:
    part = measurement.segment or measurement.device or ""
    name = _designation(vehicle, part)
    if measurement.quantity == "current":
        return f"Zero the clamp, then close it round {name} alone"
    if measurement.quantity == "wiggle":
        return f"Tug at each terminal of {name} and move its harness: nothing gives"
    device = vehicle.devices.get(part)
    if device is None:
        return f"Look at {name}"
    does = "pulls in" if isinstance(device.spec, RelayCoil) else "works"
    return f"Look and listen whether {name} {device.name} {does}"


OF_COILS = {"works": "pulled in", "dead": "dropped out", "clicks": "clicks"}
OF_LAMPS = {"works": "lit", "weak": "weak", "dead": "dark"}
OF_DEVICES = {"works": "works", "weak": "weak", "dead": "dead", "clicks": "clicks on and off"}
OF_STARTERS = {
    "works": "turns",
    "weak": "turns slowly",
    "dead": "does nothing",
    "clicks once": "clicks once",
    "clicks": "clicks on and on",
}
OF_FUSES = {"whole": "whole", "blown": "blown", "hot": "hot"}


def words(vehicle: Vehicle, measurement: Measurement) -> list[tuple[str, str]]:
    """The words that can come of a measurement, each as one says it of what is looked at."""
    if measurement.quantity != "seen":
        return [(each, each) for each in WORDS.get(measurement.quantity, ()) if each != "connected"]
    device = vehicle.devices.get(measurement.device or "")
    if device is None:
        return list(OF_FUSES.items())
    match device.spec:
        case RelayCoil():
            return list(OF_COILS.items())
        case FilamentLamp() | IndicatorLamp():
            return list(OF_LAMPS.items())
        case Starter():
            return list(OF_STARTERS.items())
    return list(OF_DEVICES.items())
