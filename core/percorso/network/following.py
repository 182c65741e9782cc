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
    moves: dict[_Key, list[int]] = {}
    stays = []
    for at, after in enumerate(_after(network, modes, regulation, solved, variants)):
        if not variants.settled[at]:
            continue
        if after == key:
            stays.append(at)
        else:
            moves.setdefault(after, []).append(at)
    if stays:
        settled = places[stays]
        found.potential[settled] = variants.potential[stays]
        found.generated_a[settled] = variants.generated_a[stays]
        found.known[settled] = True
        found.groups.append(Group(settled, modes, solved))
    for after, leaving in moves.items():
        yield _cut_off(network, start, after), places[leaving]


def _cut_off(network: Network, start: Modes, key: _Key) -> _Key:
    """A coil that no closed contact leads to drops out at once."""
    modes = network.coils.without_cut_off(Modes(start.positions, start.engine, *key[0]))
    return modes.latched, key[1]


def _after(
    network: Network, modes: Modes, regulation: tuple[Regulation, ...], solved: Solved, variants: Variants
) -> Iterator[_Key]:
    """The group that each variant of a group asks for: first its alternators, then what pulls in or wakes up."""
    regulators, generators = network.regulators, network.assembly.generators
    holds = [
        regulators.holds(solved.part, place, variants.potential, variants.generated_a[:, place])
        for place in range(len(generators))
    ]
    wakes = {
        each.owner: np.broadcast_to(network.wakes_up(each.owner, modes, variants.potential), len(variants.settled))
        for each in generators
        if each.owner not in modes.excited
    }
    bands = network.coils.bands(variants.potential)
    for at in range(len(variants.settled)):
        if not all(each[at] for each in holds):
            other = tuple(
                mode if held[at] else regulators.other(mode, float(given))
                for mode, held, given in zip(regulation, holds, variants.generated_a[at], strict=True)
            )
            yield modes.latched, other
            continue
        pulled = network.coils.after(modes, bands[at])
        woken = modes.excited.union(each for each, wakes_up in wakes.items() if wakes_up[at])
        if (pulled, woken) == modes.latched:
            yield modes.latched, regulation
        else:
            moved = replace(modes, pulled_in=pulled, excited=woken)
            yield moved.latched, regulators.assumed(moved, regulation)
