"""What the network solve says of one operating state: of every point, segment and device, and of what never settles."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import astuple, dataclass
from functools import partial
from itertools import compress
from typing import Any, TypeVar

import numpy as np

from percorso.arrays import Array, Mask
from percorso.kept import cached_property
from percorso.network.branches import Assembly
from percorso.network.device_results import GIVES_A, DeviceResult, speed_of, works
from percorso.network.modes import TURNING, Modes
from percorso.network.newton import Regulation, Solved
from percorso.network.nodal import joined, noticed
from percorso.vehicle.copper import copper_c
from percorso.vehicle.devices import Alternator, Battery, RelayCoil, Starter
from percorso.vehicle.model import Device, Vehicle
from percorso.vehicle.states import State

LEAST_LINK_A = 1e-6  # a junction that carries less does not hold a point
FEEDS_V = 0.5  # nor does one that has less to give: a silicon junction's own forward voltage, from memory
AGREE = 1e-3  # V or A by which the phases of a chatter may differ and still be one number


@dataclass(frozen=True)
class Phase:
    """One moment: its modes, and the network solved in them; ``cold`` while no current has warmed the copper yet."""

    modes: Modes
    solved: Solved
    cold: Solved


@dataclass(frozen=True, slots=True)
class PointResult:
    """Potential of a point against the first battery's minus post; ``v`` is None where none can be told."""

    v: float | None
    floating: bool


@dataclass(frozen=True, slots=True)
class SegmentResult:
    """Current from first to second point (A), the voltage lost that way (V), heat (W), and how warm a wire's copper."""

    current_a: float | None
    drop_v: float | None
    power_w: float | None
    copper_c: float | None = None


@dataclass(frozen=True, slots=True)
class Flow:
    """Current of one branch the way it goes, A: a segment's, or one that passes inside a device."""

    owner: str
    start: str
    end: str
    current_a: float

    @staticmethod
    def along(owner: str, start: str, end: str, current_a: float) -> "Flow":
        """A current from ``start`` to ``end``, negative where it goes the other way."""
        return Flow(owner, start, end, current_a) if current_a >= 0 else Flow(owner, end, start, -current_a)


@dataclass(frozen=True)
class Unsettled:
    """Devices that did not come to rest, and between what they swing."""

    device_ids: tuple[str, ...]
    reason: str


@dataclass(frozen=True)
class Solution:
    """One operating state solved, by point, segment and device id; what is not asked for is not put into words.

    ``residual_a`` is the worst current that does not balance at any point. ``running_on``: the key no longer asks for
    it and the engine keeps running, because its alternator feeds the ignition; ``outlasts_key``: it would.
    """

    state: State
    modes: Modes
    vehicle: Vehicle
    told: "tuple[_Report, ...]"  # of every phase: one when it settled, several when it chatters, none if there is none
    conducting: frozenset[str]  # segments that are closed
    regulation: Mapping[str, Regulation]
    sense_open: frozenset[str]  # alternators whose sense lead leads nowhere
    unsettled: tuple[Unsettled, ...]
    residual_a: float
    running_on: bool = False
    outlasts_key: bool = False

    @cached_property
    def points(self) -> Mapping[str, PointResult]:
        """Every point."""
        return _agreed([each.points for each in self.told], self.vehicle.points, PointResult(None, False))

    @cached_property
    def segments(self) -> Mapping[str, SegmentResult]:
        """Every segment."""
        return _agreed([each.segments for each in self.told], self.vehicle.segments, SegmentResult(None, None, None))

    @cached_property
    def devices(self) -> Mapping[str, DeviceResult]:
        """Every device."""
        return _agreed([each.devices for each in self.told], self.vehicle.devices, DeviceResult(None, None, None))

    @property
    def ohm(self) -> Sequence[float]:
        """Resistance of every branch of the assembly, Ω, as warm as it is; none without a solution."""
        return self.told[-1].ohm if self.told else ()

    @cached_property
    def flow_a(self) -> Mapping[str, float]:
        """Current from first to second point of every segment, A; nothing where it never comes to rest."""
        if len(self.told) == 1:
            return self.told[0].flow_a()
        return {each: result.current_a or 0.0 for each, result in self.segments.items()}

    @cached_property
    def flows(self) -> tuple[Flow, ...]:
        """Every current; of the last moment where it never comes to rest."""
        return self.told[-1].flows() if self.told else ()

    def voltage_v(self, plus: str, minus: str) -> float | None:
        """Voltage between two points, V; None where one of them has none."""
        return _difference(self.points[plus].v, self.points[minus].v)


def _difference(high: float | None, low: float | None) -> float | None:
    return None if high is None or low is None else high - low


def report(assembly: Assembly, state: State, phases: Sequence[Phase], *, running_on: bool) -> Solution:
    """The solution of a state from its phases: one when it settled, several when it chatters, none if there is none."""
    vehicle = assembly.vehicle
    if not phases:
        return _without_solution(vehicle, state)
    told = tuple(_Report(assembly, phase) for phase in phases)
    last = phases[-1]
    regulated = zip(assembly.generators, last.solved.part.regulated, strict=True)
    return Solution(
        state=state,
        modes=last.modes,
        vehicle=vehicle,
        told=told,
        conducting=frozenset(compress(vehicle.segments, last.solved.part.conducting.tolist())),
        regulation={generator.owner: each.mode for generator, each in regulated},
        sense_open=frozenset(
            generator.owner
            for generator in assembly.generators
            if last.solved.part.sensed(generator) != assembly.numbers[generator.sense]
        ),
        unsettled=_chatter(vehicle, told) if len(told) > 1 else (),
        residual_a=max(residual_a(assembly, phase.solved) for phase in phases),
        running_on=running_on,
    )


def residual_a(assembly: Assembly, solved: Solved) -> float:
    """The worst imbalance of currents at any point, A (Kirchhoff's current law on what is reported)."""
    wiring, size = solved.part.circuitry, assembly.size
    currents, (plus, minus, _) = solved.branch_a, wiring.posts.T
    balance = np.bincount(wiring.start, currents, size) - np.bincount(wiring.end, currents, size)
    balance += np.bincount(minus, solved.generated_a, size) - np.bincount(plus, solved.generated_a, size)
    return float(np.abs(balance).max(initial=0.0))


class _Report:
    """One phase in the words of the vehicle. The first branches of an assembly are its segments, in their order."""

    def __init__(self, assembly: Assembly, phase: Phase) -> None:
        self._assembly, self._phase, self._numbers = assembly, phase, assembly.numbers
        self._vehicle = assembly.vehicle

    @cached_property
    def _branch_a(self) -> Array:
        return noticed(self._phase.solved.branch_a)

    @cached_property
    def ohm(self) -> Sequence[float]:
        """Resistance of every branch, Ω."""
        return list(map(float, 1 / self._phase.solved.part.conductance))

    @cached_property
    def _floats(self) -> Mask:
        return _floating(self._phase.solved)

    @cached_property
    def _v(self) -> list[float | None]:
        volts = noticed(self._phase.solved.potential).tolist()
        return [None if floats else v for floats, v in zip(self._floats.tolist(), volts, strict=True)]

    @cached_property
    def points(self) -> Mapping[str, PointResult]:
        """Every point."""
        return dict(zip(self._numbers, map(PointResult, self._v, self._floats.tolist()), strict=True))

    @cached_property
    def segments(self) -> Mapping[str, SegmentResult]:
        """Every segment, all at once."""
        solved, count = self._phase.solved, len(self._vehicle.segments)
        wiring, potential, current = solved.part.circuitry, noticed(solved.potential), self._branch_a[:count]
        start, end = wiring.start[:count], wiring.end[:count]
        drop = potential[start] - potential[end]
        power = np.maximum(current * drop, 0.0)
        drops: list[float | None] = drop.tolist()
        for loose in np.flatnonzero(self._floats[start] | self._floats[end]).tolist():
            drops[loose] = None
            power[loose] = 0.0
        warm = map(partial(copper_c, self._vehicle), self._vehicle.segments.values(), self.ohm)
        results = map(SegmentResult, current.tolist(), drops, power.tolist(), warm)
        return dict(zip(self._vehicle.segments, results, strict=True))

    def flow_a(self) -> Mapping[str, float]:
        """Current of every segment, A."""
        return dict(zip(self._vehicle.segments, self._branch_a.tolist(), strict=False))

    def flows(self) -> tuple[Flow, ...]:
        """Every current of segments and inside devices."""
        wiring, given = self._assembly, self._phase.solved.generated_a.tolist()
        branches = zip(wiring.branches, self._branch_a.tolist(), strict=True)
        makers = zip(wiring.generators, given, strict=True)
        inside = [Flow.along(each.owner, each.start, each.end, amps) for each, amps in branches]
        return (*inside, *(Flow.along(each.owner, each.minus, each.plus, amps) for each, amps in makers))

    @cached_property
    def devices(self) -> Mapping[str, DeviceResult]:
        """Every device."""
        wiring, solved = self._assembly, self._phase.solved
        of_devices = wiring.branches[len(self._vehicle.segments) :]
        amps = self._branch_a[len(self._vehicle.segments) :].tolist()
        branch_a = {(each.owner, each.part): a for each, a in zip(of_devices, amps, strict=True)}
        given = zip(wiring.generators, solved.generated_a.tolist(), strict=True)
        branch_a |= {(each.owner, ""): a for each, a in given}
        return {device.id: self._device(device, branch_a) for device in self._vehicle.devices.values()}

    def _drop(self, start: str, end: str) -> float | None:
        return _difference(self._v[self._numbers[start]], self._v[self._numbers[end]])

    def coil_v(self, device: Device, spec: RelayCoil | Starter) -> float:
        """Voltage across a device's coil, V."""
        start, end = spec.COIL_TERMINALS
        return abs(self._drop(device.terminals[start], device.terminals[end]) or 0.0)

    def _device(self, device: Device, branch_a: Mapping[tuple[str, str], float]) -> DeviceResult:
        spec, modes = device.spec, self._phase.modes
        terminals = spec.TERMINALS
        voltage = self._drop(device.terminals[terminals[0]], device.terminals[terminals[1]])
        current = branch_a.get((device.id, "coil" if isinstance(spec, RelayCoil) else ""), 0.0)
        if isinstance(spec, Alternator):
            return DeviceResult(current, voltage, current > GIVES_A and modes.engine in TURNING)
        if isinstance(spec, Battery):
            return DeviceResult(-current, voltage, -current > GIVES_A)
        pulled_in = device.id in modes.pulled_in
        if isinstance(spec, Starter):
            speed = float(speed_of(spec, voltage or 0.0, current))
            return DeviceResult(current, voltage, speed > 0, pulled_in, speed)
        if isinstance(spec, RelayCoil):
            return DeviceResult(current, voltage, pulled_in, pulled_in)
        return DeviceResult(current, voltage, voltage is not None and bool(works(spec, voltage)))


def _floating(solved: Solved) -> Mask:
    """Which points nothing holds: no conductor joins them to the reference, and no junction carries or feeds them.

    A junction feeds the point it leads to when what is held on its other side stands above the reference, or below
    it the other way round: a meter there reads a voltage, though nothing flows yet.
    """
    part, wiring = solved.part, solved.part.circuitry
    reference = wiring.assembly.reference_number
    held = part.conducting & (~wiring.blocks | (np.abs(solved.branch_a) > LEAST_LINK_A))
    island = part.islands(held)
    waiting = [each for each in wiring.junctions if part.conducting[each[0]]]
    while True:
        home = island[reference]
        feeding = [
            (enters, leaves)
            for _, enters, leaves in waiting
            if (island[enters] == home and island[leaves] != home and solved.potential[enters] > FEEDS_V)
            or (island[leaves] == home and island[enters] != home and solved.potential[leaves] < -FEEDS_V)
        ]
        if not feeding:
            return np.asarray(island != home)
        enters, leaves = np.array(feeding).T
        island = joined(island, enters, leaves)


_Result = TypeVar("_Result", PointResult, SegmentResult, DeviceResult)


def _agreed(phases: Sequence[Mapping[str, _Result]], ids: Iterable[str], unknown: _Result) -> Mapping[str, _Result]:
    """One result by id for all phases: what they agree on, None for the rest; ``unknown`` without any phase."""
    if not phases:
        return dict.fromkeys(ids, unknown)
    first = phases[0]
    if len(phases) == 1:
        return first
    return {
        each: type(result)(
            *(_agreed_value(values) for values in zip(*(astuple(one[each]) for one in phases), strict=True))
        )
        for each, result in first.items()
    }


def _agreed_value(values: Sequence[Any]) -> Any:
    if None in values:
        return None
    if isinstance(values[0], bool):
        return values[0] if len(set(values)) == 1 else None
    return values[0] if max(values) - min(values) < AGREE else None


def _chatter(vehicle: Vehicle, reports: Sequence[_Report]) -> tuple[Unsettled, ...]:
    """The coils that pull in and drop out again and again, and what makes them."""
    moving = [each for each in vehicle.devices if len({report.devices[each].pulled_in for report in reports}) > 1]
    if not moving:
        return (Unsettled((), "an alternator excites and de-excites again and again"),)
    coils = ((vehicle.devices[each], vehicle.devices[each].spec) for each in moving)
    return tuple(_swinging(device, spec, reports) for device, spec in coils if isinstance(spec, RelayCoil | Starter))


def _swinging(device: Device, spec: RelayCoil | Starter, reports: Sequence[_Report]) -> Unsettled:
    seen = [report.coil_v(device, spec) for report in reports]
    return Unsettled(
        (device.id,),
        f"the coil of {device.designation} gets {max(seen):.1f} V and pulls in (from {spec.pull_in_v:g} V), "
        f"then only {min(seen):.1f} V is left and it drops out (at {spec.drop_out_v:g} V)",
    )


def _without_solution(vehicle: Vehicle, state: State) -> Solution:
    reason = "no voltages were found that agree with every device; look for an impossible value"
    return Solution(
        state=state,
        modes=Modes({}, "stopped"),
        vehicle=vehicle,
        told=(),
        conducting=frozenset(),
        regulation={},
        sense_open=frozenset(),
        unsettled=(Unsettled((), reason),) if vehicle.points else (),
        residual_a=0.0,
    )
