"""The thinnest wire that is fitted for a use: the uses there are, and what is usual for each."""

from typing import Literal, get_args

from percorso import tables

Use = Literal[
    "starter cable",
    "ground strap",
    "trigger",
    "key feed",
    "ignition feed",
    "consumer feed",
    "electronics feed",
    "memory feed",
    "exciter lead",
    "sense lead",
    "relay coil",
]
USES: tuple[Use, ...] = get_args(Use)


def usual_floors() -> tuple[tuple[Use, float], ...]:
    """The usual floor of each use, mm²; the table names the practice it comes from."""
    rows = {row["use"]: float(row["mm2"]) for row in tables.rows("wire_floors")}
    return tuple((use, rows[use]) for use in USES)
