"""One round of sizing circuits: what every wire must stand and every circuit may lose at the currents that flow."""

import math
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace

import numpy as np

from percorso.arrays import Array
from percorso.circuits.design_case import planned
from percorso.circuits.voltage_profile import Leg
from percorso.circuits.worst_currents import Flows
from percorso.components.conductors import (
    ConductorSize,
    Series,
    find_size,
    stocked_sizes,
)
from percorso.components.fuses import FAMILIES, FuseChoice, choose_fuse, clearing_share
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.sizing.ladders import size_change, wire_duty
from percorso.sizing.least_copper import allocate
from percorso.sizing.limits import CircuitRule, WireSizes
from percorso.sizing.protection_zones import (
    fuse_in_front_a,
    fuse_that_stays,
    guard_in_front,
    guard_kind,
    inrush_through,
    least_fuse_a,
    load_of_guard_a,
    path,
    short_loop_ohm,
)
from percorso.sizing.wire_size import refusals
from percorso.vehicle.copper import lasts_s
from percorso.vehicle.model import Circuit, Vehicle
from percorso.vehicle.resistance import is_bad_connection
from percorso.vehicle.segments import Breaker, Fuse, Wire, changed_spec

FAIR_SHARE = 0.2  # of what flows through a shared wire, from which on a circuit answers for all of it; common practice

OWN_SHARE = (
    0.8  # of what flows through a wire, from which on it is a circuit's own, whoever else passes; common practice
)


class Round:
    """One round of sizing: what every wire must stand and every circuit may lose at the currents of the sizes before.

    ``present`` is the vehicle as it is before any round: what is there is there, whatever a round made of it.
    ``earlier`` is the round before, where currents shall not go down any more.
    """

    def __init__(
        self,
        vehicle: Vehicle,
        present: Vehicle,
        rules: HouseRules,
        wanted: tuple[str, ...],
        free: tuple[str, ...],
        series: Series | None,
        earlier: "Round | None" = None,
    ) -> None:
        self.present, self.rules, self.wanted, self.free = present, rules, wanted, free
        plan = planned(Network(vehicle), rules, alone=True)  # what lies beside a path helps it and is not relied upon
        self.worst, self.profiles = plan.worst, plan.profiles
        self.fuses = {
            each: _fuse_for(vehicle, self.worst, each, spec, rules)
            for each in free
            if isinstance(spec := present.segments[each].spec, Fuse)
        }
        self.vehicle = _changed(vehicle, {each: change for each, (_, change) in self.fuses.items()})
        self.concerned = [each for each in vehicle.circuits.values() if any(s.id in free for s in path(vehicle, each))]
        self.wires = self._alike(
            {
                each: self._sizes(each, spec, series)
                for each in free
                if isinstance(spec := vehicle.segments[each].spec, Wire)
            }
        )
        self.currents = {each.id: self._currents(each, earlier) for each in self.concerned}
        self.rules_of_circuits = [self._reachable(rule) for each in self.concerned for rule in self._rules(each)]
        self.out_of_reach = {
            rule.circuit.id: rule for rule in self.rules_of_circuits if self.least(rule) > rule.most * (1 + 1e-9)
        }
        for rule in self.out_of_reach.values():  # as near to its target as can be
            near = self._near(rule) if rule.criterion == "voltage drop" else []
            for wire in near:
                self.wires |= {each: replace(self.wires[each], fitting=wire.fitting[-1:]) for each in wire.alike}

    def least(self, rule: CircuitRule) -> float:
        """What the thickest wires use of a rule."""
        return rule.used(self.wires, {each: self.wires[each].fitting[-1] for each in rule.weight})

    def _reachable(self, rule: CircuitRule) -> CircuitRule:
        """The rule without the house's margin where no size keeps that."""
        return replace(rule, most=rule.allowed) if rule.most < self.least(rule) <= rule.allowed else rule

    def _near(self, rule: CircuitRule) -> list[WireSizes]:
        """The wires that are as thick as can be where the target of their circuit is out of reach.

        These are what their ends keep thin, and new ones where there is no bad connection to be mended first.
        """
        sound = not any(is_bad_connection(each.spec) for each in path(self.vehicle, rule.circuit))
        helps = sound and self.rules.school != "light"
        new = {each for each in rule.weight if helps and self.vehicle.segments[each].origin == "new"}
        return [self.wires[each] for each in rule.weight if each in new or self.wires[each].narrow]

    def _sizes(self, segment_id: str, spec: Wire, series: Series | None) -> WireSizes:
        fuses = (
            fuse_in_front_a(self.vehicle, each, segment_id) for each in self.concerned if segment_id in each.whole_path
        )
        in_front = max((fuse for fuse in fuses if fuse is not None), default=None)
        duty = wire_duty(self.vehicle, self.worst, segment_id, spec, in_front, self.rules)
        made = stocked_sizes(series or find_size(spec.size).series)
        refused = {size: refusals(size, duty, self.rules) for size in made}
        fitting = [size for size in made if not refused[size]]
        if not fitting:  # without the margin of the house, sooner than not at all
            refused = {size: refusals(size, duty, replace(self.rules, school="light")) for size in made}
            fitting = [size for size in made if not refused[size]]
        lies = self.vehicle.segments[segment_id].origin == "existing" and self.rules.school != "light"
        if lies or not any(segment_id in each.whole_path for each in self.concerned):
            # Nobody pulls out a good wire for a thinner one, and one that no circuit passes may relieve another.
            there = wire_size(self.present, segment_id)
            fitting = [size for size in fitting if size.area_mm2 >= there.area_mm2 * (1 - 1e-9)]
        wants = next((size for size in made if refused[size].keys() == {"terminal"}), None)
        if duty.is_strap:
            fitting = fitting[:1]  # what a feed loses is not for the battery's strap to make good
        warms = self.vehicle.copper == "own temperature"
        if fitting:
            return WireSizes(spec, duty, warms, tuple(fitting), "", wants is not None, (segment_id,))
        taken = [size for size in made if "terminal" not in refused[size]]
        if wants is not None and taken:
            blocked = f"it needs {wants.name}; {refused[wants]['terminal']}"
            return WireSizes(spec, duty, warms, tuple(taken[-1:]), blocked, True, (segment_id,))
        return WireSizes(spec, duty, warms, made[-1:], "; ".join(refused[made[-1]].values()), False, (segment_id,))

    def _alike(self, wires: dict[str, WireSizes]) -> dict[str, WireSizes]:
        """New wires of one run alike, out and back, but for the light school."""
        if self.rules.school == "light":
            return wires
        for circuit in self.concerned:
            for own in self._runs(circuit, wires):
                together = tuple(dict.fromkeys(alike for each in own for alike in wires[each].alike))
                first = wires[own[0]].fitting
                common = tuple(size for size in first if all(size in wires[each].fitting for each in together))
                wires |= {each: replace(wires[each], fitting=common, alike=together) for each in together if common}
        return wires

    def _runs(self, circuit: Circuit, wires: Mapping[str, WireSizes]) -> Iterable[list[str]]:
        """A circuit's own wires by runs: what lies behind the same guard. A battery's strap to the body is its own."""
        runs: dict[tuple[str, bool], list[str]] = {}
        for leg in self.legs(circuit):
            wire = wires.get(leg.segment_id)
            if wire is not None and self._is_own(leg) and not wire.blocked:
                guard = guard_in_front(self.vehicle, circuit, leg.segment_id)
                run = guard.id if guard else "", wire.duty.is_strap
                runs.setdefault(run, []).append(leg.segment_id)
        return runs.values()

    def _is_own(self, leg: Leg) -> bool:
        """Whether a new wire is a circuit's own, whoever else passes it."""
        is_new = self.vehicle.segments[leg.segment_id].origin == "new"
        return is_new and leg.current_a >= OWN_SHARE * self.worst.most(leg.segment_id).current_a

    def _currents(self, circuit: Circuit, earlier: "Round | None") -> dict[str, float]:
        """What flows through each segment of a circuit in its state, with all that shares it, A."""
        before = earlier.currents.get(circuit.id, {}) if earlier else {}
        return {
            leg.segment_id: max(self._flowing(circuit, leg), before.get(leg.segment_id, 0.0))
            for leg in self.legs(circuit)
        }

    def legs(self, circuit: Circuit) -> tuple[Leg, ...]:
        """The legs of a circuit that carries its design current alone."""
        return self.profiles[circuit.id].legs

    def _flowing(self, circuit: Circuit, leg: Leg) -> float:
        forward = self.vehicle.segments[leg.segment_id].from_point == leg.start_point
        return self.worst.with_others_a(circuit, leg, forward=forward)

    def answered_a(self, circuit: Circuit, leg: Leg) -> float:
        """The current with which a segment counts in a circuit's drop, A.

        Its own; with all that shares it in a wire that is sized and carries a fair share of the circuit's. What others
        lose on shared metal besides is for that metal to mend, not for the circuit's own wires.
        """
        flowing = self.currents[circuit.id][leg.segment_id]
        shared = leg.segment_id in self.wires and leg.current_a >= FAIR_SHARE * flowing
        return flowing if shared else leg.current_a

    def leg_ohm(self, circuit: Circuit, leg: Leg, sizes: Mapping[str, ConductorSize]) -> float:
        """Resistance of a segment of a circuit with ``sizes``, at what flows through it in the circuit's state, Ω."""
        wire, amps = self.wires.get(leg.segment_id), self.currents[circuit.id][leg.segment_id]
        return wire.ohm(sizes[leg.segment_id], amps, lasts_s(circuit.state)) if wire else leg.resistance_ohm

    def _rules(self, circuit: Circuit) -> Iterator[CircuitRule]:
        legs = self.legs(circuit)
        weight = {leg.segment_id: self.answered_a(circuit, leg) for leg in legs if leg.segment_id in self.wires}
        fixed = sum(leg.resistance_ohm * leg.current_a for leg in legs if leg.segment_id not in self.wires)
        allowed = self.profiles[circuit.id].allowed_drop_v
        aims = self.rules.aimed_fraction(circuit.family) * allowed
        yield CircuitRule("voltage drop", circuit, weight, aims, allowed, fixed)
        if circuit.family == "starting" and circuit.return_path:
            yield from self._plus_side(circuit, weight)
        clears_a = [
            spec.rating_a * clearing_share(guard_kind(spec))
            for each in circuit.supply
            if isinstance(spec := self.vehicle.segments[each].spec, Fuse | Breaker)
        ]
        if clears_a:
            loop_ohm = self.vehicle.nominal_v / min(clears_a)
            fixed = short_loop_ohm(self.vehicle, (leg for leg in legs if leg.segment_id not in self.wires))
            if fixed < loop_ohm:
                yield CircuitRule("short circuit", circuit, dict.fromkeys(weight, 1.0), loop_ohm, loop_ohm, fixed)

    def _plus_side(self, circuit: Circuit, weight: Mapping[str, float]) -> Iterator[CircuitRule]:
        """The plus side of a starter's circuit loses no more than the house's target for a starter cable, where the
        circuit itself may lose more: 0.5 V of 12 V, common practice.
        """
        plus = [leg for leg in self.legs(circuit) if leg.segment_id in circuit.supply]
        nominal = self.vehicle.nominal_v
        allowed = self.rules.target("starting").allowed_drop_v(circuit.source_v, nominal) * nominal / 12
        fixed = sum(leg.resistance_ohm * leg.current_a for leg in plus if leg.segment_id not in weight)
        if fixed < allowed < self.profiles[circuit.id].allowed_drop_v:
            own = {leg.segment_id: weight[leg.segment_id] for leg in plus if leg.segment_id in weight}
            yield CircuitRule("voltage drop", circuit, own, self.rules.aimed_fraction() * allowed, allowed, fixed)

    def sized(self) -> Vehicle:
        """The vehicle with the lightest sizes for this round's currents, one size more where the house is generous."""
        limits = [each.limit(self.wires) for each in self.rules_of_circuits if each.circuit.id not in self.out_of_reach]
        together = {wire.alike[0]: [self.wires[each] for each in wire.alike] for wire in self.wires.values()}
        masses: dict[str, Array] = {
            each: np.sum([wire.masses_kg for wire in alike], axis=0) for each, alike in together.items()
        }
        picks = allocate(masses, limits)
        assert picks is not None, "with the thickest sizes every rule that is left holds"
        more = 1 if self.rules.school == "generous" else 0
        sizes = {
            each: wire.fitting[min(picks[wire.alike[0]] + more, len(wire.fitting) - 1)].name
            for each, wire in self.wires.items()
        }
        return _changed(self.vehicle, {each: size_change(self.wires[each].spec, size) for each, size in sizes.items()})


def wire_size(vehicle: Vehicle, wire_id: str) -> ConductorSize:
    """The size of a wire in a vehicle."""
    spec = vehicle.segments[wire_id].spec
    assert isinstance(spec, Wire)
    return find_size(spec.size)


def _fuse_for(
    vehicle: Vehicle, worst: Flows, segment_id: str, spec: Fuse, rules: HouseRules
) -> tuple[FuseChoice, dict[str, str | float | None]]:
    """The fuse its load asks for, of its own family or the next bigger one, and what to write for it.

    One that is there, carries its load and protects its wires stays, but for the light school.
    """
    load_a, inrush = load_of_guard_a(vehicle, worst, segment_id, rules), inrush_through(vehicle, segment_id)
    least_a = least_fuse_a(vehicle, segment_id, rules)
    asked = choose_fuse(load_a, math.inf, rules, spec.family, inrush, least_a)
    there = fuse_that_stays(vehicle, segment_id, spec, asked, rules)
    if there is not None:
        return there, {"rating_a": there.rating_a, "family": spec.family}
    for family in FAMILIES[FAMILIES.index(spec.family) :]:
        choice = choose_fuse(load_a, math.inf, rules, family, inrush, least_a)
        if choice.rating_a is not None:
            return choice, {"rating_a": choice.rating_a, "family": family}
    return choice, {}


def _changed(vehicle: Vehicle, changes: Mapping[str, Mapping[str, str | float | None]]) -> Vehicle:
    """The vehicle with values of segments changed."""
    segments = dict(vehicle.segments)
    for each, change in changes.items():
        spec = segments[each].spec
        if any(getattr(spec, name) != value for name, value in change.items()):
            segments[each] = replace(segments[each], spec=changed_spec(spec, change))
    return replace(vehicle, segments=segments)
