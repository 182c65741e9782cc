"""The proof: what must never happen and still does, with the shortest way to it, or that there is no such thing."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.states.exploration import MOST_SITUATIONS, Explored, Positions, Scope, explore
from percorso.states.forbidden import Happening, What, happenings
from percorso.states.paths import Why, why
from percorso.vehicle.devices import RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Device
from percorso.vehicle.states import STATES, State, Step

HowOften = Literal["always", "sometimes", "never"]


@dataclass(frozen=True)
class Forbidden:
    """Something that must not happen, of which part, and how it is brought about.

    ``way`` leads from the parked vehicle to the nearest of the ``count`` situations in which it happens.
    """

    what: What
    part: str
    way: tuple[Step, ...]
    positions: Mapping[str, str]
    count: int
    states: tuple[State, ...]

    @property
    def state(self) -> State:
        """The state it happens in."""
        return self.way[-1].state


@dataclass(frozen=True)
class Proof:
    """What was tried and what was found. ``runs``: how often each device runs in each state, over all inputs.

    ``showing`` are situations in which together everything runs that can run, few of them for each state.
    """

    network: Network
    scope: Scope
    forbidden: tuple[Forbidden, ...]
    runs: Mapping[tuple[str, State], HowOften]
    showing: tuple[Step, ...]

    @property
    def situations(self) -> int:
        """How many situations were tried: states times combinations of inputs."""
        return self.scope.situations


def prove(network: Network, most: int = MOST_SITUATIONS) -> Proof:
    """Try every situation of a vehicle that has a point, or as many as are asked for.

    >>> proof = prove(Network(vehicle_at(bus, "found")))
    >>> sorted({each.what for each in proof.forbidden})
    ['fed past its own contact', 'feeds joined', 'gets too little', 'never comes to rest', 'runs and must not']
    """
    explored = explore(Network(network.vehicle), most)  # of its own, which knows too much afterwards to be kept
    found = tuple(_forbidden(explored, each) for each in happenings(explored))
    return Proof(network, explored.scope, found, _how_often(explored), tuple(_showing(explored)))


def _forbidden(explored: Explored, happening: Happening) -> Forbidden:
    places = np.flatnonzero(happening.moments)
    first = explored.moments[places[0]]  # moments are in the order of the steps that lead to them
    there = {(each.state, each.positions) for each in (explored.moments[place] for place in places)}
    return Forbidden(
        what=happening.what,
        part=happening.part,
        way=explored.way(int(places[0])),
        positions=_by_id(explored.scope, first.positions),
        count=len(there),
        states=tuple(state for state in STATES if any(state == each for each, _ in there)),
    )


def _by_id(scope: Scope, positions: Positions) -> Mapping[str, str]:
    return {each.id: position for each, position in zip(scope.inputs, positions, strict=True)}


def _how_often(explored: Explored) -> Mapping[tuple[str, State], HowOften]:
    """How often each load, coil and starter runs in each state."""
    states = {state: explored.in_states((state,)) & explored.settled for state in STATES}
    found: dict[tuple[str, State], HowOften] = {}
    for device in _seen(explored):
        runs = explored.runs(device)
        for state, there in states.items():
            share = runs[there].mean() if there.any() else 0.0
            found[device.id, state] = "never" if share == 0 else "always" if share == 1 else "sometimes"
    return found


def _showing(explored: Explored) -> Iterator[Step]:
    """For each state the situation in which most runs, and more until nothing is left that runs in none of them."""
    running = np.array([explored.runs(each) for each in _seen(explored)], dtype=bool).reshape(-1, len(explored.moments))
    for state in STATES:
        there = np.flatnonzero(explored.in_states((state,)) & explored.settled & ~explored.running_on)
        left = running[:, there]
        if not len(there):
            yield Step(state)
        while len(there):
            best = int(left.sum(axis=0).argmax())
            yield explored.scope.step(state, explored.moments[there[best]].positions)
            left = left & ~left[:, [best]]
            if not left.any():
                break


def _seen(explored: Explored) -> list[Device]:
    """Loads, coils and starters."""
    devices = explored.network.vehicle.devices.values()
    return [each for each in devices if isinstance(each.spec, Load | RelayCoil | Starter)]


def replayed(proof: Proof, forbidden: Forbidden) -> Solution:
    """The end of the way to something forbidden, solved step by step. Raises StateError."""
    return proof.network.end_of(forbidden.way)


def path_of(proof: Proof, forbidden: Forbidden) -> Why | None:
    """The path the current takes there; None where what happens has no part of its own."""
    return why(replayed(proof, forbidden), forbidden.part) if forbidden.part else None
