"""Shares an allowance over many wires so that their copper weighs least: an exact search over all size combinations.

Each wire comes in a few sizes, each with a mass. Limits say that what the sizes use of something together (a circuit's
currents times its wires' resistances, say) stays within what is allowed. Wires whose limits belong to one group are
*private* to it: all that can be had from them is kept as a front, the lightest way to each use of the limits. *Shared*
wires, which tie groups together, are tried in all their combinations against those fronts.
"""

from bisect import bisect_right
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array

Picks = NDArray[np.int_]

MOST_COMBINATIONS = 4000  # of shared wires tried at once; more are taken in turn
MOST_WAYS = 1000  # of a front exactly; past that uses are rounded up to a thousandth of what is allowed
SAME = 1e-9  # relative: closer than this two masses or uses are one


@dataclass(frozen=True, eq=False)
class CopperLimit:
    """Σ ``use[wire][size]`` ≤ ``most``; thicker sizes use less, none less than nothing. ``group`` names the circuit."""

    group: str
    use: Mapping[str, Array]
    most: float


@dataclass(frozen=True)
class _Front:
    """Ways to choose a group's private wires, lightest first: none is both heavier and of more use than another.

    ``use`` has shape (ways, limits), ``picks`` (ways, wires): the place of each wire's size among its choices.
    """

    wires: tuple[str, ...]
    mass_kg: Array
    use: Array
    picks: Picks


def allocate(mass_kg: Mapping[str, Array], limits: Sequence[CopperLimit]) -> dict[str, int] | None:
    """The place of each wire's size for the least mass within every limit; None where no combination is.

    ``mass_kg``: of each size a wire may have, lightest first, shape (sizes,); limits list their uses in that order.
    Limits are taken up as they prove to matter: what is lightest without one and keeps it is lightest with it. Exact
    while the shared wires have at most ``MOST_COMBINATIONS`` combinations (beyond that they are improved in turn, as
    many together as that allows, until nothing gets lighter) and no front grows past ``MOST_WAYS``.
    """
    tightest = {limit.group: limit for limit in sorted(limits, key=_tightness)}
    heeded = list(tightest.values())
    while True:
        picks = _allocate(mass_kg, heeded)
        if picks is None:
            return None
        exceeded = [limit for limit in limits if limit not in heeded and not _kept(limit, picks)]
        if not exceeded:
            return picks
        heeded += exceeded


def _tightness(limit: CopperLimit) -> float:
    """What the thickest sizes use of a limit, as a share of it."""
    least = sum(use[-1] for use in limit.use.values())
    return float(least / limit.most) if limit.most > 0 else np.inf


def _kept(limit: CopperLimit, picks: Mapping[str, int]) -> bool:
    used = sum(use[picks[wire]] for wire, use in limit.use.items())
    return bool(used <= limit.most * (1 + SAME))


def _allocate(mass_kg: Mapping[str, Array], limits: Sequence[CopperLimit]) -> dict[str, int] | None:
    search = _Search(mass_kg, limits)
    best = search.best_shared()
    if best is None:
        return None
    free = {wire: 0 for wire in mass_kg if not any(wire in limit.use for limit in limits)}
    return free | dict(zip(search.shared, best.tolist(), strict=True)) | search.private_picks(best)


class _Search:
    """The fronts of every group, and the combinations of shared wires tried against them."""

    def __init__(self, mass_kg: Mapping[str, Array], limits: Sequence[CopperLimit]) -> None:
        self.mass_kg = mass_kg
        self.groups: dict[str, list[CopperLimit]] = {}
        for limit in limits:
            self.groups.setdefault(limit.group, []).append(limit)
        self.shared = tuple(wire for wire in mass_kg if self._owners(wire) > 1)
        self.fronts = {name: self._front(of_group) for name, of_group in self.groups.items()}

    def _owners(self, wire: str) -> int:
        """How many groups a wire uses something of."""
        return sum(
            any(wire in limit.use and limit.use[wire].any() for limit in limits) for limits in self.groups.values()
        )

    def _uses(self, limits: Sequence[CopperLimit], wire: str) -> Array:
        """What the sizes of a wire use of limits, shape (sizes, limits)."""
        nothing = np.zeros(len(self.mass_kg[wire]))
        return np.stack([limit.use.get(wire, nothing) for limit in limits], axis=1)

    def _front(self, limits: Sequence[CopperLimit]) -> _Front:
        """All that is worth considering of a group's private wires, wire by wire."""
        wires = [
            wire for wire in self.mass_kg if wire not in self.shared and any(wire in limit.use for limit in limits)
        ]
        uses = [self._uses(limits, wire) for wire in wires]
        to_come = [use[-1] for use in uses]  # at least
        left = np.array([limit.most for limit in limits])
        for wire in self.shared:
            left = left - self._uses(limits, wire)[-1]
        front = _Front((), np.zeros(1), np.zeros((1, len(limits))), np.zeros((1, 0), dtype=int))
        for place, (wire, use) in enumerate(zip(wires, uses, strict=True)):
            front = _with_wire(front, wire, self.mass_kg[wire], use, left - sum(to_come[place + 1 :]))
        return front

    def best_shared(self) -> Picks | None:
        """The sizes of the shared wires with which everything together weighs least; None where nothing fits."""
        best = np.array([len(self.mass_kg[wire]) - 1 for wire in self.shared], dtype=int)
        best_kg = float(self._least_mass(best[None, :])[0])
        if not np.isfinite(best_kg):
            return None
        order = list(range(len(self.shared)))
        while True:
            before = best_kg
            portions = list(self._portions(order))
            for together in portions:
                tried = self._combinations(best, together)
                mass = self._least_mass(tried)
                lightest = int(np.argmin(mass))
                if mass[lightest] < best_kg * (1 - SAME):
                    best, best_kg = tried[lightest], float(mass[lightest])
            if len(portions) <= 1 or not best_kg < before * (1 - SAME):
                return best
            order = order[1:] + order[:1]  # other wires together next time

    def _portions(self, order: Sequence[int]) -> Iterator[tuple[int, ...]]:
        """The shared wires in portions without too many combinations; one empty portion when there are none."""
        portion: tuple[int, ...] = ()
        combinations = 1
        for place in order:
            count = len(self.mass_kg[self.shared[place]])
            if portion and combinations * count > MOST_COMBINATIONS:
                yield portion
                portion, combinations = (), 1
            portion, combinations = (*portion, place), combinations * count
        yield portion

    def _combinations(self, now: Picks, free: tuple[int, ...]) -> Picks:
        """Every combination of the free wires, the others as they are now, shape (combinations, shared wires)."""
        if not self.shared:
            return np.zeros((1, 0), dtype=int)
        ranges = [
            np.arange(len(self.mass_kg[wire])) if place in free else now[[place]]
            for place, wire in enumerate(self.shared)
        ]
        return np.stack(np.meshgrid(*ranges, indexing="ij"), axis=-1).reshape(-1, len(self.shared))

    def _least_mass(self, tried: Picks) -> Array:
        """The least mass of everything for each combination of shared sizes, kg; infinite where none is allowed."""
        total = np.zeros(len(tried))
        for place, wire in enumerate(self.shared):
            total += self.mass_kg[wire][tried[:, place]]
        for name, front in self.fronts.items():
            total += np.append(front.mass_kg, np.inf)[self._way(name, tried)]
        return total

    def _way(self, group: str, tried: Picks) -> Picks:
        """The lightest way of a front within its limits for each combination; past the end where none is."""
        limits, front = self.groups[group], self.fronts[group]
        left = np.tile([limit.most * (1 + SAME) for limit in limits], (len(tried), 1))
        for place, wire in enumerate(self.shared):
            left -= self._uses(limits, wire)[tried[:, place]]
        count = len(front.mass_kg)
        if len(limits) == 1:  # uses fall along the front: the first that is small enough
            return count - np.searchsorted(front.use[::-1, 0], left[:, 0], side="right").clip(0, count)
        fits: NDArray[np.bool_] = np.all(front.use[None] <= left[:, None, :], axis=2)
        return np.where(fits.any(axis=1), fits.argmax(axis=1), count)

    def private_picks(self, best: Picks) -> dict[str, int]:
        """The sizes of the private wires that go with those of the shared ones."""
        picks: dict[str, int] = {}
        for name, front in self.fronts.items():
            way = self._way(name, best[None, :])[0]
            picks |= dict(zip(front.wires, front.picks[way].tolist(), strict=True))
        return picks


def _with_wire(front: _Front, wire: str, mass_kg: Array, uses: Array, most: Array) -> _Front:
    """The front with one more wire: every way with every size, less what exceeds a limit or is never the best."""
    count = len(mass_kg)
    mass = (front.mass_kg[:, None] + mass_kg).ravel()
    use = (front.use[:, None, :] + uses[None, :, :]).reshape(-1, uses.shape[1])
    within = np.flatnonzero((use <= most * (1 + SAME)).all(axis=1))
    mass, use = mass[within], use[within]
    kept = _not_dominated(mass, use)
    if len(kept) > MOST_WAYS and use.shape[1] > 1:
        kept = kept[_not_dominated(mass[kept], np.ceil(use[kept] / most * 1000))]
    picks = np.column_stack([front.picks[within[kept] // count], within[kept] % count])
    return _Front((*front.wires, wire), mass[kept], use[kept], picks)


def _not_dominated(mass: Array, use: Array) -> Picks:
    """Places of the ways, lightest first, that no lighter way matches in every use."""
    order = np.lexsort((*use.T, mass))
    if use.shape[1] == 1:
        sorted_use = use[order, 0]
        before = np.minimum.accumulate(np.concatenate(([np.inf], sorted_use[:-1])))
        return np.asarray(order[sorted_use < before], dtype=int)
    if use.shape[1] == 2:
        return np.array(_staircase(order.tolist(), use.tolist()), dtype=int)
    kept: list[int] = []
    uses = np.empty_like(use)
    for place in order:
        if not (uses[: len(kept)] <= use[place]).all(axis=1).any():
            uses[len(kept)] = use[place]
            kept.append(int(place))
    return np.array(kept, dtype=int)


def _staircase(order: Iterable[int], use: Sequence[Sequence[float]]) -> list[int]:
    """Of places in order of mass, those whose two uses no earlier one matches: what is not above a staircase."""
    kept, firsts, seconds = [], [-np.inf], [np.inf]  # corners of the staircase so far
    for place in order:
        first, second = use[place]
        step = bisect_right(firsts, first)
        if seconds[step - 1] <= second:
            continue
        kept.append(place)
        end = step
        while end < len(seconds) and seconds[end] >= second:
            end += 1
        firsts[step:end], seconds[step:end] = [first], [second]
    return kept
