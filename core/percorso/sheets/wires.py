"""The wire schedule: every wire with its ends, its cut length and what is put around it."""

import math
from dataclasses import dataclass

from percorso.components.conductors import ConductorSize, find_size, made_to, stocked_sizes
from percorso.house_rules import HouseRules
from percorso.sheets.sheet import Column, Sheet, metres
from percorso.sheets.terminations import heat_shrink, sleeve, termination
from percorso.sheets.words import names, status
from percorso.vehicle.model import Segment, Vehicle, passing
from percorso.vehicle.segments import Wire

CUT_TO_M = 0.05  # wires are cut to the next five centimetres


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


WIRES = Sheet(
    "wires",
    "Wire schedule",
    "No wires yet.",
    WireRow,
    (
        Column("wire", lambda row: row.wire),
        Column("from", lambda row: row.from_point),
        Column("to", lambda row: row.to_point),
        Column("size, made to", lambda row: row.size, lambda row: f"{row.other_system}, {row.made_to}"),
        Column("colour", lambda row: row.colour),
        Column("insulation", lambda row: row.insulation),
        Column("length", lambda row: metres(row.length_m), is_figure=True),
        Column("cut", lambda row: metres(row.cut_m), is_figure=True),
        Column("ends", lambda row: f"{row.from_end} – {row.to_end}, {row.joined}"),
        Column("heat-shrink, sleeve", lambda row: f"{row.heat_shrink}; {row.sleeve}"),
        Column("status", lambda row: row.status),
    ),
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


def wire_row(vehicle: Vehicle, segment: Segment, spec: Wire, rules: HouseRules) -> WireRow:
    """A wire as a line of the schedule."""
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
        status=status(segment),
        circuits=names(passing(vehicle, segment.id)),
    )
