"""Reference data as CSV files, each row with its source, and the one way to read them."""

import csv
from collections import Counter
from functools import cache
from importlib.resources import files

HOW_KNOWN = ("read at its source", "common practice", "from memory")  # how sure the figures of a row are


@cache
def rows(name: str) -> tuple[dict[str, str], ...]:
    """Rows of the table ``name`` (without ``.csv``), each a mapping of column name to text."""
    text = files(__name__).joinpath(f"{name}.csv").read_text(encoding="utf-8")
    return tuple(csv.DictReader(text.splitlines()))


def names() -> list[str]:
    """Every table there is."""
    return sorted(each.name.removesuffix(".csv") for each in files(__name__).iterdir() if each.name.endswith(".csv"))


def how_known(name: str) -> Counter[str]:
    """How many rows of a table were read at their source, are common practice, or were written down from memory."""
    return Counter(next((how for how in HOW_KNOWN if how in row["source"]), HOW_KNOWN[0]) for row in rows(name))
