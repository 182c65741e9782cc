"""What the harness is built from: wire schedule, cut list, shopping list, fuse and relay chart, labels."""

import math
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from percorso.circuits.worst_currents import Flows
from percorso.components.conductors import ConductorSize, find_size, made_to, stocked_sizes
from percorso.house_rules import HouseRules
from percorso.sheets.terminations import heat_shrink, sleeve, termination
from percorso.sizing.protection_zones import guarded_wires
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.model import Circuit, Segment, Vehicle, in_order, passing
from percorso.vehicle.segments import (
    Body,
    Breaker,
    Fuse,
    FusibleLink,
    Joint,
    RelayContact,
    Wire,
    describe,
    is_switched,
)
from percorso.vehicle.states import State

CUT_TO_M = 0.05  # wires are cut to the next five centimetres
SHRINK_EACH_M = 0.04  # of heat-shrink on one end


@dataclass(frozen=True)
class WireRow:
    """One wire of the schedule."""

    wire: str
    from_point: str
    to_point: str
    size: str
    other_system: str
    made_to: str
    colour: str
    insulation: str
    length_m: float
    cut_m: float
    from_end: str
    to_end: str
    joined: str
    heat_shrink: str
    sleeve: str
    status: str
    circuits: str


@dataclass(frozen=True)
class CutRow:
    """Pieces of one kind of wire to be cut, the longest first."""

    size: str
    colour: str
    insulation: str
    pieces: str
    count: int
    total_m: float


@dataclass(frozen=True)
class ShoppingRow:
    """One thing to buy."""

    item: str
    detail: str
    quantity: float
    unit: str


@dataclass(frozen=True)
class FuseRow:
    """One fuse, link or breaker of the chart."""

    fuse: str
    rating: str
    kind: str
    place: str
    load_a: float  # the most, in whatever state
    load_state: State | None
    protects: str
    circuits: str
    status: str


@dataclass(frozen=True)
class RelayRow:
    """One relay of the chart: its coil and the contacts it moves."""

    relay: str
    name: str
    coil_ohm: float
    suppression: str
    contacts: str
    switches: str
    triggered_by: str
    driven: str
    status: str


@dataclass(frozen=True)
class LabelRow:
    """One label: what it says and which end it goes on."""

    wire: str
    end: str
    text: str


@dataclass(frozen=True)
class Sheets:
    """Every sheet of a job."""

    wires: tuple[WireRow, ...]
    cuts: tuple[CutRow, ...]
    shopping: tuple[ShoppingRow, ...]
    fuses: tuple[FuseRow, ...]
    relays: tuple[RelayRow, ...]
    labels: tuple[LabelRow, ...]


def sheets(vehicle: Vehicle, worst: Flows, rules: HouseRules) -> Sheets:
    """The sheets of a job, old and new pieces together; what is bought and cut is what is new and stays."""
    wires = [(each, each.spec) for each in in_order(vehicle.segments.values()) if isinstance(each.spec, Wire)]
    new = [(segment, spec) for segment, spec in wires if _is_new(segment)]
    rows = {segment.id: _wire_row(vehicle, segment, spec, rules) for segment, spec in wires}
    built = [rows[segment.id] for segment, _ in new]
    return Sheets(
        wires=tuple(rows.values()),
        cuts=tuple(_cuts(built)),
        shopping=tuple(_shopping(vehicle, built)),
        fuses=tuple(_fuse_rows(vehicle, worst, rules)),
        relays=tuple(_relay_rows(vehicle)),
        labels=tuple(_labels(built)),
    )


def cut_length_m(length_m: float, rules: HouseRules) -> float:
    """What to cut for a wire of that length, m: with the house's slack, up to the next five centimetres."""
    with_slack = length_m * (1 + rules.slack_fraction) + rules.slack_m
    return round(math.ceil(with_slack / CUT_TO_M - 1e-9) * CUT_TO_M, 2)


def other_system(size: ConductorSize) -> str:
    """The same size in the other system: an AWG size's area, or the AWG number nearest to an area."""
    if size.series == "awg":
        return f"{size.area_mm2:.3g} mm²"
    nearest = min(stocked_sizes("awg"), key=lambda each: abs(math.log(each.area_mm2 / size.area_mm2)))
    return f"≈ {nearest.name}"


def _is_new(segment: Segment) -> bool:
    return segment.origin == "new" and segment.fate == "kept"


def _status(segment: Segment) -> str:
    if segment.fate != "kept":
        return segment.fate
    return "new" if segment.origin == "new" else "existing"


def _names(circuits: Iterable[Circuit]) -> str:
    return ", ".join(each.name for each in circuits)


def _wire_row(vehicle: Vehicle, segment: Segment, spec: Wire, rules: HouseRules) -> WireRow:
    size = find_size(spec.size)
    return WireRow(
        wire=segment.designation,
        from_point=vehicle.points[segment.from_point].name,
        to_point=vehicle.points[segment.to_point].name,
        size=size.name,
        other_system=other_system(spec.conductor),
        made_to=made_to(spec.conductor),
        colour=spec.colour or "",
        insulation=spec.insulated_with,
        length_m=spec.length_m,
        cut_m=cut_length_m(spec.length_m, rules),
        from_end=termination(vehicle, segment, spec, segment.from_point).text,
        to_end=termination(vehicle, segment, spec, segment.to_point).text,
        joined=spec.joined or rules.joined,
        heat_shrink=heat_shrink(spec),
        sleeve=sleeve(spec.zone),
        status=_status(segment),
        circuits=_names(passing(vehicle, segment.id)),
    )


def _cuts(rows: Iterable[WireRow]) -> list[CutRow]:
    groups: dict[tuple[str, str, str], list[WireRow]] = defaultdict(list)
    for row in rows:
        groups[row.size, row.colour, row.insulation].append(row)
    return [
        CutRow(
            *kind,
            pieces=", ".join(f"{row.wire} {row.cut_m:g} m" for row in sorted(group, key=lambda row: -row.cut_m)),
            count=len(group),
            total_m=round(sum(row.cut_m for row in group), 2),
        )
        for kind, group in sorted(groups.items(), key=lambda pair: (find_size(pair[0][0]).area_mm2, pair[0]))
    ]


def _shopping(vehicle: Vehicle, rows: Sequence[WireRow]) -> Iterable[ShoppingRow]:
    for cut in _cuts(rows):
        detail = ", ".join(text for text in (cut.insulation, cut.colour) if text)
        yield ShoppingRow(f"wire {cut.size}", detail, cut.total_m, "m")
    ends = Counter((end, row.size) for row in rows for end in (row.from_end, row.to_end))
    for (end, size), count in sorted(ends.items()):
        yield ShoppingRow(end, f"for {size}", count, _pieces(count))
    shrink = Counter(row.heat_shrink for row in rows)
    for kind, count in sorted(shrink.items()):
        yield ShoppingRow("heat-shrink", kind, round(2 * count * SHRINK_EACH_M, 2), "m")
    loom: dict[str, float] = defaultdict(float)
    for row in rows:
        loom[row.sleeve] += row.length_m
    for kind, length in sorted(loom.items()):
        yield ShoppingRow("sleeve", kind, round(length, 2), "m")
    ready_made = (_bought(each) for each in vehicle.segments.values() if _is_new(each))
    parts = Counter(each for each in ready_made if each)
    coils = [each for each in vehicle.devices.values() if each.origin == "new" and isinstance(each.spec, RelayCoil)]
    if coils:
        parts["relay", f"coil for {vehicle.nominal_v:g} V, with base"] += len(coils)
    for (item, detail), count in sorted(parts.items()):
        yield ShoppingRow(item, detail, count, _pieces(count))


def _pieces(count: int) -> str:
    return "piece" if count == 1 else "pieces"


def _bought(segment: Segment) -> tuple[str, str] | None:
    """(item, detail) of a piece that is bought ready-made; None for wire, metal, and what comes with its relay."""
    match segment.spec:
        case Fuse(rating_a=rating, family=family):
            return f"fuse {rating:g} A", f"{family}, with holder"
        case FusibleLink(size=size, length_m=length):
            return f"fusible link {size}", f"{length * 1000:.0f} mm"
        case Breaker(rating_a=rating):
            return f"breaker {rating:g} A", ""
        case Wire() | RelayContact() | Body() | Joint():
            return None
        case other:
            return other.kind, describe(other)


def _fuse_rows(vehicle: Vehicle, worst: Flows, rules: HouseRules) -> Iterable[FuseRow]:
    for segment in in_order(vehicle.segments.values()):
        spec = segment.spec
        if not isinstance(spec, Fuse | FusibleLink | Breaker):
            continue
        circuits = passing(vehicle, segment.id)
        wires = {
            wire.designation: None
            for each in circuits
            for wire, _ in guarded_wires(vehicle, each, segment.id)
            if wire.id in each.supply
        }
        kind = spec.family if isinstance(spec, Fuse) else spec.kind
        most = worst.most(segment.id)
        load_a = round(most.current_a, 3)
        yield FuseRow(
            fuse=segment.designation,
            rating=spec.size if isinstance(spec, FusibleLink) else f"{spec.rating_a:g} A",
            kind=kind,
            place=f"{vehicle.points[segment.from_point].name} → {vehicle.points[segment.to_point].name}",
            load_a=load_a,
            load_state=most.state if load_a else None,
            protects=", ".join(wires),
            circuits=_names(circuits),
            status=_status(segment),
        )


def _relay_rows(vehicle: Vehicle) -> Iterable[RelayRow]:
    for coil in in_order(vehicle.devices.values()):
        spec = coil.spec
        if not isinstance(spec, RelayCoil):
            continue
        contacts = [
            (each, each.spec)
            for each in vehicle.segments.values()
            if isinstance(each.spec, RelayContact) and each.spec.coil == coil.id
        ]
        triggers = [each for each in vehicle.circuits.values() if each.device_id == coil.id]
        switched = {each.name: None for contact, _ in contacts for each in passing(vehicle, contact.id)}
        yield RelayRow(
            relay=coil.designation,
            name=coil.name,
            coil_ohm=spec.resistance_ohm,
            suppression=spec.suppression,
            contacts=", ".join(_contact(vehicle, segment, contact) for segment, contact in contacts),
            switches=", ".join(switched),
            triggered_by=_names(triggers),
            driven=", ".join({_driven(vehicle, each): None for each in triggers}),
            status=coil.fate if coil.fate != "kept" else "new" if coil.origin == "new" else "existing",
        )


def _driven(vehicle: Vehicle, trigger: Circuit) -> str:
    """Which side of a coil is switched: plus (high side), minus (low side), or neither."""
    switched = [
        side
        for side, path in (("plus side", trigger.supply), ("minus side", trigger.return_path))
        if any(is_switched(vehicle.segments[each].spec) for each in path)
    ]
    return " and ".join(switched) or "not switched"


def _contact(vehicle: Vehicle, segment: Segment, spec: RelayContact) -> str:
    marks = "30-87" if spec.form == "NO" else "30-87a"
    rated = f" {spec.rated_a:g} A" if spec.rated_a else ""
    ends = " → ".join(vehicle.points[each].name for each in (segment.from_point, segment.to_point))
    return f"{marks}{rated} ({ends})"


def _labels(rows: Iterable[WireRow]) -> Iterable[LabelRow]:
    """Two for each new wire: what it is and where it leads from here."""
    for row in rows:
        look = " ".join(text for text in (row.size, row.colour) if text)
        yield LabelRow(row.wire, row.from_point, f"{row.wire}  {look}  to {row.to_point}")
        yield LabelRow(row.wire, row.to_point, f"{row.wire}  {look}  to {row.from_point}")
