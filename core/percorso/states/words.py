"""The answers about states in words, as one says them to somebody in the driver's seat."""

from collections.abc import Mapping
from itertools import pairwise

from percorso.states.exploration import Scope
from percorso.states.forbidden import What
from percorso.states.paths import Why
from percorso.states.proof import Forbidden
from percorso.states.pulling import Effect, Pulled
from percorso.vehicle.devices import DeviceKind, RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Vehicle
from percorso.vehicle.states import IN_STATE, STATES, State, Step

TO_STATE: Mapping[State, str] = {
    "off": "key off",
    "accessory": "key to accessory",
    "on": "key on",
    "cranking": "crank",
    "idle": "engine idles",
    "road": "drive off",
}


def scope_text(scope: Scope) -> str:
    """What was tried, in a sentence."""
    count = len(scope.inputs)
    switches = "switch" if count == 1 else "switches"
    if not scope.is_whole:
        moved = f"at most {scope.moved} of {count} {switches} away from where they usually stand"
        return f"{scope.situations} situations tried, too many to try all: six states, {moved}, every order of the key."
    every = f"every position {count} {switches} can take" if count else "no switch but the key"
    return f"All {scope.situations} situations tried: six states, {every}, every order of the key."


def way_text(vehicle: Vehicle, way: tuple[Step, ...]) -> tuple[str, ...]:
    """Each step of a way as one would say it to somebody in the driver's seat."""
    said: list[str] = []
    for one, other in pairwise((Step(way[0].state), *way)):
        said += _moves(vehicle, one, other) if other.state == one.state else [_turned(one.state, other.state)]
    return tuple(said)


def _turned(one: State, other: State) -> str:
    return "engine does not start" if (one, other) == ("cranking", "on") else TO_STATE[other]


def _moves(vehicle: Vehicle, one: Step, other: Step) -> list[str]:
    """Inputs that change from one step to the next in the same state."""
    before, after = (
        {each.id: step.chosen.get(each.id, each.position(step.state)) for each in vehicle.inputs.values()}
        for step in (one, other)
    )
    return [
        f"{vehicle.inputs[each].name}: {position.replace('_', ' ')}"
        for each, position in after.items()
        if position != before[each]
    ]


def meant_text(spec: DeviceKind) -> str:
    """What a device is meant to do, in a few words; empty where it may do as it likes."""
    if isinstance(spec, Starter):
        return "must: cranking only"
    if not isinstance(spec, Load):
        return ""
    said = (("must", spec.runs_in), ("must not", spec.rests_in))
    return "; ".join(
        f"{word}: {', '.join(each for each in STATES if each in states)}" for word, states in said if states
    )


EFFECT_NAMES: Mapping[Effect, str] = {
    "goes dead": "goes dead",
    "stays on": "stays on",
    "comes on": "comes on",
    "gets too little": "drops to low voltage",
    "gets enough": "has enough voltage",
    "never comes to rest": "chatters",
    "as before": "as before",
}
SAID: Mapping[What, str] = {
    "runs and must not": "{name} is on {where}; it must be off.",
    "rests and must run": "{name} is off {where}; it must be on.",
    "gets too little": "{name} gets too little voltage {where}; it must be on.",
    "trigger alive": "The trigger of {name} is live {where}.",
    "engine outlasts its key": "The engine keeps running {where}: {name} stays fed.",
    "ignition fed with the key off": "{name} is fed {where}.",
    "never comes to rest": "{name} chatters {where}.",
    "fed past its own contact": "{name} is backfed {where}, through a contact that is not its own.",
    "fed from its wrong end": "{name} is backfed {where}: current comes in at its wrong end.",
    "sources joined": "{name} joins two sources {where}.",
    "feeds joined": "{name} and another contact have their outputs joined {where}.",
    "latched after its key": "{name} stays pulled in {where}, held in from the state before.",
    "coil half pulled": "{name} gets enough voltage to hold and too little to pull in {where}.",
    "over its rating": "{name} carries more than its rating {where}.",
}


def forbidden_text(vehicle: Vehicle, forbidden: Forbidden) -> str:
    """What happens, in a sentence."""
    return SAID[forbidden.what].format(name=_name(vehicle, forbidden.part), where=IN_STATE[forbidden.state])


def pulled_text(vehicle: Vehicle, pulled: Pulled) -> str:
    """What a part does that is taken out, in short: of what is used, not of the relays in between."""
    used = [each for each in pulled.changes if not isinstance(vehicle.devices[each.before.device_id].spec, RelayCoil)]
    dead = {each.before.device_id: None for each in used if each.effect == "goes dead"}
    on = {each.before.device_id: each.through for each in used if each.effect == "stays on"}
    said = [f"{_name(vehicle, device)} stays on{_through(vehicle, path)}" for device, path in on.items()]
    if dead:
        said.insert(0, f"dead: {', '.join(_name(vehicle, each) for each in dead)}")
    return "; ".join(said) or "nothing goes dead"


def _through(vehicle: Vehicle, path: Why | None) -> str:
    """The contacts that something stays on through."""
    names = [vehicle.segments[held.segment_id].designation for held in path.held] if path else []
    return f" through {', '.join(names)}" if names else ""


def _name(vehicle: Vehicle, part: str) -> str:
    device, segment = vehicle.devices.get(part), vehicle.segments.get(part)
    if device is not None:
        return device.designation if isinstance(device.spec, RelayCoil) else device.name
    return segment.designation if segment else "What the alternator feeds"
