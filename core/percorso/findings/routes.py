"""What is wrong with a route: over its target, without a way back, thin in one piece, bypassed, or on the wrong tap."""

from collections.abc import Iterator

from percorso.changes.edits import ChangeSegment, InsertSegment, MoveTerminals, ResizeCircuit, SetFate
from percorso.circuits.design_case import Planned
from percorso.circuits.parallel_paths import forks
from percorso.circuits.voltage_profile import Leg
from percorso.components.conductors import find_size
from percorso.findings.connections import bad_connection
from percorso.findings.finding import Finding, Remedy
from percorso.findings.rules import named
from percorso.sizing.ampacity import wire_ampacity
from percorso.sizing.ladders import ladders, size_change, wire_task
from percorso.sizing.protection_zones import guard_in_front, path
from percorso.sizing.wire_size import size_wire
from percorso.vehicle.devices import Alternator
from percorso.vehicle.loads import IndicatorLamp
from percorso.vehicle.model import Circuit, Segment
from percorso.vehicle.segments import Body, Connector, Splice, Wire

THIN_SHARE = 0.4  # of the area of both its neighbours: from there on down a piece is a thin splice in a thick cable
SAME_SIZE_SHARE = 0.85  # of the thicker one's area, from which on two sizes are neighbours of two series


LONG_M = 1.0  # of wire out, from where a way back without any length was forgotten


@named(
    "route-over-target",
    says="a circuit loses more than it may",
    when="at its design current its drop is over its target",
    source="house rules, targets by purpose; common practice",
    cure="the lightest size that cures it, its ends with it, or the route sized anew; a bad connection repaired first",
)
def over_target(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    """A circuit that loses more than it may, with the lightest change that cures it."""
    solved = plan.profiles[circuit.id]
    if solved.verdict.word != "fail":
        return
    worst = max(solved.legs, key=lambda leg: leg.drop_v)
    title = f"{circuit.name} {solved.verdict.reason}."
    reason = f"{plan.name(worst.segment_id)} alone takes {worst.share:.0%} of the loss."
    bad = bad_connection(plan.vehicle.segments[worst.segment_id])  # no thicker wire makes up for it
    yield Finding("error", title, reason, (worst.segment_id,), bad.cure if bad else _lightest_cure(plan, circuit))


def _lightest_cure(plan: Planned, circuit: Circuit) -> Remedy:
    """The one wire change that meets everything for the least copper, else the whole route anew."""
    vehicle, solved = plan.vehicle, plan.profiles[circuit.id]
    steps = ladders(plan, circuit, solved).values()
    wires = (each for each in steps if isinstance(vehicle.segments[each.segment_id].spec, Wire))
    fitting = [(each, rung) for each in wires if (rung := each.recommended) is not None and not rung.present]
    if not fitting:
        return _heavier_ends(plan, circuit) or Remedy(
            f"size {circuit.name} anew", (ResizeCircuit(circuit_id=circuit.id),)
        )
    ladder, rung = min(fitting, key=lambda pair: pair[1].extra_copper_kg)
    name = plan.name(ladder.segment_id)
    effect = f"{name} as {rung.label}: {rung.drop_v:.2f} V lost, {rung.extra_copper_kg * 1000:+.0f} g copper"
    return Remedy(effect, (ChangeSegment(segment_id=ladder.segment_id, change=dict(rung.change)),))


def _heavier_ends(plan: Planned, circuit: Circuit) -> Remedy | None:
    """The one wire that would bring a circuit within its target if its ends took a thicker one, and those ends."""
    solved = plan.profiles[circuit.id]
    found: list[tuple[float, Remedy]] = []
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
            found.append((wanted.copper_mass_kg, Remedy(effect, (*changes, change))))
    return min(found, key=lambda pair: pair[0])[1] if found else None


@named(
    "route-without-return",
    says="the return has no length",
    when="more than a metre of wire leads out and nothing but joints back",
    source="common practice",
    cure="as much wire back",
)
def forgotten_return(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    """A way back without any length."""
    out = [spec.length_m for each in circuit.supply if isinstance(spec := plan.vehicle.segments[each].spec, Wire)]
    back = [plan.vehicle.segments[each].spec for each in circuit.return_path]
    if sum(out) < LONG_M or any(isinstance(spec, Wire | Body) for spec in back):
        return
    title = f"The return of {circuit.name} has no length."
    reason = f"{sum(out):.3g} m lead out and nothing but joints back: current needs a wire or the body to return by."
    first = next(each for each in circuit.supply if isinstance(plan.vehicle.segments[each].spec, Wire))
    like = plan.vehicle.segments[first].spec
    assert isinstance(like, Wire)
    wire = {"kind": "wire", "size": like.size, "length_m": sum(out), "zone": like.zone}
    edit = InsertSegment(circuit_id=circuit.id, beside=circuit.return_path[0], after=False, spec=wire)
    cure = Remedy(f"{sum(out):.3g} m of {like.size} back", (edit,))
    yield Finding("caution", title, reason, circuit.return_path, cure)


@named(
    "thin-piece",
    says="a thin piece in a thick cable",
    when="a piece has less than two fifths of the area of both its neighbours behind the same guard",
    source="common practice",
    cure="the size of its thinner neighbour",
)
def thin_pieces(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
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
        reason = f"{_metres(spec)} take {leg.share:.0%} of the loss and are good for {stands:.3g} A."
        change = ChangeSegment(segment_id=piece.id, change=size_change(spec, like.spec.size))
        yield Finding(
            "caution", title, reason, (piece.id,), Remedy(f"{piece.designation} as {like.spec.size}", (change,))
        )


@named(
    "two-sizes",
    says="one run of two sizes",
    when="wires joined by a splice or a plug differ in size, though what flows does not change there",
    source="common practice",
    cure="the thinner one as thick as the other",
)
def two_sizes(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    """Two sizes in one run: the thinner rules, and the thicker is copper for nothing."""
    pieces = path(plan.vehicle, circuit)
    for before, joint, after in zip(pieces, pieces[1:], pieces[2:], strict=False):
        if not (isinstance(joint.spec, Splice | Connector) and isinstance(before.spec, Wire)):
            continue
        passing = plan.passing(before.id)
        if not isinstance(after.spec, Wire) or passing != plan.passing(after.id) or passing[0].id != circuit.id:
            continue
        thin, thick = sorted((before, after), key=_area)
        if not THIN_SHARE < _area(thin) / _area(thick) < SAME_SIZE_SHARE:
            continue
        assert isinstance(thin.spec, Wire)
        assert isinstance(thick.spec, Wire)
        title = f"{thin.designation} {thin.spec.size} and {thick.designation} {thick.spec.size} are one run."
        reason = f"They meet in {joint.designation}, where what flows does not change: the thinner one rules."
        change = ChangeSegment(segment_id=thin.id, change=size_change(thin.spec, thick.spec.size))
        cure = Remedy(f"{thin.designation} as {thick.spec.size}", (change,))
        yield Finding("hint", title, reason, (thin.id, thick.id), cure)


def _guard_id(plan: Planned, circuit: Circuit, segment: Segment) -> str:
    guard = guard_in_front(plan.vehicle, circuit, segment.id)
    return guard.id if guard else ""


def _area(segment: Segment) -> float:
    assert isinstance(segment.spec, Wire)
    return segment.spec.conductor.area_mm2


def _metres(spec: Wire) -> str:
    return f"{spec.length_m:.2g} m"


@named(
    "bypass-unproven",
    says="a new way runs beside an old one that stays connected",
    when="new wire leads past pieces that were there",
    source="common practice",
    cure="the old piece stowed",
)
def bypasses(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    """A new way beside one that was there: was the fault proven first?"""
    vehicle = plan.vehicle
    for fork in forks(vehicle, circuit, vehicle.unswitched):
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
        cure = Remedy(f"{beside} stowed", stow) if takes_its_place else None
        yield Finding("hint", title, reason, tuple(wires), cure)


def _between(plan: Planned, circuit: Circuit, start: str, end: str) -> list[Leg]:
    """The legs of a circuit from one of its stations to a later one."""
    legs = plan.profiles[circuit.id].legs
    first = next(place for place, leg in enumerate(legs) if leg.start_point == start)
    last = next(place for place, leg in enumerate(legs) if leg.end_point == end)
    return list(legs[first : last + 1])


@named(
    "lamp-on-w",
    says="a charge lamp or exciter ends on the tachometer tap",
    when="a lamp's circuit touches W and not D+",
    source="DIN 72552 terminal marks, from memory",
    cure="D+ and W exchanged",
)
def lamp_on_the_wrong_tap(plan: Planned) -> Iterator[Finding]:
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
                    Remedy("D+ and W exchanged", (edit,)),
                    (tap,),
                    (device.id,),
                )


def _points(plan: Planned, circuit: Circuit) -> set[str]:
    return {point for each in path(plan.vehicle, circuit) for point in (each.from_point, each.to_point)}


def _is_lamp(plan: Planned, circuit: Circuit) -> bool:
    device = plan.vehicle.devices.get(circuit.device_id or "")
    return device is not None and isinstance(device.spec, IndicatorLamp)
