"""What flows through each segment at worst, state by state, when every circuit draws at least its design current."""

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

from percorso.circuits.voltage_profile import Leg, Profile
from percorso.network.results import Solution
from percorso.vehicle.model import Circuit, Vehicle
from percorso.vehicle.states import ENGINE, State


@dataclass(frozen=True)
class Worst:
    """The greatest current of a segment, A, and the state it flows in."""

    current_a: float
    state: State


NO_CURRENT = Worst(0.0, "off")


@dataclass(frozen=True)
class Flows:
    """Greatest currents by segment and state, A: along the segment (first to second point) and against it."""

    along_a: Mapping[str, Mapping[State, float]]
    against_a: Mapping[str, Mapping[State, float]]
    drawn: Mapping[str, float]  # by circuit, what it counts with as a multiple of its design current, at least 1

    def towards_a(self, segment_id: str, state: State, *, forward: bool) -> float:
        """What flows one way through a segment in a state, A."""
        way = self.along_a if forward else self.against_a
        return way.get(segment_id, {}).get(state, 0.0)

    def with_others_a(self, circuit: Circuit, leg: Leg, *, forward: bool) -> float:
        """What a segment of a circuit carries in the circuit's state, A: its design current and what shares the way."""
        others = self.towards_a(leg.segment_id, circuit.state, forward=forward) - self.drawn[circuit.id] * leg.current_a
        return leg.current_a + max(others, 0.0)

    def continuous(self, segment_id: str) -> Worst:
        """The worst that flows for long: in any state but cranking."""
        return self._worst(segment_id, lambda state: state != "cranking")

    def standing(self, segment_id: str) -> Worst:
        """The worst that flows for long while the engine stands."""
        return self._worst(segment_id, lambda state: ENGINE[state] == "stopped")

    def cranking_a(self, segment_id: str) -> float:
        """What flows while cranking, A."""
        return self._worst(segment_id, lambda state: state == "cranking").current_a

    def most(self, segment_id: str) -> Worst:
        """The worst that flows in any state."""
        return self._worst(segment_id, lambda _: True)

    def _worst(self, segment_id: str, counts: Callable[[State], bool]) -> Worst:
        most, when = -1.0, NO_CURRENT.state
        for way in (self.along_a, self.against_a):
            for state, amps in way.get(segment_id, {}).items():
                if amps > most and counts(state):
                    most, when = amps, state
        return NO_CURRENT if most < 0 else Worst(most, when)


def flows(
    vehicle: Vehicle,
    solutions: Iterable[Solution],
    planned: Mapping[str, Profile],
    shared: Mapping[str, Profile] | None = None,
) -> Flows:
    """Worst flows from the solved states and the circuits' profiles at design current, by circuit id.

    In the state a circuit is designed for it counts with at least its design current, whatever of it flows in the
    solved state; so what circuits share takes the sum of them. A ground has no consumer of its own: it is as if it
    carried its design current where the others together bring less. A charge path carries its design current all the
    way to the battery: now and then that is flat and little else is on. Where ``planned`` leaves out what lies beside a
    path, ``shared`` are the profiles with it: what takes another way in a solved state counts on the path again.
    """
    signed: dict[State, Mapping[str, float]] = {each.state: each.flow_a for each in solutions}
    along: dict[str, dict[State, float]] = defaultdict(dict)
    against: dict[str, dict[State, float]] = defaultdict(dict)
    for state, currents in signed.items():
        for segment_id, amps in currents.items():
            along[segment_id][state], against[segment_id][state] = (amps, 0.0) if amps > 0 else (0.0, -amps)
    drawn: dict[str, float] = {}
    grounds_last = sorted(planned.items(), key=lambda each: vehicle.circuits[each[0]].family == "ground")
    for circuit_id, plan in grounds_last:
        circuit, seen = vehicle.circuits[circuit_id], (shared or planned)[circuit_id]
        for state in {*signed, circuit.state}:
            flowing = _flowing_share(vehicle, circuit, seen, signed.get(state, {}))
            counts = flowing
            if state == circuit.state:
                counts = drawn[circuit_id] = max(flowing, 1.0)
            for leg, beside in zip(plan.legs, seen.legs, strict=True):
                forward = vehicle.segments[leg.segment_id].from_point == leg.start_point
                way = along if forward else against
                missing = counts * leg.current_a - flowing * beside.current_a
                if circuit.family == "ground":
                    missing = counts * leg.current_a - way[leg.segment_id].get(state, 0.0)
                elif circuit.family == "charging" and state == circuit.state:
                    missing = leg.current_a - _passing_a(vehicle, leg, signed.get(state, {}))
                if missing > 0:
                    way[leg.segment_id][state] = way[leg.segment_id].get(state, 0.0) + missing
    return Flows(along, against, drawn)


def _passing_a(vehicle: Vehicle, leg: Leg, currents: Mapping[str, float]) -> float:
    """What flows through a leg in its own sense in a solved state, A; nothing where it flows back."""
    amps = currents.get(leg.segment_id, 0.0)
    return max(amps if vehicle.segments[leg.segment_id].from_point == leg.start_point else -amps, 0.0)


def _flowing_share(vehicle: Vehicle, circuit: Circuit, plan: Profile, currents: Mapping[str, float]) -> float:
    """What flows of a circuit in a solved state, as a multiple of its design current; nothing where it flows back.

    Seen in the segment at its device; of a charging circuit at the alternator, where its current comes from.
    """
    supply = [leg for leg in plan.legs if leg.side == "supply"]
    own = plan.legs[0] if circuit.family == "charging" or not supply else supply[-1]
    amps = currents.get(own.segment_id, 0.0)
    flowing = amps if vehicle.segments[own.segment_id].from_point == own.start_point else -amps
    return max(flowing / own.current_a, 0.0) if own.current_a > 0 else 1.0
