"""Many faults of one situation solved together: each is one more or one less conductance in a network they share."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from percorso.arrays import Array, Numbers
from percorso.faults.at_devices import SHORT_OHM
from percorso.faults.at_segments import ADDED_OHM, RESISTS, WELDED_OHM, body_point, with_inside
from percorso.faults.model import Fault
from percorso.network.branches import Branch, reference_point
from percorso.network.following import Group, follow
from percorso.network.operating_point import Network
from percorso.network.sensitivity import inverse_jacobian
from percorso.network.variation import Alteration
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.model import Segment, Vehicle
from percorso.vehicle.resistance import IDEAL_OHM
from percorso.vehicle.segments import Breaker, Diode, Fuse, Wire
from percorso.verification.measurements import Situation
from percorso.verification.measuring import BLOWS_TIMES
from percorso.verification.situation import prepared

LEAK_OHM = 1e10  # from every point to where voltages count from: what hangs on nothing reads nothing
MOST_BLOWN = 4  # fuses one fault can take
TOUCHES = ("chafed to ground", "touching its neighbour")


@dataclass(frozen=True)
class _Altered:
    """A fault as something otherwise: between two points, or of a segment (see Alteration)."""

    start: str
    end: str
    altered_s: float
    segment: str | None = None
    held: bool = False


@dataclass(frozen=True)
class Settled:
    """Faults that end alike: their places among all, the network they share, and their group in it."""

    places: Numbers
    network: Network
    group: Group
    altered: Alteration
    potential: Array  # V, shape (faults here, points)
    generated_a: Array  # shape (faults here, alternators)
    blown: frozenset[str]

    @cached_property
    def _added_s(self) -> Array:
        return self.altered.change_of(self.group.solved.part).added_s

    def current_a(self, owner: str) -> Array:
        """Current of a segment or a load from its first point to its second, A, shape (faults here,)."""
        part, place = self.group.solved.part, self.network.branch_of(owner)
        wiring = part.circuitry
        own = self.altered.branch == place
        conducts = part.conducting[place] | (own & self.altered.held)
        if place in wiring.elements:
            element_v = (
                self.potential[:, wiring.start[wiring.elements]] - self.potential[:, wiring.end[wiring.elements]]
            )
            current = wiring.currents(element_v)[0][:, int(np.flatnonzero(wiring.elements == place)[0])]
        else:
            across = self.potential[:, wiring.start[place]] - self.potential[:, wiring.end[place]]
            current = across * np.where(own, self.altered.altered_s, part.conductance[place])
        return np.where(conducts, current, 0.0)

    def across(self, first: str, second: str, load_ohm: float | None = None) -> Array:
        """Voltage between two points, or as an instrument of some resistance reads it, V, shape (faults here,)."""
        numbers = self.network.assembly.numbers
        start, end = numbers[first], numbers[second]
        free = self.potential[:, start] - self.potential[:, end]
        if load_ohm is None:
            return free
        return np.asarray(free * load_ohm / (load_ohm + np.maximum(self._source_ohm(start, end), 0.0)))

    @cached_property
    def _inverse(self) -> Array:
        return inverse_jacobian(self.group.solved)

    @cached_property
    def _column(self) -> tuple[Array, Array]:
        """What 1 A through each altered place does to the unknowns, and the share of it that is felt."""
        start, end = self.altered.start, self.altered.end
        column = (self._inverse[:, start] - self._inverse[:, end]).T
        every = np.arange(len(start))
        return column, self._added_s / (1 + self._added_s * (column[every, start] - column[every, end]))

    def _source_ohm(self, first: int, second: int) -> Array:
        """What an instrument sees between its probes, Ω, shape (faults here,): a rank-one change of the Jacobian."""
        between = self._inverse[first] - self._inverse[second]
        column, felt = self._column
        there = between[self.altered.start] - between[self.altered.end]
        back = column[:, first] - column[:, second]
        return np.asarray(between[first] - between[second] - there * back * felt)


class Batch:
    """One situation of a vehicle at a stage with each fault by itself; ``known`` where this is what comes of it.

    It is not known where a fault is more than one changed conductance, cuts something off altogether, or never lets
    anything come to rest.
    """

    def __init__(
        self,
        vehicle: Vehicle,
        situation: Situation,
        faults: Sequence[Fault | None],
        instruments: Sequence[Branch] = (),
    ) -> None:
        self._situation, self._body, self._instruments = situation, body_point(vehicle), instruments
        self._vehicle, self._inside = _with_insides(vehicle)
        altered = [self._altered(each) for each in faults]
        self._of = np.array([place for place, each in enumerate(altered) if each is not None], dtype=int)
        self._changes = [each for each in altered if each is not None]
        self.known = np.zeros(len(faults), dtype=bool)
        self.settled: list[Settled] = []
        self._solve(np.arange(len(self._of)), frozenset(), MOST_BLOWN)

    def _solve(self, which: Numbers, blown: frozenset[str], left: int) -> None:
        """Solve some of the changes with fuses blown, and on with the next fuse where one more blows."""
        network = self._network(blown)
        altered = _alteration(network, [self._changes[each] for each in which.tolist()])
        followed = follow(network, self._situation.state, self._situation.inputs, altered)
        more: dict[str, list[int]] = {}
        for group in followed.groups:
            here = Settled(
                self._of[which[group.places]],
                network,
                group,
                altered[group.places],
                followed.potential[group.places],
                followed.generated_a[group.places],
                blown,
            )
            worst = self._blows(here)
            whole = np.array([each is None for each in worst])
            for place, fuse in zip(which[group.places].tolist(), worst, strict=True):
                if fuse is not None:
                    more.setdefault(fuse, []).append(place)
            if whole.any():
                kept = replace(
                    here,
                    places=here.places[whole],
                    altered=here.altered[np.flatnonzero(whole)],
                    potential=here.potential[whole],
                    generated_a=here.generated_a[whole],
                )
                self.settled.append(kept)
                self.known[kept.places] = True
        if left:
            for fuse, places in more.items():
                self._solve(np.array(places), blown | {fuse}, left - 1)

    def _network(self, blown: frozenset[str]) -> Network:
        opened = replace(self._vehicle, opened=self._vehicle.opened | blown)
        made = prepared(opened, self._situation.preparations)
        reference = reference_point(made)
        leaks = [
            Branch("", "leak", each, reference, resistance_ohm=LEAK_OHM) for each in made.points if each != reference
        ]
        return Network(made, [*leaks, *self._instruments])

    def _blows(self, here: Settled) -> list[str | None]:
        """The fuse or breaker that carries most beyond what it stands with each fault, if any does."""
        made = here.network.vehicle
        rated = [(each.id, spec.rating_a) for each, spec in made.segments_of(Fuse)]
        rated += [(each.id, spec.rating_a) for each, spec in made.segments_of(Breaker)]
        if not rated:
            return [None] * len(here.places)
        over = np.array([np.abs(here.current_a(each)) / rating for each, rating in rated])
        worst = over.argmax(axis=0)
        return [rated[at][0] if over[at, fault] > BLOWS_TIMES else None for fault, at in enumerate(worst.tolist())]

    def _altered(self, fault: Fault | None) -> _Altered | None:
        """A fault as one changed conductance; None where it is something else."""
        if fault is None:
            point = next(iter(self._vehicle.points))
            return _Altered(point, point, 0.0)
        if fault.part in self._vehicle.devices:
            return self._shorted(fault)
        if fault.part in self._inside and fault.fault in TOUCHES:
            there = self._body if fault.fault == "chafed to ground" else self._inside[fault.other or ""]
            return _Altered(self._inside[fault.part], there, 1 / max(fault.ohm or 0.0, IDEAL_OHM))
        return self._of_segment(self._vehicle.segments[fault.part], fault)

    def _of_segment(self, segment: Segment, fault: Fault) -> _Altered | None:
        """A segment that conducts otherwise than it should."""
        ends = segment.from_point, segment.to_point
        if isinstance(segment.spec, Diode):
            return _Altered(*ends, 1 / IDEAL_OHM) if fault.fault == "shorted" else None
        ohm = {"welded": WELDED_OHM, "shorted": IDEAL_OHM}.get(fault.fault)
        if ohm is None and fault.fault in RESISTS:
            has_ohm = 1 / segment.conductance_s(self._vehicle.zone_temperature_c)
            ohm = has_ohm + (ADDED_OHM if fault.ohm is None else max(fault.ohm, IDEAL_OHM))
        if ohm is None:
            return None
        return _Altered(*ends, 1 / ohm, segment.id, held=fault.fault not in RESISTS)

    def _shorted(self, fault: Fault) -> _Altered | None:
        if fault.fault != "shorted":
            return None
        device = self._vehicle.devices[fault.part]
        first, second = ("86", "85") if isinstance(device.spec, RelayCoil) else ("+", "-")
        return _Altered(device.terminals[first], device.terminals[second], 1 / SHORT_OHM)


def _alteration(network: Network, changes: Sequence[_Altered]) -> Alteration:
    numbers = network.assembly.numbers
    return Alteration(
        np.array([numbers[each.start] for each in changes], dtype=int),
        np.array([numbers[each.end] for each in changes], dtype=int),
        np.array([-1 if each.segment is None else network.branch_of(each.segment) for each in changes], dtype=int),
        np.array([each.altered_s for each in changes]),
        np.array([each.held for each in changes], dtype=bool),
    )


def _with_insides(vehicle: Vehicle) -> tuple[Vehicle, dict[str, str]]:
    """A vehicle with a point in the middle of each wire, where it can be chafed; by the wire's id."""
    inside: dict[str, str] = {}
    for segment, _ in list(vehicle.segments_of(Wire)):
        if segment.id not in vehicle.opened:
            vehicle, inside[segment.id] = with_inside(vehicle, vehicle.segments[segment.id])
    return vehicle, inside
