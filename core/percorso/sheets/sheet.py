"""A sheet: what it is called, what a row of it is, and how its rows stand on a page."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

Row = TypeVar("Row")


@dataclass(frozen=True)
class Column(Generic[Row]):
    """One column of a page: its head, what stands in it, and what stands smaller below; figures are set to the right.

    The file for a spreadsheet has a column for each field of the row instead.
    """

    head: str
    cell: Callable[[Row], str]
    below: Callable[[Row], str] | None = None
    is_figure: bool = False


@dataclass(frozen=True)
class Sheet(Generic[Row]):
    """One sheet; ``empty`` is said where it has no rows."""

    name: str
    title: str
    empty: str
    row: type[Row]
    columns: Sequence[Column[Row]]


def metres(length_m: float) -> str:
    """A length as harnesses are built to: by the centimetre."""
    return f"{length_m:.2f} m"
