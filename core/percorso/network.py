"""Solves the whole vehicle in an operating state: contacts, regulators and excitation are settled, then reported.

What switches (relay coils, starter solenoids, excitation, regulation) is iterated from what the previous state left
behind until nothing changes. When the same situation comes round again it will never settle: that is chatter, the
rapid click of a weak battery, and is reported as such instead of as a number.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace

from percorso.assembly import TURNING, Generator, Modes, assemble
from percorso.conduction import Circuitry, NotSettledError, Regulation, Solved
from percorso.devices import Alternator, Load, RelayCoil, Starter
from percorso.laws import Array
from percorso.solution import Phase, Solution, report
from percorso.states import A_DRIVE, ENGINE, WAY_TO, State, positions
from percorso.vehicle import Device, Vehicle

REGULATION_MARGIN = 1e-9  # V or A a regulator may be off before it changes its mode


class Network:
    """A vehicle ready to be solved in any state; keep it for as long as the vehicle stays the same."""

    def __init__(self, vehicle: Vehicle) -> None:
        self.vehicle = vehicle
        self.assembly = assemble(vehicle)
        self._circuitry = Circuitry(self.assembly)
        self._branch = {(each.owner, each.part): place for place, each in enumerate(self.assembly.branches)}

    def solve(self, state: State, chosen: Mapping[str, str] | None = None) -> Solution:
        """A state as it is reached by turning the key from off. Raises StateError for an unknown input."""
        return self.sequence(WAY_TO[state], chosen)[-1]

    def sequence(self, states: Iterable[State] = A_DRIVE, chosen: Mapping[str, str] | None = None) -> list[Solution]:
        """States one after the other, each from what the one before left pulled in and excited. Raises StateError."""
        return [
            report(self.assembly, state, phases, running_on=running_on)
            for state, phases, running_on in self._passed(states, chosen)
        ]

    def varied(
        self, state: State, changes: Iterable[tuple[str, float]], chosen: Mapping[str, str] | None = None
    ) -> Iterator[dict[str, float]]:
        """Potentials (V, by point id) in one state with one segment's resistance changed at a time.

        ``changes`` are pairs of segment id and Ω. Each costs an update of the inverse, not a new solution, unless a
        contact or a regulator changes with it. Raises StateError, and NotSettledError where nothing settles.
        """
        *_, (_, phases, _) = self._passed(WAY_TO[state], chosen)
        base = phases[-1]
        for segment_id, ohm in changes:
            part = base.solved.part.with_resistance(self._branch[segment_id, ""], ohm)
            solved = part.solve(base.solved.element_v)
            if self._switched(base.modes, solved) != base.modes or self._regulation_after(base.modes, solved):
                solved = self._varied_anew(state, chosen, segment_id, ohm)
            yield dict(zip(self.assembly.numbers, solved.potential.tolist(), strict=True))

    def _varied_anew(self, state: State, chosen: Mapping[str, str] | None, segment_id: str, ohm: float) -> Solved:
        other = Network(self.vehicle)
        other._circuitry.conductance[self._branch[segment_id, ""]] = 1 / ohm
        *_, (_, phases, _) = other._passed(WAY_TO[state], chosen)
        return phases[-1].solved

    def _passed(
        self, states: Iterable[State], chosen: Mapping[str, str] | None
    ) -> Iterator[tuple[State, list[Phase], bool]]:
        """Each state with its phases (more than one: it chatters) and whether the engine runs on without its key."""
        before: Phase | None = None
        for state in states:
            modes = Modes(positions(self.vehicle.inputs, state, chosen or {}), ENGINE[state])
            phases, running_on = self._entered(modes, before)
            before = phases[-1] if phases else None
            yield state, phases, running_on

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
            self._voltage(phase.solved, device, "+", "-") >= least for device, least in needed for phase in phases
        )

    def _voltage(self, solved: Solved, device: Device, start: str, end: str) -> float:
        first, second = (self.assembly.numbers[device.terminals[each]] for each in (start, end))
        return float(solved.potential[first] - solved.potential[second])

    def _settled(self, modes: Modes, before: Phase | None) -> list[Phase]:
        """The phase in which nothing changes any more, the cycle of phases that repeat, or none without a solution."""
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
        """Solve with every alternator regulating, at its limit or cut off, whichever agrees with itself."""
        works = modes.engine in TURNING
        regulation: tuple[Regulation, ...] | None = tuple(
            "regulating" if works and each.owner in modes.excited and each.limit_a[modes.engine] > 0 else "still"
            for each in self.assembly.generators
        )
        tried = set()
        while regulation is not None and regulation not in tried:
            tried.add(regulation)
            solved = self._circuitry.ohmic_part(modes, regulation).solve(guess)
            guess = solved.element_v
            regulation = self._regulation_after(modes, solved)
        if regulation is not None:
            raise NotSettledError
        return solved

    def _regulation_after(self, modes: Modes, solved: Solved) -> tuple[Regulation, ...] | None:
        """How the alternators would change what was assumed of them; None when it agrees."""
        assumed = tuple(mode for mode, _ in solved.part.regulated)
        wanted = tuple(
            self._regulation_of(generator, modes, solved, place)
            for place, generator in enumerate(self.assembly.generators)
        )
        return None if wanted == assumed else wanted

    def _regulation_of(self, generator: Generator, modes: Modes, solved: Solved, place: int) -> Regulation:
        mode, limit = solved.part.regulated[place]
        given = float(solved.generated_a[place])
        minus = self.assembly.numbers[generator.minus]
        sensed = float(solved.potential[solved.part.sensed(generator)] - solved.potential[minus])
        if mode == "regulating" and given > limit + REGULATION_MARGIN:
            return "at its limit"
        if mode == "regulating" and given < -REGULATION_MARGIN:
            return "cut off"
        over = sensed - generator.setpoint_v
        if (mode == "at its limit" and over > REGULATION_MARGIN) or (mode == "cut off" and over < -REGULATION_MARGIN):
            return "regulating"
        return mode

    def _switched(self, modes: Modes, solved: Solved) -> Modes:
        """What has pulled in, dropped out or woken up at these voltages."""
        pulled_in = set(modes.pulled_in)
        excited = set(modes.excited)
        for device in self.vehicle.devices.values():
            spec = device.spec
            if isinstance(spec, RelayCoil | Starter) and (device.id, "coil") in self._branch:
                coil_v = abs(self._voltage(solved, device, *spec.COIL_TERMINALS))
                if coil_v >= spec.pull_in_v:
                    pulled_in.add(device.id)
                elif coil_v <= spec.drop_out_v:
                    pulled_in.discard(device.id)
            if isinstance(spec, Alternator) and modes.engine in TURNING and self._wakes_up(device, spec, modes, solved):
                excited.add(device.id)
        return replace(modes, pulled_in=frozenset(pulled_in), excited=frozenset(excited))

    def _wakes_up(self, device: Device, spec: Alternator, modes: Modes, solved: Solved) -> bool:
        rpm = spec.idle_rpm if modes.engine == "idle" else spec.road_rpm
        if spec.self_excites_rpm is not None and rpm >= spec.self_excites_rpm:
            return True
        excitation = self._voltage(solved, device, "D+", "B-") / spec.exciter_ohm if "D+" in device.terminals else 0.0
        return excitation >= spec.excitation_a
