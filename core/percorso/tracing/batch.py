"""Many faults of one situation solved together: each is one thing otherwise in a network that they share."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from percorso.arrays import Numbers
from percorso.faults.at_devices import OPEN_OHM, SHORT_OHM
from percorso.faults.at_segments import ADDED_OHM, OPENS, RESISTS, WELDED_OHM, body_point, with_inside
from percorso.faults.beyond import joined_by, point_of
from percorso.faults.model import Fault, with_faults
from percorso.kept import cached_property
from percorso.network.branches import TURNING, Branch, branches_of, reference_point
from percorso.network.following import InPhase, VariantGroup, settle_variants
from percorso.network.laws import LawOf, resistor_law
from percorso.network.newton import NotSettledError
from percorso.network.operating_point import Network
from percorso.patience import go_on
from percorso.tracing.settled import FaultEffect, Settled, branch_override_of, settled_of, worst_fuses
from percorso.vehicle.devices import Battery, DeviceKind, RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Device, Segment, Vehicle
from percorso.vehicle.resistance import IDEAL_OHM
from percorso.vehicle.segments import Diode, RelayContact, Wire
from percorso.vehicle.states import ENGINE, WAY_TO, steps
from percorso.verification.measurements import Situation
from percorso.verification.preparations import LampInPlace, Lift
from percorso.verification.situation import prepared, remaining_faults

LEAK_OHM = 1e10  # from every point to where voltages count from: what hangs on nothing reads nothing
MOST_BLOWN = 4  # fuses one fault can take
BY_LAW = (Battery, Load, Starter)  # devices whose faults are another law of theirs
WHILE_TURNING = (
    "does not wake up",
    "regulates wrongly",
    "gives too little",
)  # of an alternator that stands nothing shows
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
        self.situation, self._body, self._instruments = situation, body_point(vehicle), instruments
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
        if point_of(fault.part) is not None:
            return FaultEffect(
                *joined_by(self._given, fault.part, fault.fault, fault.other), 1 / max(fault.ohm or 0.0, IDEAL_OHM)
            )
        if fault.part in self._vehicle.devices:
            return self._of_device(self._vehicle.devices[fault.part], fault)
        touches = self._touches(fault)
        if touches is not None:
            return FaultEffect(*touches, 1 / max(fault.ohm or 0.0, IDEAL_OHM))
        return self._of_segment(self._vehicle.segments[fault.part], fault)

    def _touches(self, fault: Fault) -> tuple[str, str] | None:
        """The two points that a wire that is rubbed through joins; None for any other fault."""
        inside, wire = self._inside.get(fault.part), self._given.segments.get(fault.part)
        if inside is None or wire is None:
            return None
        is_lifted = Lift(part=wire.id) in self.situation.preparations  # at its start, and hangs on its end
        joins = {
            "chafed to ground": (inside, self._body),
            "chafed near its start": (wire.to_point if is_lifted else wire.from_point, self._body),
            "chafed near its end": (wire.to_point, self._body),
            "chafed to the ground cable": (inside, reference_point(self._given)),
            "touching its neighbour": (inside, self._inside.get(fault.other or "", inside)),
        }
        return joins.get(fault.fault)

    def _of_segment(self, segment: Segment, fault: Fault) -> FaultEffect | None:
        """A segment that conducts otherwise than it should."""
        ends = segment.from_point, segment.to_point
        if fault.fault == "too large":
            return replace(self._no_effect, never_blows=segment.id)
        is_diode = isinstance(segment.spec, Diode)
        if fault.fault in OPENS:
            return FaultEffect(*ends, owner=segment.id, law=OPEN_LAW if is_diode else None)
        if is_diode:
            return FaultEffect(*ends, 1 / IDEAL_OHM) if fault.fault == "shorted" else None
        if fault.fault == "welded" and self._is_out(segment):
            return self._no_effect
        ohm = {"welded": WELDED_OHM, "shorted": IDEAL_OHM}.get(fault.fault)
        lamp_sits_there = LampInPlace(part=segment.id) in self.situation.preparations
        if ohm is None and fault.fault in RESISTS and not lamp_sits_there:  # a holder is as bad with a lamp in it
            has_ohm = self._sound.assembly.branches[self._sound.branch_of(segment.id)].resistance_ohm or 0.0
            ohm = has_ohm + (ADDED_OHM if fault.ohm is None else max(fault.ohm, IDEAL_OHM))
        if ohm is None:
            return None
        return FaultEffect(*ends, 1 / ohm, segment.id, held=fault.fault not in RESISTS)

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

    def _of_device(self, device: Device, fault: Fault) -> FaultEffect | None:
        """A device that conducts otherwise than it should."""
        spec = device.spec
        if fault.fault in WHILE_TURNING and not self._turns:
            return self._no_effect
        if isinstance(spec, RelayCoil):
            return self._of_coil(device, spec, fault)
        if fault.fault in ("open", "dead") and isinstance(spec, Load | Starter):
            return replace(self._branch(device, "", OPEN_LAW), is_broken=True)
        if not isinstance(spec, BY_LAW):
            return None
        changed = with_faults(self._vehicle, [fault]).devices[device.id]
        branch = next(each for each in branches_of(changed, self._vehicle) if each.part == "")
        return self._branch(device, "", branch.law or resistor_law(branch.resistance_ohm or 0.0), changed.spec)

    def _of_coil(self, device: Device, spec: RelayCoil, fault: Fault) -> FaultEffect | None:
        """A coil that is broken pulls nothing; one that is stiff needs more."""
        ohm = {"open": OPEN_OHM, "shorted": SHORT_OHM}.get(fault.fault)
        if ohm is not None:
            return replace(self._branch(device, "coil", resistor_law(ohm)), pull_in_v=math.inf)
        if fault.fault != "needs too much to pull in":
            return None
        stiff = with_faults(self._vehicle, [fault]).devices[device.id].spec
        assert isinstance(stiff, RelayCoil)
        return replace(
            self._branch(device, "coil", resistor_law(spec.resistance_ohm)), pull_in_v=stiff.pull_in_v, spec=stiff
        )

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
            vehicle, inside[segment.id] = with_inside(vehicle, vehicle.segments[segment.id])
    return vehicle, inside
