"""Tests that somebody cannot, will not or could not make: they are left out from then on, and their minutes count."""

from collections.abc import Collection
from dataclasses import dataclass
from typing import Literal

from percorso.vehicle.devices import Battery
from percorso.vehicle.model import Vehicle
from percorso.verification.checks.minutes import reach_min
from percorso.verification.measured.measurements import Measurement

WhyNot = Literal["cannot reach", "not now", "don't know"]


@dataclass(frozen=True)
class LeftOut:
    """A test without an answer, and why. What cannot be reached is left out in every situation, until it is reached
    otherwise: ``reach_min`` is how long that took when it was said, None if nobody knows.
    """

    measurement: Measurement
    why: WhyNot
    reach_min: float | None = None

    def covers(self, vehicle: Vehicle, other: Measurement) -> bool:
        """Whether a measurement is left out by this."""
        if self.why != "cannot reach":
            return self.measurement.key_at_any_stage == other.key_at_any_stage
        if self.reach_min is not None and abs(reach_min(vehicle, self.measurement) - self.reach_min) > 1e-6:
            return False
        mine, others = (_touched(vehicle, each) for each in (self.measurement, other))
        return bool(mine) and (mine <= others if len(mine) > 1 else bool(mine & others))


def is_left_out(vehicle: Vehicle, measurement: Measurement, left_out: Collection[LeftOut]) -> bool:
    """Whether a measurement is left out by any of what was said."""
    return any(each.covers(vehicle, measurement) for each in left_out)


def _touched(vehicle: Vehicle, measurement: Measurement) -> set[str]:
    """The points and parts one has to get at, but the battery's posts."""
    posts = {point for each, _ in vehicle.devices_of(Battery) for point in each.terminals.values()}
    where = measurement.red_point, measurement.black_point, measurement.segment, measurement.device
    return {each for each in where if each is not None} - posts
