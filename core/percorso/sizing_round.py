"""One round of sizing circuits: what every wire must stand and every circuit may lose at the currents that flow."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from percorso.allocation import Choices, Limit, allocate
from percorso.conductors import ConductorSize, Series, copper_mass_kg, find_size, resistance_ohm, stocked_sizes
from percorso.flows import Flows
from percorso.guarding import fuse_in_front_a, inrush_through, load_of_guard_a, path, short_loop_ohm
from percorso.house_rules import HouseRules
from percorso.ladders import size_change, wire_duty
from percorso.network import Network
from percorso.planned import planned
from percorso.profile import Leg
from percorso.protection import FAMILIES, FuseChoice, choose_fuse, clearing_share
from percorso.sizing import Criterion, Duty, refusals
from percorso.specs import Breaker, Fuse, Wire, changed_spec, ends_resistance_ohm
from percorso.vehicle import Circuit, Vehicle


@dataclass(frozen=True)
class WireSizes:
    """The sizes a wire may have for all it must stand; ``blocked`` says why there is really none."""

    spec: Wire
    duty: Duty
    fitting: tuple[ConductorSize, ...]
    blocked: str

    def ohm(self, size: ConductorSize) -> float:
        """Resistance of the wire with a size where it lies, Ω."""
        copper = resistance_ohm(size, self.spec.length_m, self.duty.zone_temperature_c[self.spec.zone])
        return copper + ends_resistance_ohm(self.spec)

    def choices(self) -> Choices:
        """Mass and resistance of each fitting size."""
        mass = [copper_mass_kg(size, self.spec.length_m) for size in self.fitting]
        return Choices(np.array(mass), np.array([self.ohm(size) for size in self.fitting]))


@dataclass(frozen=True)
class CircuitRule:
    """A limit on resistances with what it is about; ``fixed`` is the part of ``most`` that no size changes."""

    criterion: Criterion
    circuit: Circuit
    weight: Mapping[str, float]
    most: float
    fixed: float

    def limit(self) -> Limit:
        """The limit for the search."""
        return Limit(self.circuit.id, self.weight, self.most - self.fixed)

    def used(self, ohm: Mapping[str, float]) -> float:
        """What resistances of its wires use of ``most``."""
        return self.fixed + sum(weight * ohm[each] for each, weight in self.weight.items())

    def exceeded(self, used: float) -> str:
        """What a size that uses so much is refused for."""
        if self.criterion == "voltage drop":
            return f"{self.circuit.name} over by {used - self.most:.2g} V"
        return f"a short at the far end of {self.circuit.name} would not open its fuse in time"


class Round:
    """One round of sizing: what every wire must stand and every circuit may lose at the currents of the sizes before.

    ``earlier`` is the round before, where currents shall not go down any more.
    """

    def __init__(
        self,
        vehicle: Vehicle,
        rules: HouseRules,
        wanted: tuple[str, ...],
        free: tuple[str, ...],
        series: Series | None,
        earlier: "Round | None" = None,
    ) -> None:
        self.rules, self.wanted, self.free = rules, wanted, free
        plan = planned(Network(vehicle), rules, alone=True)  # what lies beside a path helps it and is not relied upon
        self.worst, self.profiles = plan.worst, plan.profiles
        self.fuses = {
            each: _fuse_for(vehicle, self.worst, each, spec, rules)
            for each in free
            if isinstance(spec := vehicle.segments[each].spec, Fuse)
        }
        self.vehicle = _changed(vehicle, {each: change for each, (_, change) in self.fuses.items()})
        self.concerned = [each for each in vehicle.circuits.values() if any(s.id in free for s in path(vehicle, each))]
        self.wires = {
            each: self._sizes(each, spec, series)
            for each in free
            if isinstance(spec := vehicle.segments[each].spec, Wire)
        }
        self.currents = {each.id: self._currents(each, earlier) for each in self.concerned}
        self.rules_of_circuits = [rule for each in self.concerned for rule in self._rules(each)]
        thickest = {each: wire.ohm(wire.fitting[-1]) for each, wire in self.wires.items()}
        self.out_of_reach = {
            rule.circuit.id: rule for rule in self.rules_of_circuits if rule.used(thickest) > rule.most * (1 + 1e-9)
        }

    def _sizes(self, segment_id: str, spec: Wire, series: Series | None) -> WireSizes:
        fuses = (
            fuse_in_front_a(self.vehicle, each, segment_id) for each in self.concerned if segment_id in each.whole_path
        )
        in_front = max((fuse for fuse in fuses if fuse is not None), default=None)
        duty = wire_duty(self.vehicle, self.worst, segment_id, spec, in_front)
        made = stocked_sizes(series or find_size(spec.size).series)
        refused = {size: refusals(size, duty, self.rules) for size in made}
        fitting = tuple(size for size in made if not refused[size])
        if not any(segment_id in each.whole_path for each in self.concerned):
            # No target asks for less than is there: it may be the way that relieves another.
            fitting = tuple(size for size in fitting if size.area_mm2 >= find_size(spec.size).area_mm2 * (1 - 1e-9))
        blocked = "" if fitting else "; ".join(refused[made[-1]].values())
        return WireSizes(spec, duty, fitting or made[-1:], blocked)

    def _currents(self, circuit: Circuit, earlier: "Round | None") -> dict[str, float]:
        """What flows through each segment of a circuit in its state, with all that shares it, A."""
        before = earlier.currents.get(circuit.id, {}) if earlier else {}
        return {
            leg.segment_id: max(self._flowing(circuit, leg), before.get(leg.segment_id, 0.0))
            for leg in self._legs(circuit)
        }

    def _legs(self, circuit: Circuit) -> tuple[Leg, ...]:
        return self.profiles[circuit.id].legs

    def _flowing(self, circuit: Circuit, leg: Leg) -> float:
        forward = self.vehicle.segments[leg.segment_id].from_point == leg.start_point
        return self.worst.with_others_a(circuit, leg, forward=forward)

    def _rules(self, circuit: Circuit) -> Iterator[CircuitRule]:
        legs, currents = self._legs(circuit), self.currents[circuit.id]
        weight = {leg.segment_id: currents[leg.segment_id] for leg in legs if leg.segment_id in self.wires}
        fixed = sum(leg.resistance_ohm * currents[leg.segment_id] for leg in legs if leg.segment_id not in self.wires)
        yield CircuitRule("voltage drop", circuit, weight, self.profiles[circuit.id].allowed_drop_v, fixed)
        clears_a = [
            spec.rating_a * clearing_share("breaker" if isinstance(spec, Breaker) else "fuse")
            for each in circuit.supply
            if isinstance(spec := self.vehicle.segments[each].spec, Fuse | Breaker)
        ]
        if clears_a:
            loop_ohm = self.vehicle.nominal_v / min(clears_a)
            fixed = short_loop_ohm(self.vehicle, (leg for leg in legs if leg.segment_id not in self.wires))
            if fixed < loop_ohm:
                yield CircuitRule("short circuit", circuit, dict.fromkeys(weight, 1.0), loop_ohm, fixed)

    def sized(self) -> Vehicle:
        """The vehicle with the lightest sizes for this round's currents."""
        limits = [each.limit() for each in self.rules_of_circuits if each.circuit.id not in self.out_of_reach]
        picks = allocate({each: wire.choices() for each, wire in self.wires.items()}, limits)
        assert picks is not None, "with the thickest sizes every rule that is left holds"
        sizes = {each: wire.fitting[picks[each]].name for each, wire in self.wires.items()}
        return _changed(self.vehicle, {each: size_change(self.wires[each].spec, size) for each, size in sizes.items()})


def _fuse_for(
    vehicle: Vehicle, worst: Flows, segment_id: str, spec: Fuse, rules: HouseRules
) -> tuple[FuseChoice, dict[str, str | float | None]]:
    """The fuse its load asks for, of its own family or the next bigger one, and what to write for it."""
    load_a, inrush = load_of_guard_a(vehicle, worst, segment_id, rules), inrush_through(vehicle, segment_id)
    for family in FAMILIES[FAMILIES.index(spec.family) :]:
        choice = choose_fuse(load_a, float("inf"), rules, family, inrush)
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
