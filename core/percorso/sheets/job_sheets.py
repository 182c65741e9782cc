"""What the harness is built from: wire schedule, cut list, shopping list, fuse and relay chart, labels."""

from collections.abc import Mapping
from dataclasses import dataclass

from percorso.circuits.worst_currents import Flows
from percorso.house_rules import HouseRules
from percorso.sheets.fuses import FuseRow, fuse_rows
from percorso.sheets.labels import LabelRow, label_rows
from percorso.sheets.relays import RelayRow, relay_rows
from percorso.sheets.shopping import CutRow, ShoppingRow, cut_rows, shopping_rows
from percorso.sheets.wires import WireRow, wire_row
from percorso.sheets.words import is_new
from percorso.vehicle.model import Vehicle, in_order
from percorso.vehicle.segments import Wire


@dataclass(frozen=True)
class Sheets:
    """Every sheet of a job."""

    wires: tuple[WireRow, ...]
    cuts: tuple[CutRow, ...]
    shopping: tuple[ShoppingRow, ...]
    fuses: tuple[FuseRow, ...]
    relays: tuple[RelayRow, ...]
    labels: tuple[LabelRow, ...]


def sheets(vehicle: Vehicle, worst: Flows, when_pulled: Mapping[str, str], rules: HouseRules) -> Sheets:
    """The sheets of a job, old and new pieces together; what is bought and cut is what is new and stays.

    ``when_pulled`` says by id what becomes of what hangs on a fuse or a relay.
    """
    wires = [(each, each.spec) for each in in_order(vehicle.segments.values()) if isinstance(each.spec, Wire)]
    new = [(segment, spec) for segment, spec in wires if is_new(segment)]
    rows = {segment.id: wire_row(vehicle, segment, spec, rules) for segment, spec in wires}
    built = [rows[segment.id] for segment, _ in new]
    return Sheets(
        wires=tuple(rows.values()),
        cuts=tuple(cut_rows(built)),
        shopping=tuple(shopping_rows(vehicle, built)),
        fuses=tuple(fuse_rows(vehicle, worst, when_pulled)),
        relays=tuple(relay_rows(vehicle, when_pulled)),
        labels=tuple(label_rows(built)),
    )
