"""What the harness is built from: wire schedule, cut list, shopping list, fuse and relay chart, labels."""

from collections.abc import Mapping
from typing import Any, Literal

from percorso.circuits.worst_currents import Flows
from percorso.house_rules import HouseRules
from percorso.sheets.fuses import FUSES, fuse_rows
from percorso.sheets.labels import LABELS, label_rows
from percorso.sheets.relays import RELAYS, relay_rows
from percorso.sheets.sheet import Sheet
from percorso.sheets.shopping import CUTS, SHOPPING, cut_rows, shopping_rows
from percorso.sheets.wires import WIRES, wire_row
from percorso.sheets.words import is_new
from percorso.vehicle.model import Vehicle, in_order
from percorso.vehicle.segments import Wire

SheetName = Literal["wires", "cuts", "shopping", "fuses", "relays", "labels"]
Rows = dict[str, tuple[Any, ...]]  # of each sheet, by its name
SHEETS: tuple[Sheet[Any], ...] = (WIRES, CUTS, SHOPPING, FUSES, RELAYS, LABELS)  # in the order of the pages


def sheets(vehicle: Vehicle, worst: Flows, when_pulled: Mapping[str, str], rules: HouseRules) -> Rows:
    """The rows of every sheet of a job, old and new pieces together; what is new and stays is cut and bought.

    ``when_pulled`` says by id what becomes of what hangs on a fuse or a relay.
    """
    wires = [(each, each.spec) for each in in_order(vehicle.segments.values()) if isinstance(each.spec, Wire)]
    new = [(segment, spec) for segment, spec in wires if is_new(segment)]
    rows = {segment.id: wire_row(vehicle, segment, spec, rules) for segment, spec in wires}
    built = [rows[segment.id] for segment, _ in new]
    return {
        WIRES.name: tuple(rows.values()),
        CUTS.name: tuple(cut_rows(built)),
        SHOPPING.name: tuple(shopping_rows(vehicle, built)),
        FUSES.name: tuple(fuse_rows(vehicle, worst, when_pulled)),
        RELAYS.name: tuple(relay_rows(vehicle, when_pulled)),
        LABELS.name: tuple(label_rows(built)),
    }
