"""Many faults of one situation solved together: each is one thing otherwise in a network that they share."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import assert_never

import numpy as np

from percorso.arrays import Numbers
from percorso.faults.changes import (
    BrokenInside,
    Bypass,
    Inside,
    Interrupted,
    OtherValues,
    OversizedFuse,
    Rewired,
    SeriesResistance,
    ShortedThrough,
    WeldedContact,
    with_inside,
)
from percorso.faults.model import Fault, change_of, with_faults
from percorso.kept import cached_property
from percorso.network.branches import Branch, branches_of, reference_point
from percorso.network.following import InPhase, VariantGroup, settle_variants
from percorso.network.laws import LawOf, resistor_law
from percorso.network.modes import TURNING
from percorso.network.newton import NotSettledError
from percorso.network.operating_point import Network
from percorso.patience import go_on
from percorso.tracing.settled import FaultEffect, Settled, branch_override_of, settled_of, worst_fuses
from percorso.vehicle.devices import Alternator, DeviceKind, RelayCoil
from percorso.vehicle.model import Device, Segment, Vehicle
from percorso.vehicle.resistance import IDEAL_OHM
from percorso.vehicle.segments import Diode, RelayContact, Wire
from percorso.vehicle.states import ENGINE, WAY_TO, steps
from percorso.verification.bench.prepared_vehicle import prepared, remaining_faults
from percorso.verification.measured.measurements import Situation
from percorso.verification.measured.preparations import LampInPlace, Lift

LEAK_OHM = 1e10  # from every point to where voltages count from: what hangs on nothing reads nothing
MOST_BLOWN = 4  # fuses one fault can take
MIDDLE = Inside("").share  # of a wire, where the batch has a point in it
OPEN_LAW = resistor_law(math.inf)

Blown = Mapping[int, frozenset[str]]  # the fuses that some faults have blown, by the faults' places
NOTHING_BLOWN: Blown = {}


class Batch:
    """One situation of a vehicle at a stage with each fault by itself, as far as it is asked for; ``known`` where this
    is what comes of it.

    What is not one thing otherwise in the network is solved by itself. What makes something chatter is in
    ``chattering``, by its phases; not known is what is in neither.
    """

    def __init__(
        self,
        vehicle: Vehicle,
        situation: Situation,
        faults: Sequence[Fault | None],
        instruments: Sequence[Branch] = (),
        blown: Blown = NOTHING_BLOWN,
    ) -> None:
        """``blown``: the fuses that faults, by their places, have blown before, in other situations."""
        self.situation, self._instruments = situation, instruments
        self._given, self._blown_before = vehicle, blown
        self._vehicle, self._inside = _with_insides(vehicle)
        self._faults = faults
        self.known = np.zeros(len(faults), dtype=bool)
        self._asked = np.zeros(len(faults), dtype=bool)
        self.settled: list[Settled] = []
        self.chattering: list[tuple[Settled, ...]] = []
        self._networks: dict[frozenset[str], Network] = {}  # by the fuses that have blown

    @property
    def blown(self) -> Blown:
        """The fuses that have blown with each fault that was asked for, by its place."""
        return {place: each.blown for each in self.settled if each.blown for place in each.places.tolist()}

    def solve(self, which: Numbers) -> None:
        """Solve some of the faults, by their places, those that were not asked for before."""
        left = which[~self._asked[which]]
        self.solve_together(left)
        self._solve_the_rest(left)
        self._asked[left] = True

    def solve_together(self, places: Numbers) -> None:
        """Solve those that are one thing otherwise each."""
        altered = {place: one for place in places.tolist() if (one := self._effect_of(self._faults[place])) is not None}
        together: dict[frozenset[str], list[int]] = {}
        for place in altered:
            together.setdefault(self._blown_before.get(place, frozenset()), []).append(place)
        for blown, some in together.items():
            self._solve(np.array(some), [altered[place] for place in some], blown)

    def _solve_the_rest(self, places: Numbers) -> None:
        """Those by themselves that neither came to rest nor chatter."""
        chatters = {place for phases in self.chattering for place in phases[0].places.tolist()}
        for place in places[~self.known[places]].tolist():
            fault = self._faults[place]
            if fault is not None and place not in chatters:
                blown = self._blown_before.get(place, frozenset())
                self._solve_one(_without(self._network(with_faults(self._given, [fault])), blown), place, blown)

    @property
    def _no_effect(self) -> FaultEffect:
        point = next(iter(self._vehicle.points))
        return FaultEffect(point, point)

    def _solve(self, places: Numbers, changes: list[FaultEffect], blown: frozenset[str]) -> None:
        """Solve some changes of the network with fuses blown, and on with the next fuse where one more blows."""
        go_on()
        network = self._without(blown)
        altered = branch_override_of(network, changes)
        followed = settle_variants(network, self.situation.state, self.situation.inputs, altered)
        more: dict[str, list[int]] = {}
        for group in followed.groups:
            rows = group.places
            at_rest = InPhase(group, followed.potential[rows], followed.generated_a[rows])
            here = settled_of(network, at_rest, places, altered, changes, blown)
            worst = worst_fuses(here)
            whole = np.array([each is None for each in worst])
            for row, fuse in zip(rows.tolist(), worst, strict=True):
                if fuse is not None:
                    more.setdefault(fuse, []).append(row)
            if whole.any():
                self.settled.append(here.only(np.flatnonzero(whole)))
                self.known[here.places[whole]] = True
        for phases in followed.chatters:
            each = tuple(settled_of(network, one, places, altered, changes, blown) for one in phases)
            blows = np.array([[fuse is not None for fuse in worst_fuses(one)] for one in each]).any(axis=0)
            if not blows.all():
                held = tuple(one.only(np.flatnonzero(~blows)) for one in each)
                self.chattering.append(held)
        if len(blown) < MOST_BLOWN:
            for fuse, some in more.items():
                self._solve(places[some], [changes[row] for row in some], blown | {fuse})

    def _without(self, blown: frozenset[str]) -> Network:
        """The network once some fuses have blown."""
        if blown not in self._networks:
            self._networks[blown] = _without(self._sound, blown)
        return self._networks[blown]

    def _solve_one(self, network: Network, place: int, blown: frozenset[str] = frozenset()) -> None:
        """Solve the network of a vehicle with one fault in it."""
        try:
            phase = network.settled(self.situation.state, self.situation.inputs)
        except NotSettledError:
            return
        group, same = VariantGroup(np.array([0]), phase.modes, phase.solved), self._no_effect
        potential, generated_a = phase.solved.potential[None], phase.solved.generated_a[None]
        altered = branch_override_of(network, [same])
        here = Settled(np.array([place]), network, group, altered, (same,), potential, generated_a, blown)
        [fuse] = worst_fuses(here)
        if fuse is None:
            self.settled.append(here)
            self.known[place] = True
        elif len(blown) < MOST_BLOWN:
            self._solve_one(network.with_opened(fuse), place, blown | {fuse})

    @cached_property
    def _sound(self) -> Network:
        """With copper as warm as it is on sound metal: a fault finds it so."""
        network = self._network(self._vehicle)
        phases = network.phases(self.situation.state, self.situation.inputs)
        return network.as_warm_as(phases[-1].solved) if phases else network

    def _network(self, vehicle: Vehicle) -> Network:
        made = prepared(vehicle, self.situation.preparations)
        reference = reference_point(made)
        leaks = [
            Branch("", "leak", each, reference, resistance_ohm=LEAK_OHM) for each in made.points if each != reference
        ]
        return Network(made, [*leaks, *self._instruments])

    def _effect_of(self, fault: Fault | None) -> FaultEffect | None:
        """A fault as one thing otherwise; None where it is more than that."""
        if fault is None or not remaining_faults(self._vehicle, self.situation.preparations, [fault]):
            return self._no_effect
        change = change_of(self._given, fault)
        match change:
            case Bypass(start, end, ohm):
                return self._of_bypass(start, end, ohm)
            case Interrupted(segment):
                return FaultEffect(
                    *self._ends(segment), owner=segment.id, law=OPEN_LAW if isinstance(segment.spec, Diode) else None
                )
            case SeriesResistance(segment, ohm):
                return self._of_series(segment, ohm)
            case WeldedContact(segment, ohm):
                return self._no_effect if self._is_out(segment) else self._held(segment, ohm)
            case ShortedThrough(segment) if isinstance(segment.spec, Diode):
                return FaultEffect(*self._ends(segment), 1 / IDEAL_OHM)
            case ShortedThrough(segment):
                return self._held(segment, IDEAL_OHM)
            case OversizedFuse(segment):
                return replace(self._no_effect, never_blows=segment.id)
            case BrokenInside(device):
                return replace(self._branch(device, "", OPEN_LAW), is_broken=True)
            case OtherValues(device, spec):
                return self._of_values(device, spec)
            case Rewired():
                return None
        assert_never(change)

    def _of_bypass(self, start: str | Inside, end: str | Inside, ohm: float) -> FaultEffect | None:
        """A bypass between points that the batch has, those inside of wires too."""
        first, second = (each if isinstance(each, str) else self._nearest(each) for each in (start, end))
        return None if first is None or second is None else FaultEffect(first, second, 1 / max(ohm, IDEAL_OHM))

    def _nearest(self, place: Inside) -> str | None:
        """The point nearest to a place inside a wire: in its middle, or at an end; None inside of anything else."""
        wire, inside = self._given.segments[place.segment], self._inside.get(place.segment)
        if inside is None or place.share == MIDDLE:
            return inside
        is_lifted = Lift(part=wire.id) in self.situation.preparations  # at its start, and hangs on its end
        return wire.from_point if place.share < MIDDLE and not is_lifted else wire.to_point

    def _of_series(self, segment: Segment, ohm: float) -> FaultEffect | None:
        lamp_sits_there = LampInPlace(part=segment.id) in self.situation.preparations
        if lamp_sits_there or isinstance(segment.spec, Diode):  # a holder is as bad with a lamp in it
            return None
        has_ohm = self._sound.assembly.branches[self._sound.branch_of(segment.id)].resistance_ohm or 0.0
        return FaultEffect(*self._ends(segment), 1 / (has_ohm + max(ohm, IDEAL_OHM)), segment.id)

    def _held(self, segment: Segment, ohm: float) -> FaultEffect:
        """A segment that conducts at all times."""
        return FaultEffect(*self._ends(segment), 1 / ohm, segment.id, held=True)

    def _ends(self, segment: Segment) -> tuple[str, str]:
        """Between which points of the batch a segment is: a wire ends in its own middle."""
        here = self._vehicle.segments[segment.id]
        return here.from_point, here.to_point

    def _is_out(self, contact: Segment) -> bool:
        """Whether a contact is unplugged here, or its relay not in its socket."""
        spec = contact.spec
        if contact.id in self._prepared.opened:
            return True
        coil = self._prepared.devices.get(spec.coil or "") if isinstance(spec, RelayContact) else None
        return coil is not None and isinstance(coil.spec, RelayCoil) and not coil.spec.fitted

    @cached_property
    def _turns(self) -> bool:
        """Whether the engine turns in this situation, or on the way to it."""
        return any(ENGINE[each.state] in TURNING for each in steps(WAY_TO[self.situation.state], self.situation.inputs))

    @cached_property
    def _prepared(self) -> Vehicle:
        return prepared(self._vehicle, self.situation.preparations)

    def _of_values(self, device: Device, spec: DeviceKind) -> FaultEffect | None:
        """A device with other values; a coil with other ones pulls in at another voltage too."""
        if isinstance(spec, Alternator):
            return None if self._turns else self._no_effect  # of one that stands nothing shows
        if isinstance(spec, RelayCoil):
            return replace(
                self._branch(device, "coil", resistor_law(spec.resistance_ohm), spec), pull_in_v=spec.pull_in_v
            )
        changed = replace(device, spec=spec)
        branch = next(each for each in branches_of(changed, self._vehicle) if each.part == "")
        return self._branch(device, "", branch.law or resistor_law(branch.resistance_ohm or 0.0), spec)

    def _branch(self, device: Device, part: str, law: LawOf, spec: DeviceKind | None = None) -> FaultEffect:
        """One branch of a device that conducts by another law; one without a law by another conductance."""
        sound = next(each for each in branches_of(device, self._vehicle) if each.part == part)
        ends, altered_s = (sound.start, sound.end), law.parameters[1]
        if sound.law is None:
            return FaultEffect(*ends, altered_s, device.id, part, spec=spec)
        return FaultEffect(*ends, 0.0, device.id, part, law=law, spec=spec)


def _without(network: Network, blown: frozenset[str]) -> Network:
    for fuse in sorted(blown):
        network = network.with_opened(fuse)
    return network


def _with_insides(vehicle: Vehicle) -> tuple[Vehicle, dict[str, str]]:
    """A vehicle with a point in the middle of each wire, where it can be chafed; by the wire's id."""
    inside: dict[str, str] = {}
    for segment, _ in list(vehicle.segments_of(Wire)):
        if segment.id not in vehicle.opened:
            vehicle, inside[segment.id] = with_inside(vehicle, Inside(segment.id))
    return vehicle, inside
