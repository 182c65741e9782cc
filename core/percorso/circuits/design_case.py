"""A planned vehicle with what the plan's rules need of it: worst flows and each circuit at its design current."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

from percorso.circuits.voltage_profile import Profile, profile
from percorso.circuits.worst_currents import Flows, flows
from percorso.house_rules import HouseRules
from percorso.network.branches import has_source
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.vehicle.model import Circuit, Device, Segment, Vehicle, passing
from percorso.vehicle.segments import is_switched
from percorso.vehicle.states import STATES

_Spec = TypeVar("_Spec")


@dataclass(frozen=True)
class Planned:
    """A vehicle in every state, what flows in it at worst, its circuits at design current, and the house rules.

    ``near``: the segments and devices that are looked at, all of them where there is none. ``checked`` keeps what the
    rules of a guard said of it, by circuit and guard: the screen shows it and the findings are made of it.
    """

    vehicle: Vehicle
    rules: HouseRules
    solutions: tuple[Solution, ...]
    worst: Flows
    profiles: Mapping[str, Profile]
    near: frozenset[str] | None = None
    checked: dict[tuple[str, str], Any] = field(default_factory=dict, compare=False, repr=False)

    def around(self, circuit: Circuit) -> "Planned":
        """The same looked at where a circuit is: its segments, what meets them, and its device."""
        vehicle, own = self.vehicle, [self.vehicle.segments[each] for each in circuit.whole_path]
        points = {point for each in own for point in (each.from_point, each.to_point)}
        met = {each.id for point in points for each in vehicle.meeting[point]}
        return replace(self, near=frozenset(met | {circuit.device_id or ""}))

    @property
    def pieces(self) -> list[Segment]:
        """The segments looked at."""
        return [each for each in self.vehicle.segments.values() if self.near is None or each.id in self.near]

    def devices(self, kind: type[_Spec]) -> Iterator[tuple[Device, _Spec]]:
        """Devices of a kind that are looked at, each with its values."""
        looked_at = (each for each in self.vehicle.devices.values() if self.near is None or each.id in self.near)
        return ((each, each.spec) for each in looked_at if isinstance(each.spec, kind))

    def name(self, segment_id: str) -> str:
        """A segment's designation."""
        return self.vehicle.segments[segment_id].designation

    def segments(self, kind: type[_Spec]) -> Iterator[tuple[Segment, _Spec]]:
        """Segments of a kind that are looked at, each with its values."""
        return ((each, each.spec) for each in self.pieces if isinstance(each.spec, kind))

    def passing(self, segment_id: str) -> list[Circuit]:
        """The circuits that pass a segment."""
        return passing(self.vehicle, segment_id)


def planned(
    network: Network, rules: HouseRules, *, alone: bool = False, known: Mapping[str, Profile] | None = None
) -> Planned:
    """A network solved in every state, and its circuits at design current.

    ``alone``: each circuit's path carries all of its design current, whatever lies beside it. ``known`` are profiles
    that are known to be right, by circuit id.
    """
    vehicle, known = network.vehicle, known or {}
    shared = {each.id: known.get(each.id) or profile(vehicle, each, rules) for each in vehicle.circuits.values()}
    profiles = {each: _alone(vehicle, each, forked, rules) for each, forked in shared.items()} if alone else shared
    solutions = tuple(network.solve(state, look_ahead=False) for state in STATES) if has_source(vehicle) else ()
    return Planned(vehicle, rules, solutions, flows(vehicle, solutions, profiles, shared), profiles)


def untouched(before: Vehicle, profiles: Mapping[str, Profile], after: Vehicle) -> dict[str, Profile]:
    """Profiles at design current that a change of the vehicle leaves as they are, by circuit id.

    Where the change leaves every point joined as it was, they are those of circuits without a changed segment on their
    path or beside it.
    """
    old, new = before.segments, after.segments
    changed = {each for each in old.keys() | new.keys() if old.get(each) is not new.get(each)}
    alike = (before.nominal_v, before.zone_temperature_c) == (after.nominal_v, after.zone_temperature_c)
    if not alike or any(not _joins_the_same(old.get(each), new.get(each)) for each in changed):
        return {}
    return {
        each: found
        for each, found in profiles.items()
        if after.circuits.get(each) == before.circuits[each]
        and changed.isdisjoint(after.circuits[each].whole_path)
        and all(changed.isdisjoint(fork.segment_ids) for fork in found.forks)
    }


def _joins_the_same(old: Segment | None, new: Segment | None) -> bool:
    """Whether a segment joins the same points as before, at the same times."""
    if old is None or new is None:
        return False
    ends = (old.from_point, old.to_point) == (new.from_point, new.to_point)
    return ends and is_switched(old.spec) == is_switched(new.spec)


def _alone(vehicle: Vehicle, circuit_id: str, shared: Profile, rules: HouseRules) -> Profile:
    """A circuit's profile with nothing beside its path; the one it has where nothing is."""
    if not shared.forks:
        return shared
    circuit = vehicle.circuits[circuit_id]
    return profile(vehicle, circuit, rules, frozenset(circuit.whole_path))
