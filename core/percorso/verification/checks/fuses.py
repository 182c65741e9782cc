"""Tests of every fuse, breaker and fusible link: a voltage on both sides says whether it is fed, and whole."""

from collections.abc import Iterator

from percorso.network.branches import battery_posts
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.segments import GUARDS
from percorso.verification.checks.asked import Check, voltage
from percorso.verification.measured.measurements import Situation


def fuse_checks(vehicle: Vehicle, stage: Stage) -> Iterator[Check]:
    """Both sides of each against battery minus, with the key on."""
    posts = battery_posts(vehicle)
    if posts is None:
        return
    _, minus = posts
    for each in (one for one in vehicle.segments.values() if isinstance(one.spec, GUARDS)):
        for side, point in (("in", each.from_point), ("out", each.to_point)):
            if point != minus:
                measured = voltage(point, minus, Situation(stage=stage, state="on"))
                yield Check(each.id, side, f"{each.designation}: {side}, key on", "at rest", measured)
