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


def as_page() -> str:
    """How the rows of each table are known, as a page of text."""
    every = sorted(each.name.removesuffix(".csv") for each in files(__name__).iterdir() if each.name.endswith(".csv"))
    counts = {name: _how_known(name) for name in every}
    total = sum(counts.values(), Counter())
    lines = [f"| `{name}` | {_cells(known)} |" for name, known in counts.items()]
    return "\n".join([HEAD, *lines, f"| **all** | {_cells(total)} |", ""])


HEAD = f"""# How sure the tables are

Generated from `core/percorso/tables/`; `make api` writes it anew. Rows of each table by how their figures are known.
A row from memory gives way to the first that somebody reads at its source; until then it is checked against a second
one where there is one.

| table | {" | ".join(HOW_KNOWN)} |
|---|---|---|---|"""


def _how_known(name: str) -> Counter[str]:
    return Counter(next((how for how in HOW_KNOWN if how in row["source"]), HOW_KNOWN[0]) for row in rows(name))


def _cells(known: Counter[str]) -> str:
    return " | ".join(str(known[how] or "") for how in HOW_KNOWN)
