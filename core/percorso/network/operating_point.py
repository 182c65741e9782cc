"""Solves the whole vehicle in an operating state: contacts, regulators and excitation are settled, then reported.

What switches (relay coils, starter solenoids, excitation, regulation) is iterated from what the previous state left
behind until nothing changes. When the same situation comes round again it will never settle: that is chatter, the
rapid click of a weak battery, and is reported as such instead of as a number.
"""

from collections.abc import Callable, Container, Hashable, Mapping, Sequence
from contextlib import suppress
from copy import copy
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Mask, Numbers
from percorso.kept import BoundedCache, cached_property
from percorso.network.branches import NEVER, Assembly, Branch, Gate, assemble
from percorso.network.modes import TURNING, Modes
from percorso.network.newton import NotSettledError, Solved
from percorso.network.results import Phase, Solution, report
from percorso.network.settling import Settling
from percorso.network.variation import ConductanceChange, Variants, vary
from percorso.patience import go_on
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Vehicle
from percorso.vehicle.states import ENGINE, KEY, KEY_INPUT, WAY_TO, State, Step, positions, steps

MOST_REACHED = 20_000  # ends of ways, that are kept
MOST_TOLD = 64  # solutions that are kept
MOST_INSTRUMENTED = 16  # networks with one instrument more, that are kept


@dataclass(frozen=True)
class Reached:
    """The end of a step: one phase, several where it chatters, none where there is no solution.

    ``passed`` is all that was solved to get there. ``running_on``: the engine runs on without its key. ``as_whole``: as
    before parts were opened that nothing passes.
    """

    phases: list[Phase]
    passed: Sequence[Solved]
    running_on: bool = False
    as_whole: bool = False

    @property
    def last(self) -> Phase | None:
        """What stays behind for the next step."""
        return self.phases[-1] if self.phases else None


class Network:
    """A vehicle ready to be solved in any state; keep it for as long as the vehicle stays the same."""

    def __init__(self, vehicle: Vehicle, instruments: Sequence[Branch] = (), like: "Network | None" = None) -> None:
        """``instruments`` hang between points of the vehicle and are no part of it.

        ``like`` is the network of the same vehicle before something was done to it: what that left alone is the same.
        """
        self.vehicle = vehicle
        self._wire(assemble(vehicle, like.assembly if like else None), instruments)

    def _wire(self, assembly: Assembly, instruments: Sequence[Branch]) -> None:
        self.assembly = replace(assembly, branches=(*assembly.branches, *instruments))
        self.settling = Settling(self.assembly)
        self.regulators, self.coils = self.settling.regulators, self.settling.coils
        self._branch = {(each.owner, each.part): place for place, each in enumerate(self.assembly.branches)}
        self._kept = BoundedCache[tuple[Hashable, ...], Reached](MOST_REACHED)
        self._told = BoundedCache[tuple[Hashable, ...], Solution](MOST_TOLD)
        self._instrumented = BoundedCache[Branch, Network](MOST_INSTRUMENTED)
        self._whole: tuple[Network, Numbers] | None = None  # before parts were opened, and the branches of those

    def with_instrument(self, instrument: Branch) -> "Network":
        """The same with one instrument more, which comes after all other branches; the last ones are kept."""

        def wired() -> Network:
            other = copy(self)
            other._wire(self.assembly, [instrument])
            return other

        return self._instrumented.get_or(instrument, wired)

    def with_opened(self, segment_id: str) -> "Network":
        """The same with one segment more that never conducts."""
        opened = replace(self.vehicle, opened=self.vehicle.opened | {segment_id})
        return self.with_open(opened, {segment_id})

    def with_open(self, vehicle: Vehicle, parts: Container[str]) -> "Network":
        """The same where nothing of some segments and devices ever conducts, which is what ``vehicle`` says of them."""
        other, branches = copy(self), list(self.assembly.branches)
        gone = [place for (owner, _), place in self._branch.items() if owner in parts]
        for place in gone:
            branches[place] = replace(branches[place], when=NEVER)
        other.vehicle = vehicle
        other._wire(replace(self.assembly, vehicle=vehicle, branches=tuple(branches)), [])
        other._whole = self, np.array(gone, dtype=np.int64)
        return other

    def as_warm_as(self, solved: Solved) -> "Network":
        """The same with its copper held as warm as it is in a solution of it."""
        if self.vehicle.copper == "zone temperature":
            return self
        other, ohm, branches = copy(self), 1 / solved.part.conductance, list(self.assembly.branches)
        for place in self.settling.wires[TURNING[0]].places.tolist():
            branches[place] = replace(branches[place], resistance_ohm=float(ohm[place]))
        other.vehicle = replace(self.vehicle, copper="zone temperature")
        other._wire(replace(self.assembly, vehicle=other.vehicle, branches=tuple(branches)), [])
        return other

    @cached_property
    def watched(self) -> Numbers:
        """The points by which things switch: those of coils and of alternators."""
        numbers, alternators = self.assembly.numbers, {each.owner for each in self.assembly.generators}
        terminals = [point for each in alternators for point in self.vehicle.devices[each].terminals.values()]
        posts = self.regulators.circuitry.posts
        of_alternators = np.array([numbers[each] for each in terminals], dtype=np.int64)
        return np.unique(np.concatenate([self.coils.points, of_alternators, posts.ravel()]))

    def branch_of(self, owner: str, part: str = "") -> int:
        """The place of a segment, or of one part of a device, among the branches."""
        return self._branch[owner, part]

    def cannot_pull_in(self, device_id: str, at: Mapping[str, str]) -> bool:
        """Whether nothing leads to a coil where inputs stand so, whatever else pulls in."""
        return self.coils.is_cut_off(device_id, self.regulators.circuitry.gates.at_most_closed(at))

    def gate_of(self, segment_id: str) -> Gate | None:
        """When a segment conducts; None for one that always does."""
        place = self._branch.get((segment_id, ""))
        return NEVER if place is None else self.assembly.branches[place].when

    def solve(self, state: State, chosen: Mapping[str, str] | None = None, *, look_ahead: bool = True) -> Solution:
        """A state as it is reached by turning the key from off. Raises StateError for an unknown input.

        ``look_ahead``: also whether the engine would outlast its key, which costs another state. Modified nodal
        analysis [21], V, A and Ω.

        >>> idle = Network(vehicle_at(van, "planned")).solve("idle")
        >>> round(idle.voltage_v("b-plus", "b-minus"), 2)
        12.55
        >>> idle.devices["m3"].on
        True
        """
        solution = self.end_of(steps(WAY_TO[state], chosen))
        return self.looked_ahead(solution, chosen) if look_ahead else solution

    def looked_ahead(self, solution: Solution, chosen: Mapping[str, str] | None) -> Solution:
        """A state that was solved, with whether its engine would keep running if its key were turned off now."""
        if solution.modes.engine not in TURNING or not solution.modes.excited:
            return solution
        way = steps(WAY_TO[solution.state], chosen)
        return replace(solution, outlasts_key=self._reached((*way, Step("off", way[-1].chosen))).running_on)

    def sequence(self, way: Sequence[Step]) -> list[Solution]:
        """States one after the other, each from what the one before left pulled in and excited. Raises StateError."""
        return [self.end_of(way[: place + 1]) for place in range(len(way))]

    def end_of(self, way: Sequence[Step]) -> Solution:
        """What a way comes to, step by step. Raises StateError."""
        reached = self._reached(tuple(way))

        def told() -> Solution:
            return report(self.assembly, way[-1].state, reached.phases, running_on=reached.running_on)

        return self._told.get_or(tuple(each.key for each in way), told)

    def varied(
        self, state: State, changes: Sequence[tuple[str, float]], chosen: Mapping[str, str] | None = None
    ) -> Array:
        """Potentials in one state with one segment's resistance changed at a time, V, shape (changes, points).

        ``changes`` are pairs of segment id and Ω; points come in the vehicle's order. Only where a contact or a
        regulator changes with it is a variant solved anew. Raises StateError, and NotSettledError where nothing
        settles, and where a variant chatters.
        """
        base = self.settled(state, chosen)
        branches = np.array([self.branch_of(segment_id) for segment_id, _ in changes], dtype=int)
        ohm = np.array([each for _, each in changes])

        def alone(place: int) -> Network:
            other = Network(self.vehicle).as_warm_as(base.solved)
            other.regulators.circuitry.conductance[branches[place]] = 1 / ohm[place]
            return other

        change = ConductanceChange.of_branches(base.solved.part, branches, ohm)
        return self._varied(base, change, (state, chosen), alone)

    def across(
        self, state: State, pairs: Sequence[tuple[str, str]], ohm: float, chosen: Mapping[str, str] | None = None
    ) -> Array:
        """Voltages between pairs of points while ``ohm`` hangs between the two of one pair at a time, V, (pairs,).

        Raises StateError, and NotSettledError where nothing settles or where it chatters.
        """
        base = self.settled(state, chosen)
        numbers = np.array([[self.assembly.numbers[each] for each in pair] for pair in pairs]).reshape(-1, 2)
        start, end = numbers.T
        island = base.solved.part.island
        apart = island[start] != island[end]  # what hangs between islands makes them one, which is no small change
        change = ConductanceChange(start, end, np.where(apart, 0.0, 1 / ohm), np.zeros(len(pairs)))

        def alone(place: int) -> Network:
            red, black = pairs[place]
            instrument = Branch("", "instrument", red, black, resistance_ohm=ohm)
            return self.as_warm_as(base.solved).with_instrument(instrument)

        potential = self._varied(base, change, (state, chosen), alone, again=apart)
        every = np.arange(len(pairs))
        voltage: Array = potential[every, start] - potential[every, end]
        return voltage

    def _varied(
        self,
        base: Phase,
        change: ConductanceChange,
        asked: tuple[State, Mapping[str, str] | None],
        alone: Callable[[int], "Network"],
        again: Mask | None = None,
    ) -> Array:
        """Potentials with each change made, V, shape (changes, points).

        ``alone`` is the network of one of them, for where a contact or a regulator changes with it, or ``again``.
        """
        variants = self.variants(base, change)
        solve = ~variants.settled if again is None else ~variants.settled | again
        for place in np.flatnonzero(solve).tolist():
            variants.potential[place] = alone(place)._varied_alone(base, *asked)
        return variants.potential

    def variants(self, base: Phase, change: ConductanceChange) -> Variants:
        """A settled state with each change made by itself; settled are those in which nothing switches with it."""
        variants = vary(base.solved, change)
        stays = self._stays(base, variants.potential, variants.generated_a)
        return replace(variants, settled=variants.settled & stays)

    def _varied_alone(self, base: Phase, state: State, chosen: Mapping[str, str] | None) -> Array:
        """Potentials of this network, which differs little from the one ``base`` is of, V, shape (points,)."""
        regulation = tuple(each.mode for each in base.solved.part.regulated)
        with suppress(NotSettledError):
            solved = self.regulators.circuitry.ohmic_part(base.modes, regulation).solve(base.solved.element_v)
            if self._stays(base, solved.potential, solved.generated_a):
                return solved.potential
        return self.settled(state, chosen).solved.potential

    def _stays(self, base: Phase, potential: Array, generated_a: Array) -> NDArray[np.bool_]:
        """Where every coil, regulator and excitation stays on its side of each of its limits, shape (…,).

        A coil between drop-out and pull-in keeps what it was before, so that must not be left either.
        """
        same_bands = self.coils.bands(potential) == self.coils.bands(base.solved.potential)
        stays: NDArray[np.bool_] = np.all(same_bands, axis=-1)
        for place, generator in enumerate(self.assembly.generators):
            stays &= self.regulators.holds(base.solved.part, place, potential, generated_a[..., place])
            if generator.owner not in base.modes.excited:
                stays &= ~self.settling.wakes_up(generator.owner, base.modes, potential)
        return stays

    def settled(self, state: State, chosen: Mapping[str, str] | None = None) -> Phase:
        """A state at rest. Raises StateError, and NotSettledError where nothing settles or where it chatters."""
        phases = self.phases(state, chosen)
        if len(phases) != 1:
            raise NotSettledError
        return phases[0]

    def phases(self, state: State, chosen: Mapping[str, str] | None = None) -> list[Phase]:
        """What a state goes through again and again: one phase at rest, several where it chatters, none without a
        solution. Raises StateError.
        """
        return self._reached(steps(WAY_TO[state], chosen)).phases

    def _reached(self, way: tuple[Step, ...]) -> "Reached":
        """The end of a way; what was reached once is kept, so that the next step of it costs one state more."""

        def enter() -> Reached:
            before = self._reached(way[:-1]) if len(way) > 1 else None
            as_whole = self._as_whole(way) if before is None or before.as_whole else None
            return as_whole or self.enter(way[-1], before.last if before else None)

        return self._kept.get_or(tuple(each.key for each in way), enter)

    def _as_whole(self, way: tuple[Step, ...]) -> "Reached | None":
        """The end of a way as it is known of the network before parts were opened, where nothing passes them there."""
        if self._whole is None:
            return None
        (network, gone), key = self._whole, tuple(each.key for each in way)
        known = network._kept.get(key)
        if not known or not known.phases:
            return None
        without = {id(each): other for each in known.passed if (other := each.without(gone))}
        if any(id(each) not in without for each in known.passed):
            return None
        phases = [Phase(each.modes, without[id(each.solved)], without[id(each.cold)]) for each in known.phases]
        return Reached(phases, tuple(without.values()), known.running_on, as_whole=True)

    def enter(self, step: Step, before: Phase | None) -> "Reached":
        """What a step comes to from what the one before left, from nothing at rest if None. Raises StateError."""
        go_on()
        modes = Modes(positions(self.vehicle.inputs, step.state, step.chosen), ENGINE[step.state])
        if before is None:
            return Reached(*self.settling.settled(modes, None))
        carried = Modes(modes.positions, modes.engine, *before.modes.latched)
        passed: Sequence[Solved] = ()
        if before.modes.engine in TURNING and modes.engine == "stopped":
            # as the key is turned everything else still stands where it stood: there is oil pressure yet
            standing = {**before.modes.positions, KEY_INPUT: KEY[step.state], **step.chosen}
            still_turning = self.settling.settled(replace(carried, engine="idle", positions=standing), before)
            if self._keeps_running(still_turning.phases):
                return Reached(*still_turning, running_on=True)
            passed = still_turning.passed
        rest = self.settling.settled(carried, before)
        return Reached(rest.phases, (*passed, *rest.passed))

    def _keeps_running(self, phases: Sequence[Phase]) -> bool:
        """Whether everything the engine needs is still fed."""
        needed = [
            (device, device.spec.least_v)
            for device in self.vehicle.devices.values()
            if isinstance(device.spec, Load) and device.spec.keeps_engine_running
        ]
        return bool(needed) and all(
            self.settling.across(phase.solved.potential, device, "+", "-") >= least
            for device, least in needed
            for phase in phases
        )
