"""Shares an allowance over many wires so that their copper weighs least: an exact search over all size combinations.

Each wire comes in a few sizes, each with a mass and a resistance. Limits say that weighted sums of resistances (a
circuit's currents times its wires, say) stay within what is allowed. Wires whose limits belong to one group are
*private* to it: all that can be had from them is kept as a front, the lightest way to each use of the limits. *Shared*
wires, which tie groups together, are tried in all their combinations against those fronts.
"""

from bisect import bisect_right
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Picks = NDArray[np.int_]

MOST_COMBINATIONS = 4000  # of shared wires tried at once; more are taken in turn
MOST_WAYS = 1000  # of a front exactly; past that uses are rounded up to a thousandth of what is allowed
SAME = 1e-9  # relative: closer than this two masses or uses are one


@dataclass(frozen=True)
class Choices:
    """The sizes one wire may have, lightest first, by mass (kg, ascending) and resistance (Ω, descending)."""

    mass_kg: Array
    ohm: Array


@dataclass(frozen=True)
class Limit:
    """Σ ``weight[wire]`` · Ω ≤ ``most``; weights are not negative. ``group`` names the circuit it belongs to."""

    group: str
    weight: Mapping[str, float]
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


def allocate(choices: Mapping[str, Choices], limits: Sequence[Limit]) -> dict[str, int] | None:
    """The place of each wire's size for the least mass within every limit; None where no combination is.

    Limits are taken up as they prove to matter: what is lightest without one and keeps it is lightest with it. Exact
    while the shared wires have at most ``MOST_COMBINATIONS`` combinations (beyond that they are improved in turn, as
    many together as that allows, until nothing gets lighter) and no front grows past ``MOST_WAYS``.
    """
    tightest = {limit.group: limit for limit in sorted(limits, key=lambda each: _tightness(choices, each))}
    heeded = list(tightest.values())
    while True:
        picks = _allocate(choices, heeded)
        if picks is None:
            return None
        exceeded = [limit for limit in limits if limit not in heeded and not _kept(choices, limit, picks)]
        if not exceeded:
            return picks
        heeded += exceeded


def _tightness(choices: Mapping[str, Choices], limit: Limit) -> float:
    """What the thickest sizes use of a limit, as a share of it."""
    least = sum(weight * choices[wire].ohm[-1] for wire, weight in limit.weight.items())
    return float(least / limit.most) if limit.most > 0 else np.inf


def _kept(choices: Mapping[str, Choices], limit: Limit, picks: Mapping[str, int]) -> bool:
    used = sum(weight * choices[wire].ohm[picks[wire]] for wire, weight in limit.weight.items())
    return bool(used <= limit.most * (1 + SAME))


def _allocate(choices: Mapping[str, Choices], limits: Sequence[Limit]) -> dict[str, int] | None:
    groups = _groups(limits)
    shared = _shared(choices, groups)
    fronts = {name: _front(choices, of_group, shared) for name, of_group in groups.items()}
    thickest = {wire: len(choices[wire].mass_kg) - 1 for wire in shared}
    if not np.isfinite(_least_mass(choices, groups, fronts, shared, _one(shared, thickest))[0]):
        return None
    best = _best_shared(choices, groups, fronts, shared, thickest)
    free = {wire: 0 for wire in choices if not any(wire in limit.weight for limit in limits)}
    return free | best | _private_picks(choices, groups, fronts, shared, best)


def _groups(limits: Sequence[Limit]) -> dict[str, list[Limit]]:
    groups: dict[str, list[Limit]] = {}
    for limit in limits:
        groups.setdefault(limit.group, []).append(limit)
    return groups


def _shared(choices: Mapping[str, Choices], groups: Mapping[str, Sequence[Limit]]) -> tuple[str, ...]:
    """Wires that limits of more than one group weigh."""
    owners = {
        wire: [name for name, limits in groups.items() if any(limit.weight.get(wire) for limit in limits)]
        for wire in choices
    }
    return tuple(wire for wire, names in owners.items() if len(names) > 1)


def _front(choices: Mapping[str, Choices], limits: Sequence[Limit], shared: tuple[str, ...]) -> _Front:
    """All that is worth considering of a group's private wires, wire by wire."""
    wires = tuple(
        wire for wire in choices if wire not in shared and any(limit.weight.get(wire) is not None for limit in limits)
    )
    weight = np.array([[limit.weight.get(wire, 0.0) for limit in limits] for wire in wires]).reshape(-1, len(limits))
    least = np.array([weight[place] * choices[wire].ohm[-1] for place, wire in enumerate(wires)]).reshape(weight.shape)
    shared_least = np.array(
        [sum(limit.weight.get(each, 0.0) * choices[each].ohm[-1] for each in shared) for limit in limits]
    )
    left = np.array([limit.most for limit in limits]) - shared_least
    front = _Front((), np.zeros(1), np.zeros((1, len(limits))), np.zeros((1, 0), dtype=int))
    for place, wire in enumerate(wires):
        still_to_come = least[place + 1 :].sum(axis=0)
        front = _with_wire(front, wire, choices[wire], weight[place], left - still_to_come)
    return front


def _with_wire(front: _Front, wire: str, sizes: Choices, weight: Array, most: Array) -> _Front:
    """The front with one more wire: every way with every size, less what exceeds a limit or is never the best."""
    count = len(sizes.mass_kg)
    mass = (front.mass_kg[:, None] + sizes.mass_kg).ravel()
    use = (front.use[:, None, :] + sizes.ohm[None, :, None] * weight).reshape(-1, len(weight))
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


def _best_shared(
    choices: Mapping[str, Choices],
    groups: Mapping[str, Sequence[Limit]],
    fronts: Mapping[str, _Front],
    shared: tuple[str, ...],
    start: dict[str, int],
) -> dict[str, int]:
    """The sizes of the shared wires with which everything together weighs least."""
    best, best_kg = dict(start), np.inf
    while True:
        before = best_kg
        for together in _portions(choices, shared):
            tried = _combinations(choices, shared, best, together)
            mass = _least_mass(choices, groups, fronts, shared, tried)
            lightest = int(np.argmin(mass))
            if mass[lightest] < best_kg * (1 - SAME):
                best_kg = float(mass[lightest])
                best = dict(zip(shared, tried[lightest].tolist(), strict=True))
        if not best_kg < before * (1 - SAME) or len(list(_portions(choices, shared))) <= 1:
            return best


def _portions(choices: Mapping[str, Choices], shared: tuple[str, ...]) -> Iterator[tuple[str, ...]]:
    """The shared wires in portions that do not have too many combinations; one empty portion when there are none."""
    portion: tuple[str, ...] = ()
    combinations = 1
    for wire in shared:
        count = len(choices[wire].mass_kg)
        if portion and combinations * count > MOST_COMBINATIONS:
            yield portion
            portion, combinations = (), 1
        portion, combinations = (*portion, wire), combinations * count
    yield portion


def _combinations(
    choices: Mapping[str, Choices], shared: tuple[str, ...], now: Mapping[str, int], free: tuple[str, ...]
) -> Picks:
    """Every combination of the free wires, the others as they are now, shape (combinations, shared wires)."""
    ranges = [np.arange(len(choices[wire].mass_kg)) if wire in free else np.array([now[wire]]) for wire in shared]
    if not ranges:
        return np.zeros((1, 0), dtype=int)
    return np.stack(np.meshgrid(*ranges, indexing="ij"), axis=-1).reshape(-1, len(shared))


def _one(shared: tuple[str, ...], picks: Mapping[str, int]) -> Picks:
    return np.array([[picks[wire] for wire in shared]], dtype=int).reshape(1, -1)


def _least_mass(
    choices: Mapping[str, Choices],
    groups: Mapping[str, Sequence[Limit]],
    fronts: Mapping[str, _Front],
    shared: tuple[str, ...],
    tried: Picks,
) -> Array:
    """The least mass of everything for each combination of shared sizes, kg; infinite where a limit is exceeded."""
    total = np.zeros(len(tried))
    for place, wire in enumerate(shared):
        total += choices[wire].mass_kg[tried[:, place]]
    for name, limits in groups.items():
        front, way = fronts[name], _way(choices, limits, fronts[name], shared, tried)
        total += np.where(way < len(front.mass_kg), np.append(front.mass_kg, np.inf)[way], np.inf)
    return total


def _way(
    choices: Mapping[str, Choices], limits: Sequence[Limit], front: _Front, shared: tuple[str, ...], tried: Picks
) -> Picks:
    """The lightest way of a front that stays within its limits for each combination; past the end where none does."""
    left = np.tile([limit.most * (1 + SAME) for limit in limits], (len(tried), 1))
    for place, wire in enumerate(shared):
        weight = np.array([limit.weight.get(wire, 0.0) for limit in limits])
        left -= choices[wire].ohm[tried[:, place], None] * weight
    if len(limits) == 1:  # uses fall along the front: the first that is small enough
        return len(front.use) - np.searchsorted(front.use[::-1, 0], left[:, 0], side="right").clip(0, len(front.use))
    fits: NDArray[np.bool_] = np.all(front.use[None] <= left[:, None, :], axis=2)
    return np.where(fits.any(axis=1), fits.argmax(axis=1), len(front.use))


def _private_picks(
    choices: Mapping[str, Choices],
    groups: Mapping[str, Sequence[Limit]],
    fronts: Mapping[str, _Front],
    shared: tuple[str, ...],
    best: Mapping[str, int],
) -> dict[str, int]:
    picks: dict[str, int] = {}
    for name, limits in groups.items():
        way = _way(choices, limits, fronts[name], shared, _one(shared, best))[0]
        picks |= dict(zip(fronts[name].wires, fronts[name].picks[way].tolist(), strict=True))
    return picks
