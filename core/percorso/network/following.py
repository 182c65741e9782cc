"""Many changes of a network, one at a time, followed through all that switches with them, in groups.

Changes with which the same has pulled in, woken up and regulates share one solved network, from which each is one
rank-one change. What a change makes switch moves it to another group, until nothing moves any more.
"""

from collections import deque
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from percorso.arrays import Array, Mask, Numbers
from percorso.network.branches import TURNING, Latched, Modes
from percorso.network.newton import NotSettledError, Regulation, Solved
from percorso.network.operating_point import Network
from percorso.network.variation import Alteration, Variants, vary
from percorso.vehicle.states import ENGINE, WAY_TO, State, Step, positions, steps

MOST_GROUPS = 400  # of one step; what is left then is not known


@dataclass(frozen=True)
class Group:
    """Changes that end alike: their places, and what has pulled in and regulates with them."""

    places: Numbers
    modes: Modes
    solved: Solved


@dataclass
class Followed:
    """Where changes lead: potentials (V, shape (changes, points)), what alternators give (A, shape (changes,
    alternators)), and the groups of those that come to rest.

    ``known`` is False for what never comes to rest, and for what one group's network cannot tell.
    """

    potential: Array
    generated_a: Array
    groups: list[Group]
    known: Mask


_Key = tuple[Latched, tuple[Regulation, ...]]


def follow(network: Network, state: State, chosen: Mapping[str, str], altered: Alteration) -> Followed:
    """Every change by itself, from the key off to a state. Raises StateError for an unknown input."""
    count = len(altered.branch)
    arrived: dict[Latched, Numbers] = {(frozenset(), frozenset()): np.arange(count)}
    found = _nothing(network, count)
    for step in steps(WAY_TO[state], chosen):
        found = _nothing(network, count)
        for latched, places in arrived.items():
            _follow_step(network, step, latched, altered, places, found)
        arrived = _by_latched(found.groups)
    return found


def _nothing(network: Network, count: int) -> Followed:
    sizes = network.assembly.size, len(network.assembly.generators)
    return Followed(np.zeros((count, sizes[0])), np.zeros((count, sizes[1])), [], np.zeros(count, dtype=bool))


def _by_latched(groups: list[Group]) -> dict[Latched, Numbers]:
    together: dict[Latched, list[Numbers]] = {}
    for group in groups:
        together.setdefault(group.modes.latched, []).append(group.places)
    return {latched: np.concatenate(places) for latched, places in together.items()}


def _follow_step(
    network: Network, step: Step, latched: Latched, altered: Alteration, places: Numbers, found: Followed
) -> None:
    """One step for what arrived with the same latched; what comes to rest is added to ``found``."""
    engine = ENGINE[step.state]
    excited = latched[1] if engine in TURNING else frozenset()
    start = Modes(positions(network.vehicle.inputs, step.state, step.chosen), engine, latched[0], excited)
    first = _key(network, start)
    if first is None:
        return
    waiting: deque[tuple[_Key, Numbers]] = deque([(first, places)])
    been: dict[_Key, set[int]] = {}
    for _ in range(MOST_GROUPS):
        if not waiting:
            break
        key, here = waiting.popleft()
        here = here[[place not in been.setdefault(key, set()) for place in here.tolist()]]  # else it goes round
        been[key].update(here.tolist())
        if here.size:
            waiting.extend(_follow_group(network, start, key, altered, here, found))


def _key(network: Network, modes: Modes) -> _Key | None:
    """The group that the sound network begins in with these modes."""
    modes = network.coils.without_cut_off(modes)
    try:
        solved = network.regulators.solve(modes, None)
    except NotSettledError:
        return None
    return modes.latched, tuple(mode for mode, _ in solved.part.regulated)


def _follow_group(
    network: Network, start: Modes, key: _Key, altered: Alteration, places: Numbers, found: Followed
) -> Iterator[tuple[_Key, Numbers]]:
    """Solve one group. What stays in it is found; the others go on to other groups."""
    latched, regulation = key
    modes = Modes(start.positions, start.engine, *latched)
    try:
        solved = network.regulators.circuitry.ohmic_part(modes, regulation).solve()
    except NotSettledError:
        return
    variants = vary(solved, altered[places].change_of(solved.part))
    for after, here in _after(network, modes, regulation, solved, variants):
        if after == key:
            settled = places[here]
            found.potential[settled] = variants.potential[here]
            found.generated_a[settled] = variants.generated_a[here]
            found.known[settled] = True
            found.groups.append(Group(settled, modes, solved))
        else:
            yield _cut_off(network, start, after), places[here]


def _cut_off(network: Network, start: Modes, key: _Key) -> _Key:
    """A coil that no closed contact leads to drops out at once."""
    modes = network.coils.without_cut_off(Modes(start.positions, start.engine, *key[0]))
    return modes.latched, key[1]


def _after(
    network: Network, modes: Modes, regulation: tuple[Regulation, ...], solved: Solved, variants: Variants
) -> Iterator[tuple[_Key, Numbers]]:
    """The groups that the variants of a group ask for, each with its variants; what did not settle is in none.

    First an alternator regulates otherwise, then a coil pulls in or drops out, or an alternator wakes up.
    """
    generators, count = network.assembly.generators, len(variants.settled)
    asleep = [each.owner for each in generators if each.owner not in modes.excited]
    told = [
        *(_holds(network, solved, variants, place) for place in range(len(generators))),
        *(variants.generated_a.T > 0),
        *(np.broadcast_to(network.wakes_up(each, modes, variants.potential), count) for each in asleep),
        *network.coils.bands(variants.potential).T,
        variants.settled,
    ]
    alike, which = np.unique(np.array(told, dtype=np.int8).T, axis=0, return_inverse=True)
    keys: dict[_Key, list[int]] = {}
    for number, row in enumerate(alike.tolist()):
        if row[-1]:
            keys.setdefault(_asks_for(network, modes, regulation, asleep, row), []).append(number)
    for key, numbers in keys.items():
        yield key, np.flatnonzero(np.isin(which, numbers))


def _holds(network: Network, solved: Solved, variants: Variants, place: int) -> Mask:
    """Whether an alternator does what was assumed, shape (variants,)."""
    holds = network.regulators.holds(solved.part, place, variants.potential, variants.generated_a[:, place])
    return np.broadcast_to(holds, len(variants.settled))


def _asks_for(
    network: Network, modes: Modes, regulation: tuple[Regulation, ...], asleep: list[str], row: list[int]
) -> _Key:
    """The group that variants ask for in which all this is so (see ``_after``)."""
    count = len(regulation)
    holds, gives, rest = row[:count], row[count : 2 * count], row[2 * count : -1]
    if not all(holds):
        other = zip(regulation, holds, gives, strict=True)
        return modes.latched, tuple(
            mode if held else network.regulators.other(mode, float(given)) for mode, held, given in other
        )
    woken = modes.excited.union(each for each, wakes_up in zip(asleep, rest, strict=False) if wakes_up)
    moved = replace(modes, pulled_in=network.coils.after(modes, np.array(rest[len(asleep) :])), excited=woken)
    return moved.latched, regulation if moved.latched == modes.latched else network.regulators.assumed(
        moved, regulation
    )
