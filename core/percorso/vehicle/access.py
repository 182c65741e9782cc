"""How one gets at a part or a point: as said, or as is usual for its kind and place; and how long that takes."""

from functools import cache
from typing import Literal, get_args

from percorso import tables
from percorso.vehicle.segments import Connector, SegmentSpec, Splice, Switch, Wire

Access = Literal["open", "panel", "under the vehicle", "inside the loom"]
ACCESSES: tuple[Access, ...] = get_args(Access)  # the easiest first


@cache
def minutes(access: Access) -> float:
    """How long it takes to get at something; the table names the source."""
    return next(float(row["minutes"]) for row in tables.rows("access") if row["access"] == access)


def usual_access(spec: SegmentSpec) -> Access:
    """Where a segment of its kind usually lies, common practice."""
    match spec:
        case Splice():
            return "inside the loom"
        case Wire(zone="outside"):
            return "under the vehicle"
        case Wire(zone="cabin") | Switch() | Connector():
            return "panel"
    return "open"
