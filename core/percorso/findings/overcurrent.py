"""The rules a fuse, link or breaker must keep, each with its figure, and what is noticed where one is broken."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from percorso.changes.edits import ChangeSegment, InsertSegment, MoveSegment, ResizeCircuit
from percorso.circuits.design_case import Planned
from percorso.circuits.voltage_profile import NOTHING_A
from percorso.components.conductors import find_size
from percorso.components.fuses import (
    CLEARS_WITHIN_S,
    FAMILIES,
    LONGEST_LINK_M,
    choose_fuse,
    clearing_share,
    fuse_ratings_a,
    holds,
    let_through_a2s,
    link_clears_at_a,
    link_for,
    lowest_rating_a,
    opens_between_s,
)
from percorso.components.thermal import melting_current_a, withstand_a2s
from percorso.findings.finding import Finding, Remedy, Severity
from percorso.findings.guards import CLOSE, GUARDS, PROTECTS, SELECTIVE, SELECTIVE_RATIO, SURVIVES
from percorso.findings.rules import named
from percorso.sizing.ampacity import copper_c
from percorso.sizing.protection_zones import (
    Guarding,
    alternator_through_a,
    flowing_a,
    guard_in_front,
    guard_kind,
    guard_order,
    guard_rating_a,
    guarded_wires,
    inrush_through,
    load_of_guard_a,
    path,
    short_loop_ohm,
    thinnest_behind_a,
)
from percorso.vehicle.devices import Starter
from percorso.vehicle.model import Circuit, Segment
from percorso.vehicle.segments import Breaker, Fuse, FusibleLink, Wire

LINK_M = 0.15  # a fusible link as it is usually made, common practice
EVEN = 1 - 1e-9


@dataclass(frozen=True)
class GuardCheck:
    """One rule of a guard: whether it holds, the figure that says so, and how grave it is where it does not."""

    rule: str
    holds: bool
    figure: str
    severity: Severity
    said: str  # what to say where it does not hold
    cure: Remedy | None = None  # where another rating or size is not what mends it


def guard_checks(plan: Planned, circuit: Circuit, guard: Segment) -> tuple[GuardCheck, ...]:
    """Every rule for a guard on a circuit's supply side, in the order a fuse is chosen."""
    spec, asked = guard.spec, (circuit.id, guard.id)
    assert isinstance(spec, Guarding)
    if asked not in plan.checked:
        rules = (_carries, _carries_alternator, _holds_start, _protects, _opens_on_short, _survives, _close, _selective)
        plan.checked[asked] = tuple(check for rule in rules for check in rule(plan, circuit, guard, spec))
    found: tuple[GuardCheck, ...] = plan.checked[asked]
    return found


def guard_findings(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    """What is wrong with the guards of a circuit, and with what has none."""
    for segment in path(plan.vehicle, circuit):
        if isinstance(segment.spec, Guarding) and segment.id in circuit.supply:
            for check in _broken(guard_checks(plan, circuit, segment)):
                cure = check.cure or (None if check.rule == SELECTIVE else _better(plan, circuit, segment))
                reason = f"{check.figure[0].upper()}{check.figure[1:]}."
                yield Finding(check.severity, check.said, reason, (segment.id,), cure, rule=GUARDS[check.rule].id)
    yield from _missing_guard(plan, circuit)
    yield from _bare_lead(plan, circuit)


def _broken(checks: tuple[GuardCheck, ...]) -> list[GuardCheck]:
    """The rules to speak of: a wire its guard does not protect is not said to be harmed too, a bare lead said once."""
    broken = [check for check in checks if not check.holds and check.rule != CLOSE]
    if any(check.rule == PROTECTS for check in broken):
        return [check for check in broken if check.rule != SURVIVES]
    return broken


def _guard_text(guard: Segment) -> str:
    spec = guard.spec
    if isinstance(spec, Fuse | Breaker):
        return f"{guard.designation} {spec.rating_a:g} A"
    return f"{guard.designation}, a {spec.size} link," if isinstance(spec, FusibleLink) else guard.designation


def _better(plan: Planned, circuit: Circuit, guard: Segment) -> Remedy:
    """Another rating where one does everything, else the whole route anew."""
    spec = guard.spec
    if isinstance(spec, Fuse | Breaker):
        load_a = load_of_guard_a(plan.vehicle, plan.worst, guard.id, plan.rules)
        stands = thinnest_behind_a(plan.vehicle, circuit, guard.id, plan.rules)
        family = spec.family if isinstance(spec, Fuse) else None
        inrush = inrush_through(plan.vehicle, guard.id)
        rating = choose_fuse(load_a, stands or float("inf"), plan.rules, family, inrush).rating_a
        if rating is not None and rating != spec.rating_a:
            change = ChangeSegment(segment_id=guard.id, change={"rating_a": rating})
            return Remedy(f"{guard.designation} as {rating:g} A", (change,))
    return Remedy(f"size {circuit.name} anew", (ResizeCircuit(circuit_id=circuit.id),))


def _carries(plan: Planned, circuit: Circuit, guard: Segment, spec: Guarding) -> Iterator[GuardCheck]:
    load_a, rating = flowing_a(plan.vehicle, plan.worst, guard.id, plan.rules), guard_rating_a(spec)
    if load_a < NOTHING_A and alternator_through_a(plan.vehicle, guard.id):
        return
    asked = load_a if isinstance(spec, FusibleLink) else lowest_rating_a(load_a, plan.rules)
    figure = f"{load_a:.3g} A need {asked:.3g} A; it has {rating:.3g} A"
    said = f"{_guard_text(guard)} is too small for {load_a:.3g} A."
    yield GuardCheck("carries the load", rating >= asked * EVEN, figure, "error", said)


def _carries_alternator(plan: Planned, circuit: Circuit, guard: Segment, spec: Guarding) -> Iterator[GuardCheck]:
    makes, rating = alternator_through_a(plan.vehicle, guard.id), guard_rating_a(spec)
    if makes:
        figure = f"the alternator makes up to {makes:.3g} A; it has {rating:.3g} A"
        said = f"{_guard_text(guard)} is smaller than what the alternator can make."
        yield GuardCheck("carries the alternator", rating >= makes * EVEN, figure, "error", said)


def _holds_start(plan: Planned, circuit: Circuit, guard: Segment, spec: Guarding) -> Iterator[GuardCheck]:
    inrush = inrush_through(plan.vehicle, guard.id)
    if inrush is None or isinstance(spec, FusibleLink):
        return
    kind = guard_kind(spec)
    earliest = opens_between_s(spec.rating_a, inrush.current_a, kind).earliest_s
    figure = (
        f"{inrush.current_a:.3g} A for {inrush.equivalent_s * 1000:.3g} ms; it may open after {earliest * 1000:.3g} ms"
    )
    said = f"{_guard_text(guard)} may open when its load starts."
    held = holds(spec.rating_a, inrush, kind)
    yield GuardCheck("holds the start", held, figure, "caution", said)


def _protects(plan: Planned, circuit: Circuit, guard: Segment, spec: Guarding) -> Iterator[GuardCheck]:
    if isinstance(spec, FusibleLink):
        yield from _link_fits(plan, circuit, guard, spec)
        return
    stands = thinnest_behind_a(plan.vehicle, circuit, guard.id, plan.rules)
    if stands is not None:
        figure = f"the thinnest wire behind it is good for {stands:.3g} A"
        said = f"{_guard_text(guard)} does not protect the wire behind it."
        yield GuardCheck(PROTECTS, spec.rating_a <= stands, figure, "error", said)


def _link_fits(plan: Planned, circuit: Circuit, guard: Segment, spec: FusibleLink) -> Iterator[GuardCheck]:
    wires = guarded_wires(plan.vehicle, circuit, guard.id)
    if not wires:
        return
    thinnest = min((find_size(wire.size) for _, wire in wires), key=lambda size: size.area_mm2)
    fits = link_for(thinnest)
    figure = f"{thinnest.name} takes a link of {fits.name if fits else 'no size that is made'}"
    said = f"{_guard_text(guard)} is too thick for the {thinnest.name} behind it."
    cure = None
    if fits is not None:
        change = ChangeSegment(segment_id=guard.id, change={"size": fits.name})
        cure = Remedy(f"{guard.designation} as {fits.name}", (change,))
    thin_enough = fits is not None and find_size(spec.size).area_mm2 <= fits.area_mm2 * (1 + 1e-6)
    yield GuardCheck(PROTECTS, thin_enough, figure, "error", said, cure)
    change = ChangeSegment(segment_id=guard.id, change={"length_m": LINK_M})
    shorter = Remedy(f"{guard.designation} as {LINK_M * 1000:.0f} mm", (change,))
    figure = f"{spec.length_m * 1000:.0f} mm; a link is {LONGEST_LINK_M * 1000:.0f} mm at most"
    said = f"{_guard_text(guard)} is too long."
    short = spec.length_m <= LONGEST_LINK_M
    yield GuardCheck("is short", short, figure, "caution", said, shorter)


def _short_circuit_a(plan: Planned, circuit: Circuit) -> float:
    """What flows into a dead short at the device, A, from a battery at its nominal voltage."""
    return plan.vehicle.nominal_v / short_loop_ohm(plan.vehicle, plan.profiles[circuit.id].legs)


def _opens_on_short(plan: Planned, circuit: Circuit, guard: Segment, spec: Guarding) -> Iterator[GuardCheck]:
    if guard_in_front(plan.vehicle, circuit, guard_order(plan.vehicle, circuit)[-1].id) != guard:
        return  # the smallest opens first, wherever it stands
    flows = _short_circuit_a(plan, circuit)
    asks = link_clears_at_a(find_size(spec.size)) if isinstance(spec, FusibleLink) else _clears_a(spec)
    harmless = (stands := thinnest_behind_a(plan.vehicle, circuit, guard.id, plan.rules)) is None or flows <= stands
    figure = f"{flows:.0f} A flow into a short at {circuit.device}; {asks:.0f} A open it within {CLEARS_WITHIN_S:g} s"
    if harmless and flows < asks:
        figure = f"{flows:.3g} A flow into a short at {circuit.device}, which the wires are good for"
    said = f"{_guard_text(guard)} would not open in time on a short at {circuit.device}."
    yield GuardCheck("opens on a short at the far end", harmless or flows >= asks, figure, "error", said)


def _clears_a(spec: Fuse | Breaker) -> float:
    return spec.rating_a * clearing_share(guard_kind(spec))


def _survives(plan: Planned, circuit: Circuit, guard: Segment, spec: Guarding) -> Iterator[GuardCheck]:
    """The heat that passes before it opens, against what the thinnest wire behind it takes up (IEC 60364-4-43)."""
    wires = guarded_wires(plan.vehicle, circuit, guard.id)
    flows = _short_circuit_a(plan, circuit)
    if not wires:
        return
    if isinstance(spec, FusibleLink):
        passes = float(melting_current_a(find_size(spec.size), 1.0)) ** 2
    elif flows < _clears_a(spec):
        return
    else:
        passes = let_through_a2s(spec.rating_a, flows, guard_kind(spec))
    stands, weakest = min((_withstand_a2s(plan, each, wire), each.designation) for each, wire in wires)
    figure = f"{weakest} is good for {_heat(stands)}, {_heat(passes)} pass"
    said = f"{weakest} is harmed before {_guard_text(guard)} opens."
    yield GuardCheck(SURVIVES, passes <= stands, figure, "error", said)


def _withstand_a2s(plan: Planned, segment: Segment, wire: Wire) -> float:
    """Heat per ohm that a wire stands in a short circuit as warm as its lasting current keeps it, A²·s."""
    air, current = plan.vehicle.zone_temperature_c[wire.zone], round(plan.worst.continuous(segment.id).current_a, 1)
    return float(withstand_a2s(wire.cable, copper_c(wire.cable, current, air, wire.bundle)))


def _heat(a2s: float) -> str:
    return f"{a2s:,.0f} A²s".replace(",", " ")


def _selective(plan: Planned, circuit: Circuit, guard: Segment, spec: Guarding) -> Iterator[GuardCheck]:
    order = [each for each in guard_order(plan.vehicle, circuit) if isinstance(each.spec, Guarding)]
    before = order[order.index(guard) - 1] if order.index(guard) else None
    if before is None or circuit.family == "charging":
        return
    assert isinstance(before.spec, Guarding)
    ratio = guard_rating_a(before.spec) / guard_rating_a(spec)
    has = "the same rating" if f"{ratio:.2g}" == "1" else f"{ratio:.2g} times its rating"
    figure = f"{before.designation} in front has {has}; {SELECTIVE_RATIO} times keeps them apart"
    said = f"{before.designation} may open before {guard.designation} does."
    holds_apart = ratio >= SELECTIVE_RATIO * EVEN
    cure = None
    if not holds_apart:
        cure = _bigger_in_front(plan, circuit, before, SELECTIVE_RATIO * guard_rating_a(spec))
    yield GuardCheck(SELECTIVE, holds_apart, figure, "hint", said, cure)


def _bigger_in_front(plan: Planned, circuit: Circuit, before: Segment, asked_a: float) -> Remedy | None:
    """The next rating of the fuse in front that keeps the two apart, where its wires stand it."""
    if not isinstance(before.spec, Fuse):
        return None
    stands = thinnest_behind_a(plan.vehicle, circuit, before.id, plan.rules)
    ratings = (each for each in fuse_ratings_a(before.spec.family) if each >= asked_a * EVEN)
    rating = next(ratings, None)
    if rating is None or (stands is not None and rating > stands):
        return None
    change = ChangeSegment(segment_id=before.id, change={"rating_a": rating})
    return Remedy(f"{before.designation} as {rating:g} A", (change,))


@named(
    "guard-missing",
    says="nothing protects a circuit",
    when="no fuse, link or breaker lies on its supply side",
    source="common practice",
    cure="a fuse of the rating its load needs",
)
def _missing_guard(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    if circuit.family not in ("feed", "charging") or not circuit.supply:
        return
    supply = [plan.vehicle.segments[each] for each in circuit.supply]
    if any(isinstance(each.spec, Guarding) for each in supply):
        return
    title = f"Nothing protects {circuit.name}."
    reason = "A short anywhere on its supply side meets the full battery: put a fuse close to the source."
    # The battery is the strong source: of a charging circuit it stands at the far end.
    at_end = circuit.family == "charging"
    beside = next((each for each in (supply[::-1] if at_end else supply) if _is_bare(plan, each)), supply[0])
    yield Finding("caution", title, reason, (beside.id,), _new_fuse(plan, circuit, beside, after=at_end))


@named(
    "guard-too-far",
    says="wire leads on from the battery without a fuse",
    when="more of it than the house allows lies before the first guard",
    source="common practice, a house rule",
    cure="the fuse moved, or a new one",
)
def _bare_lead(plan: Planned, circuit: Circuit) -> Iterator[Finding]:
    """Wire between a source and the first guard: of a charging circuit at its battery end, the strong source."""
    at_end = circuit.family == "charging"
    supply = [plan.vehicle.segments[each] for each in (circuit.supply[::-1] if at_end else circuit.supply)]
    first = next((each for each in supply if isinstance(each.spec, Guarding)), None)
    if first is None:
        return
    bare = [each for each in supply[: supply.index(first)] if _is_bare(plan, each)]
    length = _length_m(bare)
    if length <= plan.rules.source_fuse_within_m * (1 + 1e-9):
        return
    names = " and ".join(each.designation for each in bare)
    most = f"{plan.rules.source_fuse_within_m * 1000:.0f} mm"
    title = f"{names} leads {length:.2g} m from the battery without a fuse or link."
    reason = f"A short there meets the full battery: fit its fuse within {most} of the source."
    if at_end:
        reason = f"Both ends of {circuit.name} are sources. {reason}"
    alone = all(plan.passing(each.id) == [circuit] for each in bare) and not at_end
    cure = _moved(circuit, first, bare[0], supply) if alone else _new_fuse(plan, circuit, bare[0], after=at_end)
    yield Finding("caution", title, reason, tuple(each.id for each in bare), cure)


def _is_bare(plan: Planned, segment: Segment) -> bool:
    """Whether a segment is wire that should be guarded: nobody fuses a starter's own cables."""
    studs = {each.terminals["30"] for each in plan.vehicle.devices.values() if isinstance(each.spec, Starter)}
    starts = any(each.family == "starting" and segment.id in each.supply for each in plan.vehicle.circuits.values())
    return isinstance(segment.spec, Wire) and not starts and not studs & {segment.from_point, segment.to_point}


def _length_m(pieces: Iterable[Segment]) -> float:
    return sum(each.spec.length_m for each in pieces if isinstance(each.spec, Wire))


def _close(plan: Planned, circuit: Circuit, guard: Segment, spec: Guarding) -> Iterator[GuardCheck]:
    """How much bare wire lies before the first guard; what to say of it is said once, by ``_bare_lead``."""
    order = [each for each in guard_order(plan.vehicle, circuit) if each.id in circuit.supply]
    first = next(each for each in order if isinstance(each.spec, Guarding))
    if first.id == guard.id:
        length = _length_m(each for each in order[: order.index(guard)] if _is_bare(plan, each))
        most = plan.rules.source_fuse_within_m
        figure = f"{length * 1000:.0f} mm of wire before it; at most {most * 1000:.0f} mm"
        yield GuardCheck(CLOSE, length <= most * (1 + 1e-9), figure, "caution", "")


def _moved(circuit: Circuit, guard: Segment, before: Segment, supply: list[Segment]) -> Remedy:
    steps = supply.index(before) - supply.index(guard)
    edit = MoveSegment(circuit_id=circuit.id, segment_id=guard.id, steps=steps)
    return Remedy(f"{guard.designation} moved before {before.designation}", (edit,))


def _new_fuse(plan: Planned, circuit: Circuit, beside: Segment, *, after: bool) -> Remedy | None:
    """A fuse inserted next to a segment, of the rating its load needs."""
    load_a = load_of_guard_a(plan.vehicle, plan.worst, beside.id, plan.rules)
    for family in FAMILIES:
        rating = choose_fuse(load_a, float("inf"), plan.rules, family, inrush_through(plan.vehicle, beside.id)).rating_a
        if rating is not None:
            spec = {"kind": "fuse", "rating_a": rating, "family": family}
            where = "after" if after else "before"
            edit = InsertSegment(circuit_id=circuit.id, beside=beside.id, after=after, spec=spec)
            return Remedy(f"a {rating:g} A {family} fuse {where} {beside.designation}", (edit,))
    return None
