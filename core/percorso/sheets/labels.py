"""Labels for both ends of every wire that is built."""

from collections.abc import Iterable
from dataclasses import dataclass

from percorso.sheets.sheet import Column, Sheet
from percorso.sheets.wires import WireRow


@dataclass(frozen=True)
class LabelRow:
    """One label: what it says and which end it goes on."""

    wire: str
    end: str
    text: str


LABELS = Sheet(
    "labels",
    "Labels",
    "No new wires to label.",
    LabelRow,
    (Column("label", lambda row: row.text, lambda row: f"at {row.end}"),),
)


def label_rows(rows: Iterable[WireRow]) -> Iterable[LabelRow]:
    """Two for each new wire: what it is and where it leads from here."""
    for row in rows:
        look = " ".join(text for text in (row.size, row.colour) if text)
        yield LabelRow(row.wire, row.from_point, f"{row.wire}  {look}  to {row.to_point}")
        yield LabelRow(row.wire, row.to_point, f"{row.wire}  {look}  to {row.from_point}")
