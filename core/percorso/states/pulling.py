"""What a part taken out changes: what goes dead in each state, and through which path what stays on does."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from percorso.errors import PreparationError
from percorso.network.branches import reference_point
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.states.matrix import Cell, cell_of
from percorso.states.paths import Why, why
from percorso.vehicle.connectivity import buses
from percorso.vehicle.devices import Alternator, Battery, RelayCoil
from percorso.vehicle.model import Device, Segment, Vehicle, in_order
from percorso.vehicle.segments import Breaker, Fuse, FusibleLink, Joint, RelayContact
from percorso.vehicle.states import STATES, State
from percorso.verification.preparations import Lift, Preparation, Pull
from percorso.verification.situation import prepared

Effect = Literal[
    "goes dead", "stays on", "comes on", "gets too little", "gets enough", "never comes to rest", "as before"
]


@dataclass(frozen=True)
class Change:
    """One device in one state, before and after; ``through`` is the path of what stays on behind the part."""

    before: Cell
    after: Cell
    effect: Effect
    through: Why | None = None


@dataclass(frozen=True)
class Pulled:
    """One part taken out: every device in every state, device by device."""

    part: str
    preparation: Preparation
    changes: tuple[Change, ...]

    def with_effect(self, *effects: Effect) -> Mapping[str, tuple[State, ...]]:
        """The devices with one of some effects, each with the states in which it has it."""
        found: dict[str, tuple[State, ...]] = {}
        for each in self.changes:
            if each.effect in effects:
                found[each.before.device_id] = (*found.get(each.before.device_id, ()), each.before.state)
        return found


def removable(vehicle: Vehicle) -> list[Segment | Device]:
    """What can be taken out to find out what hangs on it: fuses, links, breakers, relays, joints to ground."""
    ground, bus = buses(vehicle).get(reference_point(vehicle)), buses(vehicle)
    guards = [each for each in vehicle.segments.values() if isinstance(each.spec, Fuse | FusibleLink | Breaker)]
    relays = [each for each in vehicle.devices.values() if isinstance(each.spec, RelayCoil)]
    joints = [
        each for each in vehicle.segments.values() if isinstance(each.spec, Joint) and bus[each.from_point] == ground
    ]
    return [*in_order(guards), *in_order(relays), *in_order(joints)]


def pull_each(network: Network, parts: Sequence[Segment | Device], chosen: Mapping[str, str]) -> list[Pulled]:
    """What it changes to take out each of some parts alone, in every state with inputs as chosen.

    Raises StateError for an unknown input, and PreparationError for what cannot be taken out.
    """
    before = _solved(network, chosen)
    return [_pulled(network, before, part, chosen) for part in parts]


def pull_named(network: Network, name: str, chosen: Mapping[str, str]) -> Pulled:
    """What it changes to take out the part of that designation or id. Raises PreparationError and StateError."""
    can = removable(network.vehicle)
    part = next((each for each in can if name in (each.id, each.designation)), None)
    if part is None:
        names = ", ".join(each.designation for each in can)
        raise PreparationError(f'"{name}" is nothing that is taken out; there is {names or "nothing of the kind"}')
    return pull_each(network, [part], chosen)[0]


def _solved(network: Network, chosen: Mapping[str, str]) -> list[Solution]:
    return [network.solve(state, chosen, look_ahead=False) for state in STATES]


def _pulled(network: Network, before: Sequence[Solution], part: Segment | Device, chosen: Mapping[str, str]) -> Pulled:
    preparation = Lift(part=part.id) if isinstance(part.spec, Joint) else Pull(part=part.id)
    after = _solved(Network(prepared(network.vehicle, [preparation])), chosen)
    behind = _behind(network.vehicle, part)
    changes = (_change(one, other, device, device in behind) for device, one, other in _pairs(before, after, part))
    return Pulled(part.id, preparation, tuple(changes))


def _pairs(
    before: Sequence[Solution], after: Sequence[Solution], part: Segment | Device
) -> Iterator[tuple[str, Solution, Solution]]:
    for device in before[0].vehicle.devices.values():
        if device.id != part.id and not isinstance(device.spec, Battery | Alternator):
            for one, other in zip(before, after, strict=True):
                yield device.id, one, other


def _change(before: Solution, after: Solution, device_id: str, is_behind: bool) -> Change:
    one, other = cell_of(before, device_id), cell_of(after, device_id)
    effect = _effect(one, other, is_behind)
    return Change(one, other, effect, why(after, device_id) if effect == "stays on" else None)


def _effect(before: Cell, after: Cell, is_behind: bool) -> Effect:
    if before.does == after.does:
        return "stays on" if is_behind and after.does == "runs" else "as before"
    if after.does == "rests":
        return "goes dead"
    if after.does == "runs":
        return "comes on" if before.does == "rests" else "gets enough"
    return after.does


def _behind(vehicle: Vehicle, part: Segment | Device) -> frozenset[str]:
    """The devices whose own circuit passes a part, or a contact of it."""
    passed = {part.id} | {
        each.id
        for each in vehicle.segments.values()
        if isinstance(each.spec, RelayContact) and each.spec.coil == part.id
    }
    circuits = (each for each in vehicle.circuits.values() if not passed.isdisjoint(each.whole_path))
    return frozenset(each.device_id for each in circuits if each.device_id)
