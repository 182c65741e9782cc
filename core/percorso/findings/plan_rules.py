"""What the rules notice about a planned vehicle before anything is switched on: routes, wires, guards and contacts."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from percorso.changes.edits import ChangeSegment, InsertSegment, MoveTerminals, ResizeCircuit, SetFate
from percorso.circuits.design_case import Planned
from percorso.circuits.parallel_paths import forks
from percorso.circuits.voltage_profile import Leg, unswitched
from percorso.circuits.worst_currents import Worst
from percorso.components.conductors import find_size
from percorso.components.insulation import Insulation, family, usual_insulation
from percorso.findings.connections import bad_connection, connection_findings
from percorso.findings.contacts import switch_findings
from percorso.findings.finding import Cure, Finding, gravest_first
from percorso.findings.overcurrent import guard_findings
from percorso.findings.shared_metal import sharing_findings
from percorso.findings.wire_ends import wire_end_findings
from percorso.sizing.ampacity import Ampacity, copper_c, wire_ampacity
from percorso.sizing.ladders import ladders, size_change, wire_task
from percorso.sizing.protection_zones import guard_in_front, path
from percorso.sizing.wire_size import size_wire
from percorso.targets import Family
from percorso.vehicle.devices import Alternator
from percorso.vehicle.loads import IndicatorLamp
from percorso.vehicle.model import Circuit, Segment
from percorso.vehicle.segments import (
    HOT_ZONES,
    Body,
    Wire,
)

THIN_SHARE = 0.4  # of the area of both its neighbours: from there on down a piece is a thin splice in a thick cable
POWER: tuple[Family, ...] = ("charging", "starting", "feed")
LONG_M = 1.0  # of wire out, from where a way back without any length was forgotten


def plan_findings(plan: Planned) -> tuple[Finding, ...]:
    """Every finding about a plan, the gravest first."""
    of_circuits = (each for circuit in plan.vehicle.circuits.values() for each in _of_circuit(plan, circuit))
    return gravest_first([*of_circuits, *_of_vehicle(plan)])


def circuit_findings(plan: Planned, circuit: Circuit) -> tuple[Finding, ...]:
    """Every finding about one circuit of a plan, the gravest first."""
    own = {*circuit.supply, *circuit.return_path}
    about = (each for each in _of_vehicle(plan) if own & set(each.segment_ids) or circuit.device_id in each.device_ids)
    return gravest_first([*_of_circuit(plan, circuit), *about])


@dataclass(frozen=True)
class WireFigures:
    """How a wire stands its heat: what flows at worst for long, what it may carry by both rules, how warm it gets.

    ``copper_c`` is None where it would melt; ``never`` is where its insulation must not be used.
    """

    worst: Worst
    cranking_a: float
    ampacity: Ampacity
    stands: bool  # by the house's rule
    insulation: str
    never: str
    limit_c: float
    copper_c: float | None


def wire_figures(plan: Planned, segment_id: str) -> WireFigures | None:
    """The heat of a wire at its worst current, rounded to a tenth of an ampere; None for another piece."""
    spec = plan.vehicle.segments[segment_id].spec
    if not isinstance(spec, Wire):
        return None
    worst, air = plan.worst.continuous(segment_id), plan.vehicle.zone_temperature_c[spec.zone]
    copper = copper_c(spec.cable, round(worst.current_a, 1), air, spec.bundle)
    ampacity = wire_ampacity(spec, plan.rules, plan.vehicle.zone_temperature_c)
    kind = family(spec.insulated_with)
    return WireFigures(
        worst=worst,
        cranking_a=plan.worst.cranking_a(segment_id),
        ampacity=ampacity,
        stands=worst.current_a <= ampacity.allowed_a,
        insulation=kind.name,
        never=kind.never,
        limit_c=kind.limit_c,
        copper_c=copper if copper < math.inf else None,
    )


def _of_circuit(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    yield from _over_target(plan, circuit)
    yield from guard_findings(plan, circuit)
    yield from sharing_findings(plan, circuit)
    yield from _forgotten_return(plan, circuit)
    yield from _thin_pieces(plan, circuit)
    yield from _bypasses(plan, circuit)


def _of_vehicle(plan: Planned) -> Iterator[Finding]:
    yield from _hot_wires(plan)
    yield from _insulation(plan)
    yield from _soldered_ends(plan)
    yield from connection_findings(plan)
    yield from _lamp_on_the_wrong_tap(plan)
    yield from switch_findings(plan)
    yield from wire_end_findings(plan)


def _over_target(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    solved = plan.profiles[circuit.id]
    if solved.verdict.word != "fail":
        return
    worst = max(solved.legs, key=lambda leg: leg.drop_v)
    title = f"{circuit.name} {solved.verdict.reason}."
    reason = f"{plan.name(worst.segment_id)} alone takes {worst.share:.0%} of the loss."
    bad = bad_connection(plan.vehicle.segments[worst.segment_id])  # no thicker wire makes up for it
    yield Finding("error", title, reason, (worst.segment_id,), bad.cure if bad else _lightest_cure(plan, circuit))


def _lightest_cure(plan: Planned, circuit: Circuit) -> Cure:
    """The one wire change that meets everything for the least copper, else the whole route anew."""
    vehicle, solved = plan.vehicle, plan.profiles[circuit.id]
    steps = ladders(plan, circuit, solved).values()
    wires = (each for each in steps if isinstance(vehicle.segments[each.segment_id].spec, Wire))
    fitting = [(each, rung) for each in wires if (rung := each.recommended) is not None and not rung.present]
    if not fitting:
        return _heavier_ends(plan, circuit) or Cure(
            f"size {circuit.name} anew", (ResizeCircuit(circuit_id=circuit.id),)
        )
    ladder, rung = min(fitting, key=lambda pair: pair[1].extra_copper_kg)
    name = plan.name(ladder.segment_id)
    effect = f"{name} as {rung.label}: {rung.drop_v:.2f} V lost, {rung.extra_copper_kg * 1000:+.0f} g copper"
    return Cure(effect, (ChangeSegment(segment_id=ladder.segment_id, change=dict(rung.change)),))


def _heavier_ends(plan: Planned, circuit: Circuit) -> Cure | None:
    """The one wire that would bring a circuit within its target if its ends took a thicker one, and those ends."""
    solved = plan.profiles[circuit.id]
    found: list[tuple[float, Cure]] = []
    for leg in solved.legs:
        spec = plan.vehicle.segments[leg.segment_id].spec
        if not isinstance(spec, Wire):
            continue
        task = wire_task(plan, circuit, solved, leg.segment_id, spec)
        tried = size_wire(task, find_size(spec.size).series, plan.rules).candidates
        wanted = next((each for each in tried if each.refused.keys() == {"terminal"}), None)
        ends = [end for end in task.stands.ends if wanted and end.refuses(find_size(wanted.size))]
        if wanted is not None and all(end.part_id for end in ends):
            changes = [ChangeSegment(segment_id=end.part_id, change=dict(end.change)) for end in ends]
            change = ChangeSegment(segment_id=leg.segment_id, change=size_change(spec, wanted.size))
            effect = f"{plan.name(leg.segment_id)} as {wanted.size}, {', '.join(end.heavier for end in ends)}"
            found.append((wanted.copper_mass_kg, Cure(effect, (*changes, change))))
    return min(found, key=lambda pair: pair[0])[1] if found else None


def _forgotten_return(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    out = [spec.length_m for each in circuit.supply if isinstance(spec := plan.vehicle.segments[each].spec, Wire)]
    back = [plan.vehicle.segments[each].spec for each in circuit.return_path]
    if sum(out) < LONG_M or any(isinstance(spec, Wire | Body) for spec in back):
        return
    title = f"The way back of {circuit.name} has no length."
    reason = f"{sum(out):.3g} m lead out and nothing but joints back: current needs a wire or the body to return by."
    first = next(each for each in circuit.supply if isinstance(plan.vehicle.segments[each].spec, Wire))
    like = plan.vehicle.segments[first].spec
    assert isinstance(like, Wire)
    wire = {"kind": "wire", "size": like.size, "length_m": sum(out), "zone": like.zone}
    edit = InsertSegment(circuit_id=circuit.id, beside=circuit.return_path[0], after=False, spec=wire)
    cure = Cure(f"{sum(out):.3g} m of {like.size} back", (edit,))
    yield Finding("caution", title, reason, circuit.return_path, cure)


def _thin_pieces(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    """One short weak piece rules the whole path."""
    wires = [each for each in path(plan.vehicle, circuit) if isinstance(each.spec, Wire)]
    for before, piece, after in zip(wires, wires[1:], wires[2:], strict=False):
        guards = {_guard_id(plan, circuit, each) for each in (before, piece, after)}
        thinner = min(_area(before), _area(after))
        alike = plan.passing(before.id) == plan.passing(piece.id) == plan.passing(after.id)
        if len(guards) > 1 or not alike or _area(piece) > THIN_SHARE * thinner:
            continue
        spec, like = piece.spec, before if _area(before) < _area(after) else after
        assert isinstance(spec, Wire)
        assert isinstance(like.spec, Wire)
        leg = plan.profiles[circuit.id].leg(piece.id)
        title = f"{piece.designation} {spec.size} is a thin piece in a thick cable."
        stands = wire_ampacity(spec, plan.rules, plan.vehicle.zone_temperature_c).allowed_a
        reason = f"{_metres(spec)} take {leg.share:.0%} of the loss and stand {stands:.3g} A."
        change = ChangeSegment(segment_id=piece.id, change=size_change(spec, like.spec.size))
        yield Finding(
            "caution", title, reason, (piece.id,), Cure(f"{piece.designation} as {like.spec.size}", (change,))
        )


def _guard_id(plan: Planned, circuit: Circuit, segment: Segment) -> str:
    guard = guard_in_front(plan.vehicle, circuit, segment.id)
    return guard.id if guard else ""


def _area(segment: Segment) -> float:
    assert isinstance(segment.spec, Wire)
    return segment.spec.conductor.area_mm2


def _metres(spec: Wire) -> str:
    return f"{spec.length_m:.2g} m"


def _bypasses(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    """A new way beside one that was there: was the fault proven first?"""
    vehicle = plan.vehicle
    for fork in forks(vehicle, circuit, unswitched(vehicle)):
        added = [each for each in fork.segment_ids if vehicle.segments[each].origin == "new"]
        wires = [each for each in added if isinstance(vehicle.segments[each].spec, Wire)]
        stretch = _between(plan, circuit, fork.start_point, fork.end_point)
        if not wires or any(vehicle.segments[leg.segment_id].origin == "new" for leg in stretch):
            continue
        names = " and ".join(plan.name(each) for each in wires)
        beside = ", ".join(plan.name(leg.segment_id) for leg in stretch)
        title = f"{names} runs beside {beside}, which stays connected."
        reason = (
            "Prove the fault in the old way before running a bypass: a damaged wire may burn, and another in the "
            "same place may go next. Where it is bad, disconnect it."
        )
        stow = tuple(SetFate(segment_id=leg.segment_id, fate="stowed") for leg in stretch)
        takes_its_place = len(fork.segment_ids) == len(stretch) == 1
        cure = Cure(f"{beside} stowed", stow) if takes_its_place else None
        yield Finding("hint", title, reason, tuple(wires), cure)


def _between(plan: Planned, circuit: Circuit, start: str, end: str) -> list[Leg]:
    """The legs of a circuit from one of its stations to a later one."""
    legs = plan.profiles[circuit.id].legs
    first = next(place for place, leg in enumerate(legs) if leg.start_point == start)
    last = next(place for place, leg in enumerate(legs) if leg.end_point == end)
    return list(legs[first : last + 1])


def _hot_wires(plan: Planned) -> Iterator[Finding]:
    for segment, spec in plan.segments(Wire):
        ampacity = wire_ampacity(spec, plan.rules, plan.vehicle.zone_temperature_c)
        worst = plan.worst.continuous(segment.id)
        circuits = plan.passing(segment.id)
        cure = None
        if circuits:
            cure = Cure(f"size {circuits[0].name} anew", (ResizeCircuit(circuit_id=circuits[0].id),))
        if ampacity.allowed_a <= 0:
            continue  # the place is too hot for it: said of its insulation
        if worst.current_a > ampacity.allowed_a:
            title = f"{segment.designation} {spec.size} is too thin for {worst.current_a:.3g} A."
            where = f"In the state {worst.state} it carries them and by the {ampacity.ruling} stands"
            reason = f"{where} {ampacity.allowed_a:.3g} A there; its insulation would cook."
            yield Finding("error", title, reason, (segment.id,), cure)
        elif worst.current_a > ampacity.model_a > 0:
            title = f"{segment.designation} {spec.size} runs hotter than the table knows."
            air = plan.vehicle.zone_temperature_c[spec.zone]
            reason = (
                f"In {air:.0f} °C air it stands {ampacity.model_a:.3g} A by the thermal model and carries "
                f"{worst.current_a:.3g} A; the table allows {ampacity.table_a:.3g} A."
            )
            yield Finding("caution", title, reason, (segment.id,))


def _insulation(plan: Planned) -> Iterator[Finding]:
    for segment, spec in plan.segments(Wire):
        kind = family(spec.insulated_with)
        air = plan.vehicle.zone_temperature_c[spec.zone]
        cure = _insulated(segment, spec, air)
        if air >= kind.limit_c:
            title = f"{segment.designation}: {kind.name} does not stand the {spec.zone}."
            reason = f"It stands {kind.limit_c:g} °C and lies in {air:g} °C."
            yield Finding("error", title, reason, (segment.id,), cure)
        if kind.strands == "few" and spec.moves:
            title = f"{segment.designation}: {kind.name} on something that moves."
            reason = f"Never {kind.never}. It stands {kind.limit_c:g} °C besides."
            yield Finding("error", title, reason, (segment.id,), cure)
        elif kind.name == "building wire":
            title = f"{segment.designation} is building wire."
            reason = f"It is for {kind.use}: few strands break where anything shakes."
            yield Finding("caution", title, reason, (segment.id,), cure)
        elif spec.moves and kind.name in ("silicone", "fluoropolymer hook-up"):
            title = f"{segment.designation}: {kind.name} on something that moves."
            yield Finding("caution", title, f"Never {kind.never}.", (segment.id,), cure)
        elif kind.name == "shielded" and any(each.family in POWER for each in plan.passing(segment.id)):
            title = f"{segment.designation}: shielded lead as a power feed."
            yield Finding("caution", title, f"It is for {kind.use}.", (segment.id,), cure)
        elif kind.name == "welding cable" and spec.zone in HOT_ZONES:
            title = f"{segment.designation}: welding cable in the {spec.zone}."
            yield Finding("hint", title, f"Never {kind.never}.", (segment.id,), cure)


def _insulated(segment: Segment, spec: Wire, air_c: float) -> Cure | None:
    """Insulation that stands the place: the usual one if it does, else another that is made in that size."""
    area = find_size(spec.size).area_mm2
    others: tuple[Insulation, ...] = (usual_insulation(area), "silicone", "welding cable")
    for name in others:
        kind = family(name)
        if kind.limit_c > air_c and kind.is_made_in(area) and name != spec.insulated_with:
            change = ChangeSegment(segment_id=segment.id, change={"insulation": name})
            return Cure(f"{segment.designation} in {name}", (change,))
    return None


def _soldered_ends(plan: Planned) -> Iterator[Finding]:
    for segment, spec in plan.segments(Wire):
        if (spec.joined or plan.rules.joined) != "soldered" or not (spec.moves or spec.zone in HOT_ZONES):
            continue
        where = "moves" if spec.moves else f"lies in the {spec.zone}"
        title = f"{segment.designation} is only soldered and {where}."
        reason = "Strands break behind the solder where it shakes, and solder lets go in heat: crimp it."
        change = ChangeSegment(segment_id=segment.id, change={"joined": "crimped"})
        cure = Cure(f"{segment.designation} crimped", (change,))
        yield Finding("caution", title, reason, (segment.id,), cure)


def _lamp_on_the_wrong_tap(plan: Planned) -> Iterator[Finding]:
    """The charge-lamp lead on the tachometer tap: W gives pulses, not the way to ground that lights the lamp."""
    for device in plan.vehicle.devices.values():
        if not isinstance(device.spec, Alternator) or "W" not in device.terminals:
            continue
        tap = device.terminals["W"]
        for circuit in plan.vehicle.circuits.values():
            ends = _points(plan, circuit)
            lights = circuit.family == "exciter" or _is_lamp(plan, circuit)
            if lights and tap in ends and device.terminals.get("D+") not in ends:
                title = f"{circuit.name} ends on W of {device.name}, the tachometer tap."
                reason = "W gives pulses and no excitation: lamp and exciter belong on D+. Exchange the two leads."
                swapped = {"W": device.terminals["D+"], "D+": tap} if "D+" in device.terminals else {"D+": tap}
                edit = MoveTerminals(device_id=device.id, terminals=swapped)
                yield Finding(
                    "error",
                    title,
                    reason,
                    circuit.supply[-1:],
                    Cure("D+ and W exchanged", (edit,)),
                    (tap,),
                    (device.id,),
                )


def _points(plan: Planned, circuit: Circuit) -> set[str]:
    return {point for each in path(plan.vehicle, circuit) for point in (each.from_point, each.to_point)}


def _is_lamp(plan: Planned, circuit: Circuit) -> bool:
    device = plan.vehicle.devices.get(circuit.device_id or "")
    return device is not None and isinstance(device.spec, IndicatorLamp)
