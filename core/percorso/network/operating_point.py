"""Solves the whole vehicle in an operating state: contacts, regulators and excitation are settled, then reported.

What switches (relay coils, starter solenoids, excitation, regulation) is iterated from what the previous state left
behind until nothing changes. When the same situation comes round again it will never settle: that is chatter, the
rapid click of a weak battery, and is reported as such instead of as a number.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import suppress
from dataclasses import replace
from itertools import product

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array
from percorso.network.branches import TURNING, Generator, Modes, assemble
from percorso.network.newton import Circuitry, NotSettledError, OhmicPart, Regulation, Solved
from percorso.network.results import Phase, Solution, report
from percorso.network.variation import vary
from percorso.vehicle.devices import Alternator, RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Device, Vehicle
from percorso.vehicle.states import A_DRIVE, ENGINE, WAY_TO, State, positions

REGULATION_MARGIN = 1e-9  # V or A a regulator may be off before it changes its mode
MOST_SEARCHED = 4  # alternators of which every combination of modes is tried where the usual way finds none
FIRST_RAISE, LEAST_RAISE = 0.25, 0.001  # shares of their limits that alternators are raised by

MODES: tuple[Regulation, ...] = ("regulating", "at its limit", "cut off")


class Network:
    """A vehicle ready to be solved in any state; keep it for as long as the vehicle stays the same."""

    def __init__(self, vehicle: Vehicle) -> None:
        self.vehicle = vehicle
        self.assembly = assemble(vehicle)
        self._circuitry = Circuitry(self.assembly)
        self._branch = {(each.owner, each.part): place for place, each in enumerate(self.assembly.branches)}
        self._coil_ids = [owner for owner, part in self._branch if part == "coil"]
        self._coils = self._coil_table()
        self._kept: dict[tuple[tuple[State, ...], tuple[tuple[str, str], ...]], tuple[list[Phase], bool]] = {}

    def _coil_table(self) -> tuple[NDArray[np.int_], NDArray[np.int_], Array, Array]:
        """Point numbers of both ends of each coil, its pull-in and its drop-out voltage, each of shape (coils,)."""
        rows = []
        for owner in self._coil_ids:
            device = self.vehicle.devices[owner]
            assert isinstance(device.spec, RelayCoil | Starter)
            ends = (self.assembly.numbers[device.terminals[each]] for each in device.spec.COIL_TERMINALS)
            rows.append((*ends, device.spec.pull_in_v, device.spec.drop_out_v))
        first, second, pull_in_v, drop_out_v = np.array(rows, dtype=float).reshape(-1, 4).T
        return first.astype(int), second.astype(int), pull_in_v, drop_out_v

    def solve(self, state: State, chosen: Mapping[str, str] | None = None, *, look_ahead: bool = True) -> Solution:
        """A state as it is reached by turning the key from off. Raises StateError for an unknown input.

        ``look_ahead``: also whether the engine would outlast its key, which costs another state.
        """
        phases, running_on = self._reached(WAY_TO[state], chosen or {})
        solution = report(self.assembly, state, phases, running_on=running_on)
        outlasts = look_ahead and self._outlasts_key(solution.modes, state, chosen or {})
        return replace(solution, outlasts_key=outlasts)

    def _outlasts_key(self, modes: Modes, state: State, chosen: Mapping[str, str]) -> bool:
        """Whether a running engine would keep running if its key were turned off now."""
        if modes.engine not in TURNING or not modes.excited:
            return False
        return self._reached((*WAY_TO[state], "off"), chosen)[1]

    def sequence(self, states: Iterable[State] = A_DRIVE, chosen: Mapping[str, str] | None = None) -> list[Solution]:
        """States one after the other, each from what the one before left pulled in and excited. Raises StateError."""
        way = tuple(states)
        reached = (self._reached(way[: place + 1], chosen or {}) for place in range(len(way)))
        return [
            report(self.assembly, state, phases, running_on=running_on)
            for state, (phases, running_on) in zip(way, reached, strict=True)
        ]

    def varied(
        self, state: State, changes: Sequence[tuple[str, float]], chosen: Mapping[str, str] | None = None
    ) -> Array:
        """Potentials in one state with one segment's resistance changed at a time, V, shape (changes, points).

        ``changes`` are pairs of segment id and Ω; points come in the vehicle's order. Only where a contact or a
        regulator changes with it is a variant solved anew. Raises StateError, and NotSettledError where nothing
        settles, and where a variant chatters.
        """
        base = self._last_phase(state, chosen)
        branches = np.array([self._branch[segment_id, ""] for segment_id, _ in changes], dtype=int)
        variants = vary(base.solved, branches, np.array([ohm for _, ohm in changes]))
        stays = self._stays(base, variants.potential, variants.generated_a)
        for place in np.flatnonzero(~(variants.settled & stays)).tolist():
            other = Network(self.vehicle)
            other._circuitry.conductance[branches[place]] = 1 / changes[place][1]
            variants.potential[place] = other._varied_alone(base, state, chosen)
        return variants.potential

    def _varied_alone(self, base: Phase, state: State, chosen: Mapping[str, str] | None) -> Array:
        """Potentials of this network, which differs little from the one ``base`` is of, V, shape (points,)."""
        regulation = tuple(mode for mode, _ in base.solved.part.regulated)
        with suppress(NotSettledError):
            solved = self._circuitry.ohmic_part(base.modes, regulation).solve(base.solved.element_v)
            if self._stays(base, solved.potential, solved.generated_a):
                return solved.potential
        return self._last_phase(state, chosen).solved.potential

    def _stays(self, base: Phase, potential: Array, generated_a: Array) -> NDArray[np.bool_]:
        """Where every coil, regulator and excitation stays on its side of each of its limits, shape (…,).

        A coil between drop-out and pull-in keeps what it was before, so that must not be left either.
        """
        same_bands = self._coil_bands(potential) == self._coil_bands(base.solved.potential)
        stays: NDArray[np.bool_] = np.all(same_bands, axis=-1)
        for place, generator in enumerate(self.assembly.generators):
            stays &= self._holds(base.solved.part, place, potential, generated_a[..., place])
            if generator.owner not in base.modes.excited:
                stays &= ~self._wakes_up(generator.owner, base.modes, potential)
        return stays

    def _coil_bands(self, potential: Array) -> NDArray[np.int_]:
        """For each coil 2 where it pulls in, 1 where it holds, 0 where it drops out, shape (…, coils)."""
        first, second, pull_in_v, drop_out_v = self._coils
        coil_v = np.abs(potential[..., first] - potential[..., second])
        return (coil_v >= pull_in_v).astype(int) + (coil_v > drop_out_v)

    def _last_phase(self, state: State, chosen: Mapping[str, str] | None) -> Phase:
        phases, _ = self._reached(WAY_TO[state], chosen or {})
        if len(phases) != 1:
            raise NotSettledError
        return phases[0]

    def _reached(self, way: tuple[State, ...], chosen: Mapping[str, str]) -> tuple[list[Phase], bool]:
        """The phases at the end of a way (more than one: it chatters) and whether the engine runs on without its key.

        What was reached once is kept, so that the next state of a way costs one state more.
        """
        key = way, tuple(sorted(chosen.items()))
        if key not in self._kept:
            earlier = self._reached(way[:-1], chosen)[0] if len(way) > 1 else []
            modes = Modes(positions(self.vehicle.inputs, way[-1], chosen), ENGINE[way[-1]])
            self._kept[key] = self._entered(modes, earlier[-1] if earlier else None)
        return self._kept[key]

    def _entered(self, modes: Modes, before: Phase | None) -> tuple[list[Phase], bool]:
        if before is None:
            return self._settled(modes, None), False
        carried = replace(modes, pulled_in=before.modes.pulled_in, excited=before.modes.excited)
        if before.modes.engine in TURNING and modes.engine == "stopped":
            still_turning = self._settled(replace(carried, engine="idle"), before)
            if self._keeps_running(still_turning):
                return still_turning, True
        return self._settled(carried, before), False

    def _keeps_running(self, phases: Sequence[Phase]) -> bool:
        """Whether everything the engine needs is still fed."""
        needed = [
            (device, device.spec.least_v)
            for device in self.vehicle.devices.values()
            if isinstance(device.spec, Load) and device.spec.keeps_engine_running
        ]
        return bool(needed) and all(
            self._across(phase.solved.potential, device, "+", "-") >= least
            for device, least in needed
            for phase in phases
        )

    def _across(self, potential: Array, device: Device, start: str, end: str) -> Array:
        """Voltage between two terminals of a device, V, shape (…,)."""
        first, second = (self.assembly.numbers[device.terminals[each]] for each in (start, end))
        difference: Array = potential[..., first] - potential[..., second]
        return difference

    def _settled(self, modes: Modes, before: Phase | None) -> list[Phase]:
        """The phase in which nothing changes any more, the cycle of phases that repeat, or none without a solution."""
        if not self.vehicle.points:
            return []
        if modes.engine not in TURNING:
            modes = replace(modes, excited=frozenset())
        guess = before.solved.element_v if before else None
        phases: list[Phase] = []
        latched = []
        while modes.latched not in latched:
            try:
                solved = self._regulated(modes, guess)
            except NotSettledError:
                return []
            phases.append(Phase(modes, solved))
            latched.append(modes.latched)
            modes, guess = self._switched(modes, solved), solved.element_v
        return phases[latched.index(modes.latched) :]

    def _regulated(self, modes: Modes, guess: Array | None) -> Solved:
        """Solve with every alternator regulating, at its limit or cut off, whichever agrees with itself.

        From one assumption to what it asks for instead; where that leads nowhere every combination is tried.
        """
        try:
            return self._followed(modes, guess)
        except NotSettledError:
            return self._searched(modes)

    def _searched(self, modes: Modes) -> Solved:
        """The first combination of modes that agrees with itself. Raises NotSettledError."""
        turning = [self._turns(modes, each) for each in self.assembly.generators]
        if sum(turning) > MOST_SEARCHED:
            raise NotSettledError
        still: tuple[Regulation, ...] = ("still",)
        combinations = list(product(*(MODES if turns else still for turns in turning)))
        guesses: list[Array | None] = [None]  # from nothing, and from what the combination before it came to
        for regulation in combinations:
            for guess in guesses:
                with suppress(NotSettledError):
                    solved = self._circuitry.ohmic_part(modes, regulation).solve(guess)
                    if self._regulation_after(modes, solved) is None:
                        return solved
                    guesses[1:] = [solved.element_v]
                    break
        for regulation in (each for each in combinations if "at its limit" in each):
            with suppress(NotSettledError):
                solved = self._raised(modes, regulation)
                if self._regulation_after(modes, solved) is None:
                    return solved
        raise NotSettledError

    def _raised(self, modes: Modes, regulation: tuple[Regulation, ...]) -> Solved:
        """Solve with what alternators give at their limit raised from nothing, in steps. Raises NotSettledError.

        One that senses nothing lifts a vehicle whose battery takes nothing by many volts, too far for a single step.
        """
        share, step, guess = 0.0, FIRST_RAISE, None
        while True:
            wanted = min(share + step, 1.0)
            try:
                solved = self._circuitry.ohmic_part(modes, regulation, wanted).solve(guess)
            except NotSettledError:
                step /= 2
                if step < LEAST_RAISE:
                    raise
                continue
            if wanted == 1.0:
                return solved
            share, step, guess = wanted, 1.5 * step, solved.element_v

    @staticmethod
    def _turns(modes: Modes, generator: Generator) -> bool:
        """Whether an alternator is awake and fast enough to give."""
        works = modes.engine in TURNING
        return works and generator.owner in modes.excited and generator.limit_a[modes.engine] > 0

    def _followed(self, modes: Modes, guess: Array | None) -> Solved:
        """Solve for the modes that follow from one another. Raises NotSettledError where they go round."""
        regulation: tuple[Regulation, ...] | None = tuple(
            "regulating" if self._turns(modes, each) else "still" for each in self.assembly.generators
        )
        tried: set[tuple[Regulation, ...]] = set()
        while regulation is not None and regulation not in tried:
            tried.add(regulation)
            try:
                solved = self._circuitry.ohmic_part(modes, regulation).solve(guess)
            except NotSettledError:
                regulation, guess = next((each for each in self._instead(regulation) if each not in tried), None), None
                if regulation is None:
                    raise
                continue
            guess = solved.element_v
            regulation = self._regulation_after(modes, solved)
        if regulation is not None:
            raise NotSettledError
        return solved

    def _instead(self, regulation: tuple[Regulation, ...]) -> Iterator[tuple[Regulation, ...]]:
        """What to assume where alternators cannot all regulate: the highest alone, as on one stud; or all give all."""
        regulating = [place for place, mode in enumerate(regulation) if mode == "regulating"]
        if regulating:
            highest = max(regulating, key=lambda place: self.assembly.generators[place].setpoint_v)
            others = set(regulating) - {highest}
            yield tuple("cut off" if place in others else mode for place, mode in enumerate(regulation))
            yield tuple("at its limit" if mode == "regulating" else mode for mode in regulation)

    def _regulation_after(self, modes: Modes, solved: Solved) -> tuple[Regulation, ...] | None:
        """How the alternators would change what was assumed of them; None when it agrees."""
        assumed = tuple(mode for mode, _ in solved.part.regulated)
        holds = [
            bool(self._holds(solved.part, place, solved.potential, solved.generated_a[place]))
            for place in range(len(assumed))
        ]
        if all(holds):
            return None
        return tuple(
            mode if held else self._other(mode, float(given))
            for mode, held, given in zip(assumed, holds, solved.generated_a, strict=True)
        )

    def _holds(self, part: OhmicPart, place: int, potential: Array, given_a: Array) -> NDArray[np.bool_]:
        """Whether an alternator's assumed regulation agrees with what comes out, shape (…,)."""
        mode, limit_a = part.regulated[place]
        if mode == "regulating":
            return (given_a <= limit_a + REGULATION_MARGIN) & (given_a >= -REGULATION_MARGIN)
        generator = self.assembly.generators[place]
        minus = self.assembly.numbers[generator.minus]
        over_v = potential[..., part.sensed(generator)] - potential[..., minus] - generator.setpoint_v
        if mode == "at its limit":
            return np.asarray(over_v <= REGULATION_MARGIN)
        return np.asarray((mode == "still") | (over_v >= -REGULATION_MARGIN))

    @staticmethod
    def _other(mode: Regulation, given_a: float) -> Regulation:
        """What to assume of an alternator instead."""
        if mode != "regulating":
            return "regulating"
        return "at its limit" if given_a > 0 else "cut off"

    def _switched(self, modes: Modes, solved: Solved) -> Modes:
        """What has pulled in, dropped out or woken up at these voltages."""
        bands = dict(zip(self._coil_ids, self._coil_bands(solved.potential).tolist(), strict=True))
        pulled_in = {each for each, band in bands.items() if band == 2 or (band == 1 and each in modes.pulled_in)}
        woken = {
            each.owner
            for each in self.assembly.generators
            if each.owner in modes.excited or self._wakes_up(each.owner, modes, solved.potential)
        }
        return replace(modes, pulled_in=frozenset(pulled_in), excited=frozenset(woken))

    def _wakes_up(self, alternator: str, modes: Modes, potential: Array) -> NDArray[np.bool_]:
        """Whether an alternator that gives nothing yet is excited, shape (…,)."""
        device = self.vehicle.devices[alternator]
        spec = device.spec
        if not isinstance(spec, Alternator) or modes.engine not in TURNING:
            return np.asarray(False)
        if spec.self_excites_rpm is not None and spec.rpm(modes.engine) >= spec.self_excites_rpm:
            return np.asarray(True)
        if "D+" not in device.terminals:
            return np.asarray(False)
        return np.asarray(self._across(potential, device, "D+", "B-") / spec.exciter_ohm >= spec.excitation_a)
