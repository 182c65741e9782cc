"""The fuse chart: every fuse, link and breaker with what it carries and protects."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from percorso.circuits.worst_currents import Flows
from percorso.quantities import CURRENT, show
from percorso.sheets.sheet import Column, Sheet
from percorso.sheets.words import names, status
from percorso.sizing.protection_zones import guarded_wires
from percorso.vehicle.model import Vehicle, in_order, passing
from percorso.vehicle.segments import Breaker, Fuse, FusibleLink
from percorso.vehicle.states import STATE_NAMES, State


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
    when_pulled: str
    status: str


def _carries(row: FuseRow) -> str:
    if row.load_state is None:
        return "nothing"
    return f"{show(row.load_a, CURRENT)} {STATE_NAMES[row.load_state]}"


FUSES = Sheet(
    "fuses",
    "Fuses",
    "No fuses, links or breakers.",
    FuseRow,
    (
        Column("fuse", lambda row: row.fuse),
        Column("rating", lambda row: f"{row.rating} {row.kind}"),
        Column("place", lambda row: row.place),
        Column("carries at most", _carries, is_figure=True),
        Column("protects", lambda row: row.protects),
        Column("circuits", lambda row: row.circuits),
        Column("when pulled", lambda row: row.when_pulled),
        Column("status", lambda row: row.status),
    ),
)


def fuse_rows(vehicle: Vehicle, worst: Flows, when_pulled: Mapping[str, str]) -> Iterable[FuseRow]:
    """Every fuse, link and breaker, by designation; ``when_pulled`` says by id what becomes of what hangs on it."""
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
            circuits=names(circuits),
            when_pulled=when_pulled.get(segment.id, ""),
            status=status(segment),
        )
