"""A planned vehicle with what the plan's rules need of it: worst flows and each circuit at its design current."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TypeVar

from percorso.circuits.voltage_profile import Profile, profile
from percorso.circuits.worst_currents import Flows, flows
from percorso.house_rules import HouseRules
from percorso.network.branches import has_source
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.vehicle.model import Circuit, Segment, Vehicle, passing
from percorso.vehicle.states import STATES

_Spec = TypeVar("_Spec")


@dataclass(frozen=True)
class Planned:
    """A vehicle in every state, what flows in it at worst, its circuits at design current, and the house rules."""

    vehicle: Vehicle
    rules: HouseRules
    solutions: tuple[Solution, ...]
    worst: Flows
    profiles: Mapping[str, Profile]

    def name(self, segment_id: str) -> str:
        """A segment's designation."""
        return self.vehicle.segments[segment_id].designation

    def segments(self, kind: type[_Spec]) -> Iterator[tuple[Segment, _Spec]]:
        """Segments of a kind, each with its values."""
        return ((each, each.spec) for each in self.vehicle.segments.values() if isinstance(each.spec, kind))

    def passing(self, segment_id: str) -> list[Circuit]:
        """The circuits that pass a segment."""
        return passing(self.vehicle, segment_id)


def planned(network: Network, rules: HouseRules, *, alone: bool = False) -> Planned:
    """A network solved in every state, and its circuits at design current.

    ``alone``: each circuit's path carries all of its design current, whatever lies beside it.
    """
    vehicle = network.vehicle
    shared = {each.id: profile(vehicle, each, rules) for each in vehicle.circuits.values()}
    profiles = {each: _alone(vehicle, each, forked, rules) for each, forked in shared.items()} if alone else shared
    solutions = tuple(network.solve(state, look_ahead=False) for state in STATES) if has_source(vehicle) else ()
    return Planned(vehicle, rules, solutions, flows(vehicle, solutions, profiles, shared), profiles)


def _alone(vehicle: Vehicle, circuit_id: str, shared: Profile, rules: HouseRules) -> Profile:
    """A circuit's profile with nothing beside its path; the one it has where nothing is."""
    if not shared.forks:
        return shared
    circuit = vehicle.circuits[circuit_id]
    return profile(vehicle, circuit, rules, frozenset(circuit.whole_path))
