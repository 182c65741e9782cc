"""What is cut and what is bought for a job."""

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import assert_never

from percorso.components.conductors import find_size
from percorso.sheets.sheet import Column, Sheet, metres
from percorso.sheets.wires import WireRow
from percorso.sheets.words import is_new
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.model import Segment, Vehicle
from percorso.vehicle.segments import (
    Body,
    Breaker,
    Connector,
    Diode,
    Fuse,
    FusibleLink,
    Joint,
    RelayContact,
    Resistor,
    SensorSwitch,
    Shunt,
    Splice,
    Switch,
    Wire,
    describe,
)

SHRINK_EACH_M = 0.04  # of heat-shrink on one end


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


CUTS = Sheet(
    "cuts",
    "Cut list",
    "Nothing new to cut.",
    CutRow,
    (
        Column("size", lambda row: row.size),
        Column("colour", lambda row: row.colour),
        Column("insulation", lambda row: row.insulation),
        Column("pieces", lambda row: row.pieces),
        Column("count", lambda row: str(row.count), is_figure=True),
        Column("total", lambda row: metres(row.total_m), is_figure=True),
    ),
)
SHOPPING = Sheet(
    "shopping",
    "Shopping list",
    "Nothing to buy.",
    ShoppingRow,
    (
        Column("item", lambda row: row.item),
        Column("detail", lambda row: row.detail),
        Column("quantity", lambda row: f"{row.quantity:g} {row.unit}", is_figure=True),
    ),
)


def cut_rows(rows: Iterable[WireRow]) -> list[CutRow]:
    """Pieces of wire that are cut alike, longest first."""
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


def shopping_rows(vehicle: Vehicle, rows: Sequence[WireRow]) -> Iterable[ShoppingRow]:
    """What is bought, with how much of it."""
    for cut in cut_rows(rows):
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
    ready_made = (_bought(each) for each in vehicle.segments.values() if is_new(each))
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
        case (Switch() | SensorSwitch() | Connector() | Splice() | Diode() | Resistor() | Shunt()) as ready:
            return ready.kind, describe(ready)
    assert_never(segment.spec)
