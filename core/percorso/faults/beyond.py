"""What a description may not hold: something that draws at a point, feeds it, or lies beside a contact."""

from collections.abc import Iterator
from typing import Literal

from percorso.errors import FaultError
from percorso.faults.at_segments import body_point
from percorso.faults.changes import Bypass
from percorso.network.branches import battery_posts, reference_point
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import Contact

BeyondFault = Literal[
    "something else draws",
    "something else draws to the battery",
    "something else feeds",
    "something else joins",
]
AT = "at "  # and the id of the point: what there is no part for


def point_of(part: str) -> str | None:
    """The point at which something is that is no part; None for a part."""
    return part.removeprefix(AT) if part.startswith(AT) else None


def points_beyond(vehicle: Vehicle) -> Iterator[tuple[str, BeyondFault, str | None]]:
    """What may be where, and to which other point it leads: at each point something that draws, grounded at the metal
    or at the battery, or that feeds it, and something that lies beside each contact.
    """
    plus, body, minus = plus_point(vehicle), body_point(vehicle), reference_point(vehicle)
    for point in vehicle.points:
        if point != body:
            yield AT + point, "something else draws", None
        if point not in (body, minus) and minus != body:
            yield AT + point, "something else draws to the battery", None
        if plus is not None and point != plus:
            yield AT + point, "something else feeds", None
    for contact in vehicle.segments.values():
        if isinstance(contact.spec, Contact) and contact.id not in vehicle.opened:
            yield AT + contact.to_point, "something else joins", contact.from_point


def bypass_of(vehicle: Vehicle, part: str, fault: str, ohm: float | None, other: str | None) -> Bypass:
    """What it joins. Raises FaultError."""
    point, plus = point_of(part), plus_point(vehicle)
    if point is None or point not in vehicle.points:
        raise FaultError(f'there is no point "{point}"', field=("part",))
    if fault == "something else draws":
        return Bypass(point, body_point(vehicle), ohm or 0.0)
    if fault == "something else draws to the battery":
        return Bypass(point, reference_point(vehicle), ohm or 0.0)
    if fault == "something else joins":
        if other is None or other not in vehicle.points:
            raise FaultError("say which other point it leads to", field=("other",))
        return Bypass(point, other, ohm or 0.0)
    if plus is None:
        raise FaultError("no battery feeds this vehicle", field=("fault",))
    return Bypass(plus, point, ohm or 0.0)


def plus_point(vehicle: Vehicle) -> str | None:
    """The plus post of the batteries."""
    posts = battery_posts(vehicle)
    return posts and posts[0]
