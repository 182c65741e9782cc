"""What a description may not hold: something that draws at a point, or feeds it, and nobody wrote down."""

from collections.abc import Iterator
from typing import Literal

from percorso.errors import FaultError
from percorso.faults.at_segments import body_point, with_resistor
from percorso.vehicle.devices import Battery
from percorso.vehicle.model import Vehicle

BeyondFault = Literal["something else draws", "something else feeds"]
AT = "at "  # and the id of the point: what there is no part for


def point_of(part: str) -> str | None:
    """The point at which something is that is no part; None for a part."""
    return part.removeprefix(AT) if part.startswith(AT) else None


def points_beyond(vehicle: Vehicle) -> Iterator[tuple[str, BeyondFault]]:
    """Each point at which something else may draw or feed: not the metal, nor what is the battery's plus."""
    plus, body = plus_point(vehicle), body_point(vehicle)
    for point in vehicle.points:
        if point != body:
            yield AT + point, "something else draws"
        if plus is not None and point != plus:
            yield AT + point, "something else feeds"


def joined_by(vehicle: Vehicle, part: str, fault: str) -> tuple[str, str]:
    """The two points that it joins. Raises FaultError."""
    point, plus = point_of(part), plus_point(vehicle)
    if point is None or point not in vehicle.points:
        raise FaultError(f'there is no point "{point}"', field=("part",))
    if fault == "something else draws":
        return point, body_point(vehicle)
    if plus is None:
        raise FaultError("no battery feeds this vehicle", field=("fault",))
    return plus, point


def with_beyond(vehicle: Vehicle, part: str, fault: str, ohm: float) -> Vehicle:
    """The vehicle with it. Raises FaultError."""
    return with_resistor(vehicle, *joined_by(vehicle, part, fault), ohm)


def plus_point(vehicle: Vehicle) -> str | None:
    """The plus post of the first battery."""
    return next((each.terminals["+"] for each, _ in vehicle.devices_of(Battery) if each.terminals), None)
