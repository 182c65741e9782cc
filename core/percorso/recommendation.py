"""Sizes whole circuits at once: every wire, fuse and contact, with the least copper that meets every rule."""

import math
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from percorso.allocation import Choices, Limit, allocate
from percorso.ampacity import Ampacity
from percorso.conductors import ConductorSize, Series, copper_mass_kg, find_size, resistance_ohm, stocked_sizes
from percorso.flows import Flows, Worst
from percorso.guarding import (
    fuse_in_front_a,
    inrush_through,
    load_of_guard_a,
    path,
    short_loop_ohm,
    thinnest_behind_a,
)
from percorso.house_rules import HouseRules
from percorso.ladders import size_change, wire_duty
from percorso.network import Network
from percorso.planned import planned
from percorso.profile import Leg
from percorso.protection import FAMILIES, FuseChoice, choose_fuse, clearing_share
from percorso.sizing import SMALLEST_MADE, Criterion, Duty, Governing, refusals
from percorso.specs import (
    Breaker,
    Fuse,
    RelayContact,
    SensorSwitch,
    Switch,
    Wire,
    changed_spec,
    ends_resistance_ohm,
)
from percorso.switching import ContactChoice, choose_contact, load_kind_behind
from percorso.vehicle import Circuit, Segment, Vehicle

Contact = Switch | SensorSwitch | RelayContact
MOST_ROUNDS = 8  # sizes change currents, currents change sizes
SAFE_FROM_ROUND = 3  # from here on a current that went down counts as it was, so that the rounds come to an end
SIZES_EACH_WAY = 2  # alternatives shown thinner and thicker than the recommended size


@dataclass(frozen=True)
class Alternative:
    """A size near the recommended one: what it weighs more (kg), what the circuit loses more (V), why not."""

    size: str
    extra_copper_kg: float
    extra_drop_v: float
    refused: tuple[str, ...]


@dataclass(frozen=True)
class WireAdvice:
    """The size recommended for a wire; ``worst`` is what it must carry for long, ``drop_v`` what it then loses."""

    segment_id: str
    designation: str
    size: str
    present: str
    governed_by: Governing
    reason: str
    worst: Worst
    ampacity: Ampacity
    drop_v: float
    copper_kg: float
    alternatives: tuple[Alternative, ...]


@dataclass(frozen=True)
class FuseAdvice:
    """The fuse recommended in a place; ``choice.rating_a`` is None where none does, with the rule that blocks."""

    segment_id: str
    designation: str
    family: str
    present_a: float
    load_a: float
    choice: FuseChoice


@dataclass(frozen=True)
class ContactAdvice:
    """The contact rating recommended in a place."""

    segment_id: str
    designation: str
    present_a: float | None
    choice: ContactChoice


@dataclass(frozen=True)
class CircuitAdvice:
    """A circuit with the recommended sizes: what it loses while all that shares its path draws, and what it may.

    ``problem`` says why its target is out of reach, ``ways_out`` what would bring it within.
    """

    circuit_id: str
    name: str
    drop_v: float
    allowed_drop_v: float
    problem: str = ""
    ways_out: tuple[str, ...] = ()


@dataclass(frozen=True)
class Recommendation:
    """Sizes for circuits, their copper now and then (kg), and by segment what to change; ``vehicle`` has it changed."""

    circuits: tuple[CircuitAdvice, ...]
    wires: tuple[WireAdvice, ...]
    fuses: tuple[FuseAdvice, ...]
    contacts: tuple[ContactAdvice, ...]
    copper_kg: float
    present_copper_kg: float
    changes: Mapping[str, Mapping[str, str | float | None]]
    vehicle: Vehicle


def recommend(
    vehicle: Vehicle,
    rules: HouseRules,
    circuit_ids: Iterable[str] | None = None,
    series: Series | None = None,
    keep: frozenset[str] = frozenset(),
) -> Recommendation:
    """The least copper with which circuits (default: all) meet drop, heat, protection and the house's thinnest wire.

    Other circuits that share a wire keep within their targets too. ``series`` overrides the wires' own, ``keep`` names
    segments that stay as they are.
    """
    wanted = tuple(vehicle.circuits if circuit_ids is None else circuit_ids)
    passed = [segment.id for each in wanted for segment in path(vehicle, vehicle.circuits[each])]
    others = vehicle.segments if circuit_ids is None else ()  # beside every route, and still a wire of the job
    free = tuple(dict.fromkeys(each for each in (*passed, *others) if each not in keep))
    sized, task = vehicle, _Task(vehicle, rules, wanted, free, series)
    for number in range(1, MOST_ROUNDS):
        resized = task.sized()
        if resized == sized and number > 1:
            break
        sized, task = resized, _Task(resized, rules, wanted, free, series, task if number >= SAFE_FROM_ROUND else None)
    return _advice(vehicle, task)


@dataclass(frozen=True)
class _Sizes:
    """The sizes a wire may have for all it must stand; ``blocked`` says why there is really none."""

    spec: Wire
    duty: Duty
    fitting: tuple[ConductorSize, ...]
    blocked: str

    def ohm(self, size: ConductorSize) -> float:
        copper = resistance_ohm(size, self.spec.length_m, self.duty.zone_temperature_c[self.spec.zone])
        return copper + ends_resistance_ohm(self.spec)

    def choices(self) -> Choices:
        mass = [copper_mass_kg(size, self.spec.length_m) for size in self.fitting]
        return Choices(np.array(mass), np.array([self.ohm(size) for size in self.fitting]))


@dataclass(frozen=True)
class _Rule:
    """A limit on resistances with what it is about; ``fixed`` is the part of ``most`` that no size changes."""

    criterion: Criterion
    circuit: Circuit
    weight: Mapping[str, float]
    most: float
    fixed: float

    def limit(self) -> Limit:
        return Limit(self.circuit.id, self.weight, self.most - self.fixed)

    def used(self, ohm: Mapping[str, float]) -> float:
        return self.fixed + sum(weight * ohm[each] for each, weight in self.weight.items())

    def exceeded(self, used: float) -> str:
        """What a size that uses so much is refused for."""
        if self.criterion == "voltage drop":
            return f"{self.circuit.name} over by {used - self.most:.2g} V"
        return f"a short at the far end of {self.circuit.name} would not open its fuse in time"


class _Task:
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
        earlier: "_Task | None" = None,
    ) -> None:
        self.rules, self.wanted = rules, wanted
        plan = planned(Network(vehicle), rules)
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

    def _sizes(self, segment_id: str, spec: Wire, series: Series | None) -> _Sizes:
        fuses = (
            fuse_in_front_a(self.vehicle, each, segment_id)
            for each in self.concerned
            if segment_id in (*each.supply, *each.return_path)
        )
        in_front = max((fuse for fuse in fuses if fuse is not None), default=None)
        duty = wire_duty(self.vehicle, self.worst, segment_id, spec, in_front)
        made = stocked_sizes(series or find_size(spec.size).series)
        refused = {size: refusals(size, duty, self.rules) for size in made}
        fitting = tuple(size for size in made if not refused[size])
        if not any(segment_id in (*each.supply, *each.return_path) for each in self.concerned):
            # No target asks for less than is there: it may be the way that relieves another.
            fitting = tuple(size for size in fitting if size.area_mm2 >= find_size(spec.size).area_mm2 * (1 - 1e-9))
        blocked = "" if fitting else "; ".join(refused[made[-1]].values())
        return _Sizes(spec, duty, fitting or made[-1:], blocked)

    def _currents(self, circuit: Circuit, earlier: "_Task | None") -> dict[str, float]:
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

    def _rules(self, circuit: Circuit) -> Iterator[_Rule]:
        legs, currents = self._legs(circuit), self.currents[circuit.id]
        weight = {leg.segment_id: currents[leg.segment_id] for leg in legs if leg.segment_id in self.wires}
        fixed = sum(leg.resistance_ohm * currents[leg.segment_id] for leg in legs if leg.segment_id not in self.wires)
        yield _Rule("voltage drop", circuit, weight, self.profiles[circuit.id].allowed_drop_v, fixed)
        clears_a = [
            spec.rating_a * clearing_share("breaker" if isinstance(spec, Breaker) else "fuse")
            for each in circuit.supply
            if isinstance(spec := self.vehicle.segments[each].spec, Fuse | Breaker)
        ]
        if clears_a:
            loop_ohm = self.vehicle.nominal_v / min(clears_a)
            fixed = short_loop_ohm(self.vehicle, (leg for leg in legs if leg.segment_id not in self.wires))
            if fixed < loop_ohm:
                yield _Rule("short circuit", circuit, dict.fromkeys(weight, 1.0), loop_ohm, fixed)

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


def _advice(present: Vehicle, task: _Task) -> Recommendation:
    """Everything there is to say about the last round's sizes."""
    sized = task.vehicle
    ohm = {each: wire.ohm(_size(sized, each)) for each, wire in task.wires.items()}
    wires = tuple(_wire_advice(present, task, ohm, each) for each in task.wires)
    changes = {
        each: change
        for each in (*task.wires, *task.fuses)
        if (change := _difference(present.segments[each], sized.segments[each]))
    }
    contacts = tuple(_contact_advice(task, segment) for segment in _contacts(task))
    return Recommendation(
        circuits=tuple(_circuit_advice(task, ohm, each) for each in task.concerned if each.id in task.wanted),
        wires=wires,
        fuses=tuple(_fuse_advice(present, task, each) for each in task.fuses),
        contacts=contacts,
        copper_kg=sum(each.copper_kg for each in wires),
        present_copper_kg=sum(
            copper_mass_kg(_size(present, each), wire.spec.length_m) for each, wire in task.wires.items()
        ),
        changes=changes,
        vehicle=sized,
    )


def _size(vehicle: Vehicle, wire_id: str) -> ConductorSize:
    spec = vehicle.segments[wire_id].spec
    assert isinstance(spec, Wire)
    return find_size(spec.size)


def _difference(present: Segment, sized: Segment) -> dict[str, str | float | None]:
    """What to write into a segment's spec so that it becomes as it was sized."""
    names = ("size", "insulation") if isinstance(present.spec, Wire) else ("rating_a", "family")
    both = ((name, getattr(present.spec, name), getattr(sized.spec, name)) for name in names)
    return {name: new for name, old, new in both if new != old}


def _wire_advice(present: Vehicle, task: _Task, ohm: Mapping[str, float], wire_id: str) -> WireAdvice:
    wire, size = task.wires[wire_id], _size(task.vehicle, wire_id)
    segment = present.segments[wire_id]
    made = stocked_sizes(size.series)
    place = made.index(size)
    thinner = _refused(task, ohm, wire_id, made[place - 1]) if place else {}
    current = _most_a(task, wire_id)
    governed_by: Governing = next(iter(thinner), SMALLEST_MADE)
    why = f"{made[place - 1].name} is refused: {'; '.join(thinner.values())}" if thinner else "no thinner one is made"
    if not thinner and place:
        governed_by, why = "no circuit", "no circuit passes it, so it stays as thick as it is"
    near = range(max(place - SIZES_EACH_WAY, 0), min(place + SIZES_EACH_WAY + 1, len(made)))
    return WireAdvice(
        segment_id=wire_id,
        designation=segment.designation,
        size=size.name,
        present=_size(present, wire_id).name,
        governed_by=governed_by,
        reason=f"no size stands its duty: {wire.blocked}" if wire.blocked else why,
        worst=task.worst.continuous(wire_id),
        ampacity=wire.duty.ampacity(size, task.rules),
        drop_v=current * ohm[wire_id],
        copper_kg=copper_mass_kg(size, wire.spec.length_m),
        alternatives=tuple(
            Alternative(
                size=other.name,
                extra_copper_kg=copper_mass_kg(other, wire.spec.length_m) - copper_mass_kg(size, wire.spec.length_m),
                extra_drop_v=current * (wire.ohm(other) - ohm[wire_id]),
                refused=tuple(_refused(task, ohm, wire_id, other).values()),
            )
            for other in (made[each] for each in near)
        ),
    )


def _most_a(task: _Task, segment_id: str) -> float:
    """The most that flows through a segment in a state that one of its circuits is judged in, A."""
    passing = (currents[segment_id] for currents in task.currents.values() if segment_id in currents)
    return max(passing, default=task.worst.continuous(segment_id).current_a)


def _refused(task: _Task, ohm: Mapping[str, float], wire_id: str, size: ConductorSize) -> dict[Criterion, str]:
    """Why a wire may not have a size while all others have theirs."""
    wire = task.wires[wire_id]
    with_it = {**ohm, wire_id: wire.ohm(size)}
    refused = {}
    for rule in task.rules_of_circuits:
        if wire_id not in rule.weight or rule.circuit.id in task.out_of_reach:
            continue
        used = rule.used(with_it)
        if used > rule.most * (1 + 1e-9):
            refused[rule.criterion] = rule.exceeded(used)
    return refused | refusals(size, wire.duty, task.rules)


def _fuse_advice(present: Vehicle, task: _Task, fuse_id: str) -> FuseAdvice:
    before, after = present.segments[fuse_id], task.vehicle.segments[fuse_id]
    assert isinstance(before.spec, Fuse)
    assert isinstance(after.spec, Fuse)
    load_a, inrush = (
        load_of_guard_a(task.vehicle, task.worst, fuse_id, task.rules),
        inrush_through(task.vehicle, fuse_id),
    )
    stands = [
        found
        for each in task.concerned
        if fuse_id in each.supply and (found := thinnest_behind_a(task.vehicle, each, fuse_id, task.rules)) is not None
    ]
    choice = choose_fuse(load_a, min(stands, default=float("inf")), task.rules, after.spec.family, inrush)
    return FuseAdvice(fuse_id, before.designation, after.spec.family, before.spec.rating_a, load_a, choice)


def _contacts(task: _Task) -> Iterator[Segment]:
    passed = {
        segment.id: segment for each in task.wanted for segment in path(task.vehicle, task.vehicle.circuits[each])
    }
    return (each for each in passed.values() if isinstance(each.spec, Contact))


def _contact_advice(task: _Task, segment: Segment) -> ContactAdvice:
    assert isinstance(segment.spec, Contact)
    current = max(task.worst.continuous(segment.id).current_a, task.worst.cranking_a(segment.id))
    choice = choose_contact(current, load_kind_behind(task.vehicle, segment.id))
    return ContactAdvice(segment.id, segment.designation, segment.spec.rated_a, choice)


def _circuit_advice(task: _Task, ohm: Mapping[str, float], circuit: Circuit) -> CircuitAdvice:
    rule = next(each for each in task.rules_of_circuits if each.circuit.id == circuit.id)
    short = task.out_of_reach.get(circuit.id)
    blocked = [
        f"{task.vehicle.segments[each].designation}: {task.wires[each].blocked}"
        for each in (*circuit.supply, *circuit.return_path)
        if each in task.wires and task.wires[each].blocked
    ]
    problem = _why_out_of_reach(task, short) if short else "; ".join(blocked)
    ways_out = tuple(_ways_out(task, short)) if short else ()
    return CircuitAdvice(circuit.id, circuit.name, rule.used(ohm), rule.most, problem, ways_out)


def _thickest_used(task: _Task, rule: _Rule) -> float:
    return rule.used({each: task.wires[each].ohm(task.wires[each].fitting[-1]) for each in rule.weight})


def _why_out_of_reach(task: _Task, rule: _Rule) -> str:
    if rule.criterion == "short circuit":
        return "even the thickest wires let too little flow into a short at the far end to open the fuse in time"
    if rule.fixed >= rule.most:
        return (
            f"what is not wire (joints, contacts, fuses, body) alone loses {rule.fixed:.2g} V "
            f"of {rule.most:.2g} V allowed"
        )
    return f"even the thickest wires made lose {_thickest_used(task, rule):.2g} V of {rule.most:.2g} V allowed"


def _ways_out(task: _Task, rule: _Rule) -> Iterator[str]:
    """What would bring a circuit within its target, with the figure of each."""
    used = _thickest_used(task, rule)
    if rule.criterion == "short circuit":
        yield "a smaller fuse, or one more where the thin wire begins"
        return
    in_wires, left = used - rule.fixed, rule.most - rule.fixed
    yield f"allow {math.ceil(used * 100) / 100:.2f} V"
    if left > 0 and in_wires > 0:
        length = sum(task.wires[each].spec.length_m for each in rule.weight)
        yield f"shorten its {length:.3g} m of wire to {length * left / in_wires:.2g} m"
        yield f"split the feed over {math.ceil(in_wires / left)} equal ways side by side"
    if left <= 0:
        worst = sorted(_fixed_drops(task, rule), reverse=True)[:2]
        yield "mend " + " and ".join(f"{name} ({volts:.2g} V)" for volts, name in worst)
    yield f"at twice the voltage the same power takes half the current and loses {used / 2:.2g} V"


def _fixed_drops(task: _Task, rule: _Rule) -> Iterator[tuple[float, str]]:
    currents = task.currents[rule.circuit.id]
    for leg in task.profiles[rule.circuit.id].legs:
        if leg.segment_id not in rule.weight:
            drop = leg.resistance_ohm * currents[leg.segment_id]
            yield drop, task.vehicle.segments[leg.segment_id].designation
