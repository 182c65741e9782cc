"""The relay chart: every relay with its coil, what it switches and what triggers it."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from percorso.sheets.sheet import Column, Sheet
from percorso.sheets.words import names
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.model import Circuit, Segment, Vehicle, in_order, passing
from percorso.vehicle.segments import RelayContact, is_switched


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
    when_pulled: str
    status: str


RELAYS = Sheet(
    "relays",
    "Relays",
    "No relays.",
    RelayRow,
    (
        Column("relay", lambda row: row.relay),
        Column("name", lambda row: row.name),
        Column("coil", lambda row: f"{row.coil_ohm:.0f} Ω, {row.suppression}"),
        Column("contacts", lambda row: row.contacts),
        Column("switches", lambda row: row.switches),
        Column("triggered by", lambda row: ", ".join(filter(None, (row.triggered_by, row.driven)))),
        Column("when pulled", lambda row: row.when_pulled),
        Column("status", lambda row: row.status),
    ),
)


def relay_rows(vehicle: Vehicle, when_pulled: Mapping[str, str]) -> Iterable[RelayRow]:
    """Every relay, by designation; ``when_pulled`` says by id what becomes of what hangs on it."""
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
            triggered_by=names(triggers),
            driven=", ".join({_driven(vehicle, each): None for each in triggers}),
            when_pulled=when_pulled.get(coil.id, ""),
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
