"""A circuit's potential along its path, as solved in a state or at its design current, and the verdict on it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import accumulate, pairwise

from percorso.circuits.parallel_paths import Fork, forks, shared_flow
from percorso.circuits.verdict import Verdict, judge_drop
from percorso.house_rules import HouseRules
from percorso.network.results import Solution
from percorso.vehicle.copper import copper_c
from percorso.vehicle.model import SIDES, Circuit, Side, Vehicle, stations
from percorso.vehicle.validity import check_circuit

NOTHING_A = 0.001  # less than this flows neither way


@dataclass(frozen=True)
class Leg:
    """One segment of a circuit as its current passes it; ``lost_*_v`` count from the source, both sides together.

    ``copper_c`` is how warm a wire's copper is, None of anything else.
    """

    segment_id: str
    side: Side
    start_point: str
    end_point: str
    current_a: float
    resistance_ohm: float
    drop_v: float
    power_w: float
    lost_before_v: float
    lost_after_v: float
    share: float  # of everything the circuit loses
    copper_c: float | None = None


@dataclass(frozen=True)
class Profile:
    """Where a circuit's voltage is lost. The device sees ``device_v``; ``forks`` are ways beside the path."""

    legs: tuple[Leg, ...]
    supply_drop_v: float
    return_drop_v: float
    total_drop_v: float
    allowed_drop_v: float
    source_v: float
    device_v: float
    device_a: float  # at the device itself
    forks: tuple[Fork, ...]
    verdict: Verdict

    @property
    def at_device(self) -> Leg:
        """The leg that ends at the device, where one leads to it, else the first that leaves it."""
        supply = [leg for leg in self.legs if leg.side == "supply"]
        return supply[-1] if supply else self.legs[0]

    def leg(self, segment_id: str) -> Leg:
        """The leg of a segment of this circuit."""
        return next(leg for leg in self.legs if leg.segment_id == segment_id)


@dataclass(frozen=True)
class NotLive:
    """Why a circuit has no potential to speak of in a state."""

    reason: str


def profile(vehicle: Vehicle, circuit: Circuit, rules: HouseRules, conducting: frozenset[str] | None = None) -> Profile:
    """A circuit with its design current and nothing else: what its own path loses, from ``source_v`` on.

    Where other segments lie beside the path the current is shared by conductance; ``conducting`` are the segments that
    conduct in the state meant (default: all but those that something switches). Raises PathError when the circuit is
    not one path out and one path back.
    """
    check_circuit(vehicle, circuit)
    ways = forks(vehicle, circuit, vehicle.unswitched if conducting is None else conducting)
    flow, ohm = shared_flow(vehicle, circuit, ways)
    drops = {each: amps * ohm[each] for each, amps in flow.items()}
    alone = _Flow(vehicle, circuit, flow, drops, ohm)
    return _profile(alone, ways, circuit.source_v, circuit.design_current_a, rules)


def solved_profile(vehicle: Vehicle, circuit: Circuit, solution: Solution, rules: HouseRules) -> Profile | NotLive:
    """A circuit as it is in a solved state, with everything else that runs. Raises PathError as ``profile`` does."""
    check_circuit(vehicle, circuit)
    out, back = (stations(vehicle, circuit, side) for side in SIDES)
    broken = next((each for each in circuit.whole_path if each not in solution.conducting), None)
    if broken is not None and not solution.unsettled:
        return NotLive(f"{vehicle.segments[broken].designation} is open in this state")
    loose = next((point for point in (*out, *back) if solution.points[point].v is None), None)
    if loose is not None:
        floats = solution.points[loose].floating
        why = "floats, nothing ties it to the battery" if floats else "chatters"
        return NotLive(f"{vehicle.points[loose].name} {why} in this state")
    flow = solution.flow_a
    drops = {each: result.drop_v or 0.0 for each, result in solution.segments.items()}
    source_v = solution.voltage_v(out[0], back[-1]) if out else circuit.source_v
    device = solution.devices.get(circuit.device_id or "")
    device_a = device.current_a if device else None
    solved = _Flow(vehicle, circuit, flow, drops, dict(zip(vehicle.segments, solution.ohm, strict=False)))
    if device_a is None:
        device_a = solved.along(circuit.return_path[0], back[0])
    ways = forks(vehicle, circuit, solution.conducting)
    whole = _profile(solved, ways, source_v or 0.0, abs(device_a), rules)
    return replace(whole, verdict=_enough_flows(whole, circuit, rules))


def _enough_flows(solved: Profile, circuit: Circuit, rules: HouseRules) -> Verdict:
    """The verdict, unless so little flows at the device that a drop proves nothing."""
    flows, designed = solved.at_device.current_a, circuit.design_current_a
    if flows >= rules.min_test_current_fraction * designed:
        return solved.verdict
    how = "the other way" if flows < -NOTHING_A else "here"
    reason = f"{abs(flows):.3g} A flow {how} in this state; that proves nothing about {designed:.3g} A"
    return Verdict("unknown", solved.verdict.margin_v, reason)


@dataclass(frozen=True)
class _Flow:
    """Currents of segments from first to second point (A), what they lose (V) and have (Ω), for one circuit."""

    vehicle: Vehicle
    circuit: Circuit
    current_a: Mapping[str, float]
    drop_v: Mapping[str, float]
    ohm: Mapping[str, float]

    def along(self, segment_id: str, start: str, values: Mapping[str, float] | None = None) -> float:
        """Current, or another value, of a segment counted from ``start`` on."""
        value = (self.current_a if values is None else values)[segment_id]
        return value if self.vehicle.segments[segment_id].from_point == start else -value


def _profile(flow: _Flow, ways: Sequence[Fork], source_v: float, device_a: float, rules: HouseRules) -> Profile:
    legs = _legs(flow)
    total = legs[-1].lost_after_v
    supply_drop = sum(leg.drop_v for leg in legs if leg.side == "supply")
    allowed = flow.circuit.target.allowed_drop_v(source_v, flow.vehicle.nominal_v)
    starts = {leg.start_point: leg.current_a for leg in legs}
    return Profile(
        legs=legs,
        supply_drop_v=supply_drop,
        return_drop_v=total - supply_drop,
        total_drop_v=total,
        allowed_drop_v=allowed,
        source_v=source_v,
        device_v=source_v - total,
        device_a=device_a,
        forks=tuple(way.with_currents(flow.vehicle, flow.current_a, flow.ohm, starts[way.start_point]) for way in ways),
        verdict=judge_drop(total, allowed, rules),
    )


def _legs(flow: _Flow) -> tuple[Leg, ...]:
    """Every segment in the order the current takes them, supply side first."""
    vehicle, circuit = flow.vehicle, flow.circuit
    steps = [(side, segment_id, ends) for side in SIDES for segment_id, ends in _steps(vehicle, circuit, side)]
    drops = [flow.along(segment_id, start, flow.drop_v) for _, segment_id, (start, _) in steps]
    lost = list(accumulate(drops, initial=0.0))
    return tuple(
        Leg(
            segment_id=segment_id,
            side=side,
            start_point=start,
            end_point=end,
            current_a=(current := flow.along(segment_id, start, flow.current_a)),
            resistance_ohm=flow.ohm[segment_id],
            copper_c=copper_c(vehicle, vehicle.segments[segment_id], flow.ohm[segment_id]),
            drop_v=drop,
            power_w=abs(current * drop),
            lost_before_v=before,
            lost_after_v=after,
            share=drop / lost[-1] if lost[-1] else 0.0,
        )
        for (side, segment_id, (start, end)), drop, (before, after) in zip(steps, drops, pairwise(lost), strict=True)
    )


def _steps(vehicle: Vehicle, circuit: Circuit, side: Side) -> list[tuple[str, tuple[str, str]]]:
    """(segment id, (start point, end point)) of one side, in the order the current takes them."""
    points = stations(vehicle, circuit, side)
    return list(zip(circuit.path(side), pairwise(points), strict=True))
