"""Settles one step: what pulls in, drops out and wakes up, until nothing changes, and how warm the copper gets by it.

What comes to rest warms its copper, and is solved once more with the resistance that this gives: currents hardly change
with it, so one pass more is enough. What chatters does not last. While cranking copper warms for seconds only.
"""

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array
from percorso.components.warm_copper import CRANKING_S, LASTS
from percorso.kept import BoundedCache, cached_property
from percorso.network.branches import Assembly
from percorso.network.coils import Coils
from percorso.network.modes import TURNING, LatchState, Modes
from percorso.network.newton import NotSettledError, Solved
from percorso.network.regulation import Regulators
from percorso.network.results import Phase
from percorso.vehicle.copper import FELT_K, Wires, wires_of
from percorso.vehicle.devices import Alternator
from percorso.vehicle.model import Device
from percorso.vehicle.states import Engine

MOST_COURSES = 20_000  # ends of what switches, that are kept
MOST_WARM = 64  # ways in which copper is warm, that are kept

_Ended = tuple[list[tuple[LatchState, Solved]], list[Solved]]  # the phases at the end, and all that was solved


class Rest(NamedTuple):
    """What a step comes to: one phase, the phases that repeat, or none without a solution; and all that was solved on
    the way there.
    """

    phases: list[Phase]
    passed: Sequence[Solved]


class _Course(NamedTuple):
    """The same without where inputs stand: what is latched and solved in each phase, with its copper warm and cold."""

    phases: list[tuple[LatchState, Solved, Solved]]
    passed: Sequence[Solved]


class Settling:
    """What settles the steps of one assembly; what it came to once is kept."""

    def __init__(self, assembly: Assembly) -> None:
        self.assembly, self.vehicle = assembly, assembly.vehicle
        self.regulators = Regulators(assembly)
        self.coils = Coils(assembly, self.regulators.circuitry)
        self._courses = BoundedCache[Hashable, _Course](MOST_COURSES)
        self._warm = BoundedCache[bytes, Regulators](MOST_WARM)

    def settled(self, modes: Modes, before: Phase | None) -> Rest:
        """What a step comes to in which nothing changes any more, after what the one before left."""
        if not self.vehicle.points:
            return Rest([], ())
        if modes.excited and modes.engine not in TURNING:
            modes = replace(modes, excited=frozenset())
        modes = self.coils.without_cut_off(modes)
        key = self.regulators.circuitry.gates.closed(modes), modes.engine, modes.latched
        course = self._courses.get_or(key, lambda: self._course(modes, before))
        phases = [Phase(Modes(modes.positions, modes.engine, *latched), *solved) for latched, *solved in course.phases]
        return Rest(phases, course.passed)

    def _course(self, modes: Modes, before: Phase | None) -> _Course:
        """What comes to rest warms its copper, and is solved once more with that; what chatters does not last."""
        cold, passed = self._at_rest(self.regulators, modes, before.cold if before else None)
        warm, more = self._warmed(modes, cold[0], before) if len(cold) == 1 else ([], [])
        phases = [(latched, solved, cold[0][1]) for latched, solved in warm] or [(*each, each[1]) for each in cold]
        return _Course(phases, (*passed, *more))

    def _warmed(self, modes: Modes, cold: tuple[LatchState, Solved], before: Phase | None) -> _Ended:
        """What comes to rest once its currents have warmed the copper; nothing where that is not felt."""
        if self.vehicle.copper == "zone temperature":
            return [], []
        (latched, solved), wires = cold, self.wires[modes.engine]
        copper_c = wires.warmed_c(solved.branch_a[wires.places])
        if (copper_c - wires.air_c).max(initial=0.0) < FELT_K:
            return [], []
        added_ohm = wires.added_ohm(copper_c)
        regulators = self._warm.get_or(added_ohm.tobytes(), lambda: self.regulators.warmed(wires.places, added_ohm))
        as_warm = before is not None and before.solved.part.circuitry is regulators.circuitry
        near = before.solved if before and as_warm else solved
        return self._at_rest(regulators, Modes(modes.positions, modes.engine, *latched), near)

    @cached_property
    def wires(self) -> Mapping[Engine, Wires]:
        """The wires as they warm while the engine stands, cranks or runs."""
        lasting, cranking = wires_of(self.vehicle, (LASTS, CRANKING_S))
        return {"stopped": lasting, "cranking": cranking, "idle": lasting, "road": lasting}

    def _at_rest(self, regulators: Regulators, modes: Modes, near: Solved | None) -> _Ended:
        """What is latched and solved in each phase at the end; where an input stands shows in its contacts alone."""
        course: dict[LatchState, Solved] = {}
        while modes.latched not in course:
            try:
                near = regulators.solve(modes, near)
            except NotSettledError:
                return [], list(course.values())
            course[modes.latched] = near
            modes = self.coils.without_cut_off(self._switched(modes, near))
        return list(course.items())[list(course).index(modes.latched) :], list(course.values())

    def _switched(self, modes: Modes, solved: Solved) -> Modes:
        """What has pulled in, dropped out or woken up at these voltages."""
        woken = frozenset(
            each.owner
            for each in self.assembly.generators
            if each.owner in modes.excited or self.wakes_up(each.owner, modes, solved.potential)
        )
        latched = LatchState(self.coils.pulled_in(modes, solved.potential), woken)
        return modes if latched == modes.latched else Modes(modes.positions, modes.engine, *latched)

    def wakes_up(self, alternator: str, modes: Modes, potential: Array) -> NDArray[np.bool_]:
        """Whether an alternator that gives nothing yet is excited, shape (…,)."""
        device = self.vehicle.devices[alternator]
        spec = device.spec
        if not isinstance(spec, Alternator) or modes.engine not in TURNING:
            return np.asarray(False)
        if spec.self_excites_rpm is not None and spec.rpm(modes.engine) >= spec.self_excites_rpm:
            return np.asarray(True)
        if "D+" not in device.terminals:
            return np.asarray(False)
        return np.asarray(self.across(potential, device, "D+", "B-") / spec.exciter_ohm >= spec.excitation_a)

    def across(self, potential: Array, device: Device, start: str, end: str) -> Array:
        """Voltage between two terminals of a device, V, shape (…,)."""
        first, second = (self.assembly.numbers[device.terminals[each]] for each in (start, end))
        difference: Array = potential[..., first] - potential[..., second]
        return difference
