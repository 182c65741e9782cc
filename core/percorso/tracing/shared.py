"""What readings share: the same metal is off in all of them, so what one says of it counts in the others."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array
from percorso.kept import BoundedCache
from percorso.network.operating_point import Network
from percorso.vehicle.model import Vehicle
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.judging.expected import Expected, deviations, expect
from percorso.verification.judging.spreads import Z_95, parts_of
from percorso.verification.measured.instruments import errors
from percorso.verification.measured.measurements import Measurement
from percorso.verification.measured.preparations import Preparation

MOST_PREPARED = 16  # networks that are kept
LEAST_VARIANCE = 1e-12  # V² or A²
MOST_MOVED = 2000  # measurements of which it is kept what moves them
IN_COMMON = 0.9  # of what moves two readings alike: the rest each is off by itself, for a fault changes what moves them


@dataclass(frozen=True)
class Given:
    """A reading after others: how much of what each of them was off it is off as well, shape (others,), and one
    standard deviation of it on sound metal that is left.
    """

    of_each: Array
    deviation: float


class SoundMetal:
    """Sound metal as it is prepared for each situation: what is read there, and what each part moves of it."""

    def __init__(self, vehicle: Vehicle) -> None:
        self._vehicle = vehicle
        self._networks = BoundedCache[tuple[Preparation, ...], Network](MOST_PREPARED)
        self._parts = {each: place for place, each in enumerate(parts_of(self._prepared(()).assembly))}
        self._moved: dict[Hashable, Array] = {}

    def expected(self, measurement: Measurement) -> Expected:
        """What is read on sound metal."""
        situation = measurement.situation
        return expect(self._prepared(situation.preparations), situation, [measurement])[0]

    def moved(self, measurements: Sequence[Measurement]) -> Array:
        """One standard deviation of each of some measurements of one situation by each part, with its sign, shape
        (measurements, parts).
        """
        fresh = [each for each in measurements if each.key not in self._moved]
        if fresh:
            if len(self._moved) + len(fresh) > MOST_MOVED:
                self._moved.clear()
                fresh = list(measurements)
            self._moved |= zip((each.key for each in fresh), self._deviations(fresh), strict=True)
        return np.array([self._moved[each.key] for each in measurements])

    def _deviations(self, measurements: Sequence[Measurement]) -> Array:
        situation = measurements[0].situation
        return deviations(self._prepared(situation.preparations), situation, measurements, self._parts)

    def deviation(self, measurement: Measurement) -> float:
        """One standard deviation of a measurement on sound metal, without what the instrument is off."""
        return float(np.sqrt(np.square(self.moved([measurement])).sum()))

    def given(self, measurements: Sequence[Measurement], others: Sequence[Measurement]) -> list[Given]:
        """Some measurements of one situation after others were read (normal distribution, conditional on those)."""
        mine = self.moved(measurements)
        every = np.array([self.moved([each])[0] for each in others]).reshape(len(others), mine.shape[1])
        off = [float(errors(each.with_what, each.quantity, np.array(each.value or 0.0))) / Z_95 for each in others]
        own = np.square(off) + (1 - IN_COMMON) * np.square(every).sum(axis=1)
        among = IN_COMMON * every @ every.T + np.diag(np.maximum(own, LEAST_VARIANCE))
        shared = IN_COMMON * every @ mine.T
        of_each = np.linalg.solve(among, shared) if len(others) else shared
        left = np.square(mine).sum(axis=1) - (shared * of_each).sum(axis=0)
        return [Given(of, float(each)) for of, each in zip(of_each.T, np.sqrt(np.maximum(left, 0)), strict=True)]

    def _prepared(self, done: tuple[Preparation, ...]) -> Network:
        return self._networks.get_or(done, lambda: Network(prepared(self._vehicle, done)))
