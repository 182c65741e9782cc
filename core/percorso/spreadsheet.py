"""Rows as CSV files (RFC 4180), safe to open in a spreadsheet, and cells back as they were."""

import csv
import io
from collections.abc import Sequence
from dataclasses import asdict, fields
from typing import Any

RUNS_AS_FORMULA = ("=", "+", "-", "@", "\t")


def csv_text(rows: Sequence[Any], kind: type) -> str:
    """Rows of one kind as CSV. Text that a spreadsheet would run as a formula is quoted as text."""
    out = io.StringIO()
    writer = csv.DictWriter(out, [field.name for field in fields(kind)], lineterminator="\r\n")
    writer.writeheader()
    writer.writerows({name: _harmless(value) for name, value in asdict(row).items()} for row in rows)
    return out.getvalue()


def _harmless(value: object) -> object:
    return f"'{value}" if isinstance(value, str) and value[:1] in RUNS_AS_FORMULA else value


def as_it_was(cell: str) -> str:
    """A cell's text without the quote that ``csv_text`` put before it."""
    return cell[1:] if cell[:1] == "'" and cell[1:2] in RUNS_AS_FORMULA else cell
