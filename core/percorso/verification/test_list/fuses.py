"""Tests of every fuse, breaker and fusible link: a voltage on both sides says whether it is fed, and whole."""

from collections.abc import Iterator

from percorso.vehicle.devices import Battery
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.segments import GUARDS
from percorso.verification.measurements import Situation
from percorso.verification.test_list.asked import AskedTest, voltage


def fuse_tests(vehicle: Vehicle, stage: Stage) -> Iterator[AskedTest]:
    """Both sides of each against battery minus, with the key on."""
    minus = next((each.terminals["-"] for each, _ in vehicle.devices_of(Battery)), None)
    if minus is None:
        return
    for each in (one for one in vehicle.segments.values() if isinstance(one.spec, GUARDS)):
        for side, point in (("in", each.from_point), ("out", each.to_point)):
            if point != minus:
                measured = voltage(point, minus, Situation(stage=stage, state="on"))
                yield AskedTest(each.id, side, f"{each.designation}: {side}, key on", "at rest", measured)
