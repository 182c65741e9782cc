"""Every situation a vehicle can come into: states times inputs, entered in every order of the key, as arrays."""

from collections import deque
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from percorso.arrays import Array, Mask
from percorso.kept import cached_property
from percorso.network.device_results import GIVES_A, works
from percorso.network.modes import LatchState
from percorso.network.operating_point import Network
from percorso.network.results import Phase
from percorso.vehicle.devices import Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Device, Vehicle
from percorso.vehicle.segments import SensorSwitch, Switch
from percorso.vehicle.states import NEXT, STATES, Input, State, Step

MOST_SITUATIONS = 20_000
LIVE_A = 1e-6  # what is less is a leak across a junction

Positions = tuple[str, ...]  # of every input that switches something, in the order of Scope.inputs


@dataclass(frozen=True)
class Scope:
    """Which situations are tried: every possible combination of the inputs that switch something at this stage.

    Where those are too many, the ones with at most ``moved`` inputs away from where they usually stand.
    """

    inputs: tuple[Input, ...]
    moved: int

    @property
    def is_whole(self) -> bool:
        """Whether nothing is left out."""
        return self.moved >= len(self.inputs)

    @property
    def situations(self) -> int:
        """How many there are, all states together."""
        return _count(self.inputs, self.moved)

    @cached_property
    def usual(self) -> Mapping[State, Positions]:
        """Where the inputs usually stand in each state."""
        return {state: tuple(each.position(state) for each in self.inputs) for state in STATES}

    @cached_property
    def possible(self) -> Mapping[State, tuple[Positions, ...]]:
        """Where each input can stand in each state."""
        return {state: tuple(each.possible(state) for each in self.inputs) for state in STATES}

    def one_moved(self, state: State, positions: Positions) -> Iterator[Positions]:
        """The combinations one input away that are tried too."""
        for place, can in enumerate(self.possible[state]):
            for other in can:
                moved = (*positions[:place], other, *positions[place + 1 :])
                if other != positions[place] and self._holds(state, moved):
                    yield moved

    def _holds(self, state: State, positions: Positions) -> bool:
        if self.is_whole:
            return True
        return sum(one != usual for one, usual in zip(positions, self.usual[state], strict=True)) <= self.moved

    def step(self, state: State, positions: Positions) -> Step:
        """A situation as a step: what does not stand as usual is chosen."""
        standing = zip(self.inputs, positions, self.usual[state], strict=True)
        return Step(state, {each.id: position for each, position, usual in standing if position != usual})

    def after_key(self, state: State, positions: Positions, to: State) -> Positions:
        """Inputs that stand as usual go along with the state; what was moved stays where it is, if it can."""
        standing = zip(positions, self.usual[state], self.usual[to], self.possible[to], strict=True)
        return tuple(
            position if position != usual and position in can else usual_then
            for position, usual, usual_then, can in standing
        )


def scope_of(vehicle: Vehicle, most: int = MOST_SITUATIONS) -> Scope:
    """What to try of a vehicle in at most so many situations."""
    driven = {each.spec.input for each in vehicle.segments.values() if isinstance(each.spec, Switch | SensorSwitch)}
    inputs = tuple(each for each in vehicle.inputs.values() if each.id in driven)
    moved = next((each for each in range(len(inputs), 0, -1) if _count(inputs, each) <= most), 0)
    return Scope(inputs, moved)


def _count(inputs: tuple[Input, ...], most_moved: int) -> int:
    """How many situations there are with at most so many inputs away from where they usually stand."""
    total = 0
    for state in STATES:
        ways = [1] + [0] * most_moved  # of the inputs so far, by how many of them are moved
        for each in inputs:
            others = len(each.possible(state)) - 1
            ways = [ways[0]] + [more + fewer * others for fewer, more in pairwise(ways)]
        total += sum(ways)
    return total


@dataclass
class ReachedSituation:
    """A situation as it was come into: one and the same can be another when something stayed latched on the way.

    ``came_from`` is the moment one step before, None at the start. ``by_key`` are the moments one turn of the key on.
    ``swings`` are the coils that pull in and drop out again and again.
    """

    state: State
    positions: Positions
    step: Step
    came_from: int | None
    phase: Phase | None  # the last one; None where there is no solution
    settled: bool
    swings: frozenset[str]
    running_on: bool
    by_key: list[int] = field(default_factory=list)

    @property
    def pulled_in(self) -> frozenset[str]:
        """Coils that are pulled in."""
        return self.phase.modes.pulled_in if self.phase else frozenset()


@dataclass(frozen=True)
class Explored:
    """Every moment, the nearest to the parked vehicle first, and what is live in each: V by point, A by branch."""

    network: Network
    scope: Scope
    moments: tuple[ReachedSituation, ...]
    potential: Array  # (moments, points)
    branch_a: Array  # (moments, branches)
    conducting: Mask  # (moments, branches)

    def way(self, place: int) -> tuple[Step, ...]:
        """The shortest way to a moment, from the parked vehicle."""
        steps: list[Step] = []
        at: int | None = place
        while at is not None:
            steps.append(self.moments[at].step)
            at = self.moments[at].came_from
        return tuple(steps[::-1])

    @cached_property
    def settled(self) -> Mask:
        """Which moments came to rest, shape (moments,)."""
        return np.array([each.settled for each in self.moments], dtype=bool)

    @cached_property
    def running_on(self) -> Mask:
        """In which moments the engine runs on without its key, shape (moments,)."""
        return np.array([each.running_on for each in self.moments], dtype=bool)

    @cached_property
    def by_key_alone(self) -> Mask:
        """Which moments are reached with every input where it usually stands all the way, shape (moments,)."""
        reached = np.zeros(len(self.moments), dtype=bool)
        todo = [0]
        while todo:
            place = todo.pop()
            if not reached[place]:
                reached[place] = True
                todo += self.moments[place].by_key
        return reached

    @cached_property
    def _branch(self) -> Mapping[tuple[str, str], int]:
        return {(each.owner, each.part): place for place, each in enumerate(self.network.assembly.branches)}

    def in_states(self, states: Iterable[State]) -> Mask:
        """Which moments are in one of some states, shape (moments,)."""
        wanted = set(states)
        return np.array([each.state in wanted for each in self.moments], dtype=bool)

    def voltage_v(self, device: Device, start: str, end: str) -> Array:
        """Voltage between two terminals of a device, V, shape (moments,)."""
        numbers = self.network.assembly.numbers
        first, second = (self.potential[:, numbers[device.terminals[each]]] for each in (start, end))
        return np.asarray(first - second)

    def current_a(self, owner: str, part: str = "") -> Array:
        """Current of a segment, or of a branch of a device, A, shape (moments,)."""
        return self.branch_a[:, self._branch[owner, part]]

    def conducts(self, segment_id: str) -> Mask:
        """In which moments a segment is closed, shape (moments,)."""
        return self.conducting[:, self._branch[segment_id, ""]]

    def pulled_in(self, coil: Device) -> Mask:
        """In which moments a coil is pulled in, shape (moments,)."""
        return np.array([coil.id in each.pulled_in for each in self.moments], dtype=bool)

    def runs(self, device: Device) -> Mask:
        """In which moments a load works, a coil is pulled in or a starter turns, shape (moments,)."""
        if isinstance(device.spec, Load):
            flows = np.abs(self.current_a(device.id)) > LIVE_A
            return works(device.spec, self.voltage_v(device, "+", "-")) & flows
        return self.current_a(device.id) > GIVES_A if isinstance(device.spec, Starter) else self.pulled_in(device)


_Situation = tuple[State, Positions]


class _Explorer:
    """Goes from the parked vehicle to wherever a turn of the key or one input leads, breadth first."""

    def __init__(self, network: Network, scope: Scope) -> None:
        self.network, self.scope = network, scope
        self.moments: list[ReachedSituation] = []
        self._place: dict[tuple[_Situation, LatchState, bool], int] = {}
        self._entered: dict[tuple[_Situation, LatchState, str], int] = {}
        self._rows: list[tuple[Array, Array, Mask]] = []
        self._todo: deque[int] = deque()

    def explore(self) -> Explored:
        self._enter(None, "off", self.scope.usual["off"])
        while self._todo:
            place = self._todo.popleft()
            here = self.moments[place]
            for state in NEXT[here.state]:
                positions = self.scope.after_key(here.state, here.positions, state)
                here.by_key.append(self._enter(place, state, positions))
            for positions in self.scope.one_moved(here.state, here.positions):
                self._enter(place, here.state, positions)
        potential, branch_a, conducting = (np.array(each) for each in zip(*self._rows, strict=True))
        return Explored(self.network, self.scope, tuple(self.moments), potential, branch_a, conducting)

    def _enter(self, came_from: int | None, state: State, positions: Positions) -> int:
        """The moment that comes of it, by its place; a new one is to be gone on from."""
        before = None if came_from is None else self.moments[came_from].phase
        latched = before.modes.latched if before else LatchState()
        entered = (state, positions), latched, before.modes.engine if before else ""
        if entered not in self._entered:
            step = self.scope.step(state, positions)
            reached = self.network.enter(step, before)
            last = reached.last
            if last and reached.running_on:
                positions = tuple(last.modes.positions[each.id] for each in self.scope.inputs)
            after = last.modes.latched if last else LatchState()
            key = (state, positions), after, reached.running_on
            if key not in self._place:
                settled, swings = len(reached.phases) == 1, _swinging(reached.phases)
                moment = ReachedSituation(state, positions, step, came_from, last, settled, swings, reached.running_on)
                self._place[key] = len(self.moments)
                self._todo.append(len(self.moments))
                self.moments.append(moment)
                self._rows.append(self._row(last))
            self._entered[entered] = self._place[key]
        return self._entered[entered]

    def _row(self, phase: Phase | None) -> tuple[Array, Array, Mask]:
        """Potentials, branch currents and what conducts in a moment; nothing where there is no solution."""
        if phase is None:
            points, branches = self.network.assembly.size, len(self.network.assembly.branches)
            return np.zeros(points), np.zeros(branches), np.zeros(branches, dtype=bool)
        return phase.solved.potential, phase.solved.branch_a, phase.solved.part.conducting


def _swinging(phases: Sequence[Phase]) -> frozenset[str]:
    """Coils that are pulled in in some phases of a moment and not in others."""
    pulled_in = [each.modes.pulled_in for each in phases]
    return frozenset.union(*pulled_in) - frozenset.intersection(*pulled_in) if pulled_in else frozenset()


def explore(network: Network, most: int = MOST_SITUATIONS) -> Explored:
    """Every situation of a vehicle with at least one point, or as many as are asked for."""
    return _Explorer(network, scope_of(network.vehicle, most)).explore()
