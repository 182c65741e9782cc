"""Reference data as CSV files, each row with its source, and the one way to read them."""

import csv
from functools import cache
from importlib.resources import files


@cache
def rows(name: str) -> tuple[dict[str, str], ...]:
    """Rows of the table ``name`` (without ``.csv``), each a mapping of column name to text."""
    text = files(__name__).joinpath(f"{name}.csv").read_text(encoding="utf-8")
    return tuple(csv.DictReader(text.splitlines()))
