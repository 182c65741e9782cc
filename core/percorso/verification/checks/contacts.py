"""Tests of what switches: relays, interlocks state by state, and what must not fail together."""

from collections.abc import Iterator

from percorso.network.operating_point import Network
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Circuit, Device, Stage, Vehicle
from percorso.vehicle.segments import Breaker, Fuse, FusibleLink, RelayContact
from percorso.vehicle.states import ENGINE, STATES, State, positions
from percorso.verification.checks.asked import Check, CheckTarget, seen, voltage, with_target
from percorso.verification.checks.live import device_on
from percorso.verification.checks.sources import WHEN
from percorso.verification.measured.measurements import Situation
from percorso.verification.measured.preparations import Pull

RELAY_STATES: tuple[State, ...] = ("off", "on", "cranking", "idle")


def relay_checks(network: Network, stage: Stage) -> Iterator[Check]:
    """Each coil where it pulls in, its contacts there, and whether it is in or out in each state."""
    vehicle = network.vehicle
    for device, spec in vehicle.devices_of(RelayCoil):
        named = f"{device.designation} {device.name}"
        in_at = device_on(network, stage, device.id, ("on", "accessory", "idle", "cranking", "off", "road"))
        if in_at is not None:
            coil = voltage(device.terminals["86"], device.terminals["85"], in_at)
            enough = CheckTarget("at least", spec.pull_in_v, "what it pulls in at")
            yield with_target(Check(device.id, "coil", f"{named}: coil", "under load", coil), enough)
            for contact, its in vehicle.segments_of(RelayContact):
                if its.coil == device.id and its.form == "NO":
                    drop = voltage(contact.from_point, contact.to_point, in_at)
                    title = f"{named}: contact {contact.designation}"
                    yield Check(device.id, f"contact-{contact.id}", title, "under load", drop)
        for state in RELAY_STATES:
            situation = Situation(stage=stage, state=state)
            yield Check(device.id, "pulled-in", f"{named}, {WHEN[state]}", "interlocks", seen(device.id, situation))


def interlock_checks(network: Network, stage: Stage) -> Iterator[Check]:
    """What must run and what must not, state by state; without the engine where that comes to the same."""
    for device, spec in network.vehicle.devices_of(Load):
        for state in STATES:
            if state in (*spec.runs_in, *spec.rests_in):
                must = "must run" if state in spec.runs_in else "must rest"
                situation = _without_engine(network, stage, device, state)
                when = WHEN[state] if situation.state == state else f"switches as when {WHEN[state]}"
                title = f"{device.name} {must}, {when}"
                yield Check(
                    device.id, f"{must.replace(' ', '-')}-{state}", title, "interlocks", seen(device.id, situation)
                )


def _without_engine(network: Network, stage: Stage, device: Device, state: State) -> Situation:
    """The state itself, or with the key on and every switch as in that state, where the device then does the same."""
    itself = Situation(stage=stage, state=state)
    if ENGINE[state] not in ("idle", "road"):
        return itself
    inputs = network.vehicle.inputs
    there, here = positions(inputs, state, {}), positions(inputs, "on", {})
    moved = {name: position for name, position in there.items() if name in inputs and here[name] != position}
    if any(position not in inputs[name].possible("on") for name, position in moved.items()):
        return itself
    running, standing = network.solve(state, look_ahead=False), network.solve("on", moved, look_ahead=False)
    same = running.devices[device.id].on == standing.devices[device.id].on
    return Situation(stage=stage, state="on", inputs=moved) if same else itself


def independence_checks(network: Network, stage: Stage) -> Iterator[Check]:
    """Pull one of two, the other must run."""
    vehicle = network.vehicle
    fed = {each.device_id: each for each in vehicle.circuits.values() if each.device_id and each.supply}
    for device, spec in vehicle.devices_of(Load):
        other = vehicle.devices.get(spec.independent_of or "")
        if other is None or other.id not in fed:
            continue
        guard = _own_guard(vehicle, fed[other.id], fed.get(device.id))
        runs = device_on(network, stage, device.id, ("on", "idle", "road", "accessory"))
        if guard is None or runs is None:
            continue
        pulled = runs.model_copy(update={"preparations": (Pull(part=guard),)})
        title = f"{device.name} runs with {vehicle.segments[guard].designation} of {other.name} out"
        yield Check(device.id, f"without-{other.id}", title, "independence", seen(device.id, pulled))


def _own_guard(vehicle: Vehicle, circuit: Circuit, beside: Circuit | None) -> str | None:
    """The last guard on a circuit's way out that the other does not pass."""
    shared = beside.supply if beside else ()
    guards = [
        each
        for each in circuit.supply
        if isinstance(vehicle.segments[each].spec, Fuse | FusibleLink | Breaker) and each not in shared
    ]
    return guards[-1] if guards else None
