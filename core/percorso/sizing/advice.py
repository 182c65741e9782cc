"""What there is to say about sizes that were found: why each, what else was near, and what no size can do."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from percorso.circuits.worst_currents import Worst
from percorso.components.conductors import ConductorSize, find_size, stocked_sizes
from percorso.components.contacts import ContactChoice, choose_contact
from percorso.components.fuses import FuseChoice, choose_fuse, link_for
from percorso.house_rules import School
from percorso.sizing.ampacity import Ampacity
from percorso.sizing.circuit_advice import CircuitAdvice, circuit_advice
from percorso.sizing.contact_loads import load_kind_behind
from percorso.sizing.protection_zones import (
    fuse_that_stays,
    guarded_wires,
    inrush_through,
    least_fuse_a,
    load_of_guard_a,
    path,
    thinnest_behind_a,
)
from percorso.sizing.rounds import Round, wire_size
from percorso.sizing.wire_size import SMALLEST_MADE, Criterion, Governing, refusals
from percorso.vehicle.copper import lasts_s
from percorso.vehicle.model import Segment, Vehicle
from percorso.vehicle.segments import Contact, Fuse, FusibleLink, Wire

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
class LinkAdvice:
    """The fusible link for the wires behind it; ``size`` is None where none that thin is made."""

    segment_id: str
    designation: str
    size: str | None
    present: str
    reason: str


@dataclass(frozen=True)
class ContactAdvice:
    """The contact rating recommended in a place."""

    segment_id: str
    designation: str
    present_a: float | None
    choice: ContactChoice


@dataclass(frozen=True)
class Recommendation:
    """Sizes for circuits, their copper now and then (kg), and by segment what to change; ``vehicle`` has it changed."""

    circuits: tuple[CircuitAdvice, ...]
    wires: tuple[WireAdvice, ...]
    fuses: tuple[FuseAdvice, ...]
    links: tuple[LinkAdvice, ...]
    contacts: tuple[ContactAdvice, ...]
    copper_kg: float
    present_copper_kg: float
    changes: Mapping[str, Mapping[str, str | float | None]]
    vehicle: Vehicle
    school: School


def advice_on(present: Vehicle, task: Round) -> Recommendation:
    """Everything there is to say about the last round's sizes."""
    sized = task.vehicle
    sizes = {each: wire_size(sized, each) for each in task.wires}
    wires = tuple(_wire_advice(present, task, sizes, each) for each in task.wires)
    fuses = tuple(_fuse_advice(present, task, each) for each in task.fuses)
    links = tuple(_link_advice(present, task))
    fitting = [each.segment_id for each in fuses if each.choice.rating_a is not None]
    changes = {
        each: change
        for each in (*task.wires, *fitting)
        if (change := _difference(present.segments[each], sized.segments[each]))
    }
    changes |= {each.segment_id: {"size": each.size} for each in links if each.size and each.size != each.present}
    contacts = tuple(_contact_advice(task, segment) for segment in _contacts(task))
    return Recommendation(
        circuits=tuple(circuit_advice(task, sizes, each) for each in task.concerned if each.id in task.wanted),
        wires=wires,
        fuses=fuses,
        links=links,
        contacts=contacts,
        copper_kg=sum(each.copper_kg for each in wires),
        present_copper_kg=sum(wire.mass_kg(wire_size(present, each)) for each, wire in task.wires.items()),
        changes=changes,
        vehicle=sized,
        school=task.rules.school,
    )


def _difference(present: Segment, sized: Segment) -> dict[str, str | float | None]:
    """What to write into a segment's spec so that it becomes as it was sized."""
    names = ("size", "insulation") if isinstance(present.spec, Wire) else ("rating_a", "family")
    both = ((name, getattr(present.spec, name), getattr(sized.spec, name)) for name in names)
    return {name: new for name, old, new in both if new != old}


def _wire_advice(present: Vehicle, task: Round, sizes: Mapping[str, ConductorSize], wire_id: str) -> WireAdvice:
    wire, size = task.wires[wire_id], wire_size(task.vehicle, wire_id)
    segment = present.segments[wire_id]
    made = stocked_sizes(size.series)
    place = made.index(size)
    thinner = _refused(task, sizes, wire_id, made[place - 1]) if place else {}
    governed_by: Governing = next(iter(thinner), SMALLEST_MADE)
    why = f"{made[place - 1].name} is refused: {'; '.join(thinner.values())}" if thinner else "no thinner one is made"
    passed_by = [each for each in task.concerned if wire_id in each.whole_path]
    if not thinner and place and any(each.id in task.out_of_reach for each in passed_by):
        governed_by, why = "out of reach", "the thickest that its ends take; the target stays out of reach"
    elif not thinner and place and task.rules.school == "generous":
        governed_by, why = "generous", f"one size above {made[place - 1].name}, which would do"
    elif not thinner and place and not passed_by:
        governed_by, why = "no circuit", "no circuit passes it, so it stays as thick as it is"
    elif not thinner and place:
        governed_by, why = "what is there", f"{made[place - 1].name} would do; a good wire that is there stays"
    near = range(max(place - SIZES_EACH_WAY, 0), min(place + SIZES_EACH_WAY + 1, len(made)))
    return WireAdvice(
        segment_id=wire_id,
        designation=segment.designation,
        size=size.name,
        present=wire_size(present, wire_id).name,
        governed_by=governed_by,
        reason=f"no size is good for its duty: {wire.blocked}" if wire.blocked else why,
        worst=task.worst.continuous(wire_id),
        ampacity=wire.duty.ampacity(size, task.rules),
        drop_v=_drop_v(task, wire_id, size),
        copper_kg=wire.mass_kg(size),
        alternatives=tuple(
            Alternative(
                size=other.name,
                extra_copper_kg=wire.mass_kg(other) - wire.mass_kg(size),
                extra_drop_v=_drop_v(task, wire_id, other) - _drop_v(task, wire_id, size),
                refused=tuple(_refused(task, sizes, wire_id, other).values()),
            )
            for other in (made[each] for each in near)
        ),
    )


def _drop_v(task: Round, wire_id: str, size: ConductorSize) -> float:
    """What a wire with a size loses at the most that flows in a state that one of its circuits is judged in, V."""
    passing = [(task.currents[each.id][wire_id], each.state) for each in task.concerned if wire_id in each.whole_path]
    worst = task.worst.continuous(wire_id)
    amps, state = max(passing, default=(worst.current_a, worst.state))
    return amps * task.wires[wire_id].ohm(size, amps, lasts_s(state))


def _refused(
    task: Round, sizes: Mapping[str, ConductorSize], wire_id: str, size: ConductorSize
) -> dict[Criterion, str]:
    """Why a wire may not have a size while all others have theirs."""
    wire = task.wires[wire_id]
    with_it = {**sizes, **dict.fromkeys(wire.alike, size)}
    refused: dict[Criterion, str] = {}
    for rule in task.rules_of_circuits:
        if rule.weight.keys().isdisjoint(wire.alike) or rule.circuit.id in task.out_of_reach:
            continue
        used = rule.used(task.wires, with_it)
        if used > rule.most * (1 + 1e-9):
            refused[rule.criterion] = rule.exceeded(used)
    refused |= refusals(size, wire.duty, task.rules)
    if not refused:
        others = [each for each in wire.alike if refusals(size, task.wires[each].duty, task.rules)]
        if others:
            names = " and ".join(task.vehicle.segments[each].designation for each in others)
            refused["the same out and back"] = f"too thin for {names} of the same route"
    return refused


def _fuse_advice(present: Vehicle, task: Round, fuse_id: str) -> FuseAdvice:
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
    least_a = least_fuse_a(task.vehicle, fuse_id, task.rules)
    choice = choose_fuse(load_a, min(stands, default=math.inf), task.rules, after.spec.family, inrush, least_a)
    choice = fuse_that_stays(task.vehicle, fuse_id, after.spec, choice, task.rules) or choice
    return FuseAdvice(fuse_id, before.designation, after.spec.family, before.spec.rating_a, load_a, choice)


def _link_advice(present: Vehicle, task: Round) -> Iterator[LinkAdvice]:
    for each in task.free:
        segment = present.segments[each]
        if not isinstance(segment.spec, FusibleLink):
            continue
        guarded = [
            find_size(wire.size)
            for circuit in task.concerned
            if each in circuit.supply
            for _, wire in guarded_wires(task.vehicle, circuit, each)
        ]
        if guarded:
            thinnest = min(guarded, key=lambda size: size.area_mm2)
            fits = link_for(thinnest)
            reason = f"four AWG numbers thinner than the {thinnest.name} it guards"
            size = fits.name if fits else None
            yield LinkAdvice(each, segment.designation, size, segment.spec.size, reason)


def _contacts(task: Round) -> Iterator[Segment]:
    passed = {
        segment.id: segment for each in task.wanted for segment in path(task.vehicle, task.vehicle.circuits[each])
    }
    return (each for each in passed.values() if isinstance(each.spec, Contact))


def _contact_advice(task: Round, segment: Segment) -> ContactAdvice:
    assert isinstance(segment.spec, Contact)
    current = max(task.worst.continuous(segment.id).current_a, task.worst.cranking_a(segment.id))
    choice = choose_contact(current, load_kind_behind(task.vehicle, segment.id))
    return ContactAdvice(segment.id, segment.designation, segment.spec.rated_a, choice)
