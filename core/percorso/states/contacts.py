"""What the contacts of a vehicle join when they are closed: sources, and feeds that nobody meant to meet."""

from collections.abc import Iterable, Iterator

from percorso.vehicle.connectivity import buses
from percorso.vehicle.devices import Alternator, Battery
from percorso.vehicle.model import Segment, Vehicle, in_order, passing
from percorso.vehicle.segments import Contact, RelayContact, SensorSwitch, Switch


class Contacts:
    """Every contact of a vehicle between the stretches that nothing switches. A diode joins nothing."""

    def __init__(self, vehicle: Vehicle) -> None:
        self._vehicle = vehicle
        found = in_order([each for each in vehicle.segments.values() if isinstance(each.spec, Contact)])
        bus = buses(vehicle)
        self._ends = {each.id: (bus[each.from_point], bus[each.to_point]) for each in found}
        self._moved_by = {each.id: _mover(each) for each in found}
        self._fed = {each.id: {circuit.device_id for circuit in passing(vehicle, each.id)} - {None} for each in found}
        marks = ((Battery, "+"), (Alternator, "B+"))
        devices = vehicle.devices.values()
        self._sources = {
            bus[each.terminals[mark]] for kind, mark in marks for each in devices if isinstance(each.spec, kind)
        }
        charging = (each.supply for each in vehicle.circuits.values() if each.family == "charging")
        self._charging = {each for path in charging for each in path}

    @property
    def ids(self) -> list[str]:
        """Segment ids of the contacts by designation, so that what is told does not hang on ids."""
        return list(self._ends)

    def joining_sources(self, shut: list[str]) -> set[str]:
        """Contacts that join two batteries or alternators, of those closed, though no charging circuit passes them."""
        name = {end: end for ends in self._ends.values() for end in ends} | {each: each for each in self._sources}
        found = set()
        for contact in sorted(shut, key=lambda each: each not in self._charging):
            one, other = (name[each] for each in self._ends[contact])
            fed = [any(name[source] == end for source in self._sources) for end in (one, other)]
            if one != other and all(fed) and contact not in self._charging:
                found.add(contact)
            name = {point: one if on == other else on for point, on in name.items()}
        return found

    def joining_feeds(self, shut: list[str]) -> set[str]:
        """Contacts beside which others lead the same way, of those closed: pulling one isolates nothing.

        What one key or one coil moves together is one contact, and a device may have feeds that meet at it.
        """
        if not self._close_a_loop(shut):
            return set()
        return {
            contact
            for place, contact in enumerate(shut)
            if any(each in shut[place:] and not self._belong(contact, each) for each in self._beside(contact, shut))
        }

    def _close_a_loop(self, shut: Iterable[str]) -> bool:
        """Whether some of the contacts closed lead round to where they began, as hardly ever."""
        island = {end: end for each in shut for end in self._ends[each]}
        for each in shut:
            one, other = (_home(island, end) for end in self._ends[each])
            if one == other:
                return True
            island[one] = other
        return False

    def _beside(self, contact: str, shut: Iterable[str]) -> Iterator[str]:
        """The contacts of a way round a contact; none where there is no such way."""
        start, goal = self._ends[contact]
        if start == goal:
            return
        came: dict[str, tuple[str, str]] = {}
        todo, seen = [start], {start}
        while todo:
            here = todo.pop(0)
            for each in shut:
                one, other = self._ends[each]
                there = other if here == one else one if here == other else None
                if each != contact and there is not None and there not in seen:
                    seen.add(there)
                    came[there] = (here, each)
                    todo.append(there)
        while goal in came:
            goal, each = came[goal]
            yield each

    def _belong(self, one: str, other: str) -> bool:
        return self._moved_by[one] == self._moved_by[other] or not self._fed[one].isdisjoint(self._fed[other])


def _home(island: dict[str, str], point: str) -> str:
    while island[point] != point:
        point = island[point]
    return point


def _mover(contact: Segment) -> tuple[str, str | None]:
    """What moves a contact: an input, or a coil."""
    spec = contact.spec
    if isinstance(spec, RelayContact):
        return "coil", spec.coil
    return "input", spec.input if isinstance(spec, Switch | SensorSwitch) else None
