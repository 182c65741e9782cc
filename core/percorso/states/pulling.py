"""What a part taken out changes: what goes dead in each state, and through which path what stays on does."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from percorso.errors import PreparationError
from percorso.network.branches import reference_point
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.patience import one_by_one
from percorso.states.matrix import Cell, Does, cell_of, does
from percorso.states.paths import Why, why
from percorso.vehicle.connectivity import buses
from percorso.vehicle.devices import Alternator, Battery, RelayCoil
from percorso.vehicle.model import Device, Segment, Vehicle, in_order
from percorso.vehicle.segments import Breaker, Fuse, FusibleLink, Joint, RelayContact
from percorso.vehicle.states import State, Step
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.measured.preparations import Lift, Preparation, Pull

Effect = Literal[
    "goes dead", "stays on", "comes on", "gets too little", "gets enough", "never comes to rest", "as before"
]


EFFECTS: tuple[Effect, ...] = get_args(Effect)  # what matters most stands first


@dataclass(frozen=True)
class PulledEffect:
    """One device in one state, before and after; ``through`` is the path of what stays on behind the part.

    ``chosen``: the inputs that do not stand as usual there.
    """

    before: Cell
    after: Cell
    effect: Effect
    chosen: Mapping[str, str]
    through: Why | None = None


@dataclass(frozen=True)
class Pulled:
    """One part taken out: every device in every state, device by device."""

    part: str
    preparation: Preparation
    changes: tuple[PulledEffect, ...]


def removable(vehicle: Vehicle) -> list[Segment | Device]:
    """What can be taken out to find out what hangs on it: fuses, links, breakers, relays, joints to ground."""
    bus = buses(vehicle)
    ground = bus.get(reference_point(vehicle))
    guards = [each for each in vehicle.segments.values() if isinstance(each.spec, Fuse | FusibleLink | Breaker)]
    relays = [each for each in vehicle.devices.values() if isinstance(each.spec, RelayCoil)]
    joints = [
        each for each in vehicle.segments.values() if isinstance(each.spec, Joint) and bus[each.from_point] == ground
    ]
    return [*in_order(guards), *in_order(relays), *in_order(joints)]


def part_named(vehicle: Vehicle, name: str) -> Segment | Device:
    """What can be taken out by that designation or id. Raises PreparationError."""
    can = removable(vehicle)
    part = next((each for each in can if name in (each.id, each.designation)), None)
    if part is None:
        names = ", ".join(each.designation for each in can)
        raise PreparationError(f'"{name}" is nothing that is taken out; there is {names or "nothing of the kind"}')
    return part


def pull_each(network: Network, parts: Sequence[Segment | Device], situations: Sequence[Step]) -> list[Pulled]:
    """What it changes to take out each of some parts alone, in some situations; a state may be there more than once.

    Of those in one state the one is told in which most becomes of a device. Raises StateError for an unknown input.
    """
    solutions = _solved(network, situations)
    before = {each: [cell_of(solution, each) for solution in solutions] for each in network.vehicle.devices}
    return [_pulled(network, before, part, situations) for part in one_by_one(parts)]


def _solved(network: Network, situations: Sequence[Step]) -> list[Solution]:
    return [network.solve(each.state, each.chosen, look_ahead=False) for each in situations]


def _pulled(
    network: Network, before: Mapping[str, Sequence[Cell]], part: Segment | Device, situations: Sequence[Step]
) -> Pulled:
    preparation = Lift(part=part.id) if isinstance(part.spec, Joint) else Pull(part=part.id)
    without = network.with_open(prepared(network.vehicle, [preparation]), _owners(network.vehicle, part))
    after = _solved(without, situations)
    behind = _behind(network.vehicle, part)
    found: dict[tuple[str, State], PulledEffect] = {}
    for device in network.vehicle.devices.values():
        if device.id == part.id or isinstance(device.spec, Battery | Alternator):
            continue
        for step, one, other in zip(situations, before[device.id], after, strict=True):
            effect = _effect(one.does, does(device.spec, other.devices[device.id]), device.id in behind)
            known = found.get((device.id, step.state))
            if known is None or EFFECTS.index(effect) < EFFECTS.index(known.effect):
                through = why(other, device.id) if effect == "stays on" else None
                cell = cell_of(other, device.id)
                found[device.id, step.state] = PulledEffect(one, cell, effect, step.chosen, through)
    return Pulled(part.id, preparation, tuple(found.values()))


def _effect(before: Does, after: Does, is_behind: bool) -> Effect:
    if before == after:
        return "stays on" if is_behind and after == "runs" else "as before"
    if after == "rests":
        return "goes dead"
    if after == "runs":
        return "comes on" if before == "rests" else "gets enough"
    return after


def _owners(vehicle: Vehicle, part: Segment | Device) -> frozenset[str]:
    """A part, and the contacts that come out with it where it is a relay."""
    contacts = [
        each.id
        for each in vehicle.segments.values()
        if isinstance(each.spec, RelayContact) and each.spec.coil == part.id
    ]
    return frozenset({part.id, *contacts})


def _behind(vehicle: Vehicle, part: Segment | Device) -> frozenset[str]:
    """The devices whose own circuit passes a part, or a contact of it."""
    passed = _owners(vehicle, part)
    circuits = (each for each in vehicle.circuits.values() if not passed.isdisjoint(each.whole_path))
    return frozenset(each.device_id for each in circuits if each.device_id)
