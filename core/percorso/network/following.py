"""Many changes of a network, one at a time, followed through all that switches with them, in groups.

Changes with which the same has pulled in, woken up and regulates share one solved network, from which each is one
rank-one change. What a change makes switch moves it to another group, until nothing moves any more.
"""

from collections import deque
from collections.abc import Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Numbers
from percorso.network.modes import TURNING, LatchState, Modes
from percorso.network.newton import NotSettledError, OhmicPart, Regulation, Solved
from percorso.network.operating_point import Network
from percorso.network.regulation import MODES_AND_STILL
from percorso.network.variation import BranchOverride, Variants, vary
from percorso.vehicle.states import ENGINE, WAY_TO, State, Step, positions, steps

MOST_GROUPS = 400  # of one step; what is left then is not known


@dataclass(frozen=True)
class VariantGroup:
    """Changes that end alike: their places, and what has pulled in and regulates with them."""

    places: Numbers
    modes: Modes
    solved: Solved


@dataclass(frozen=True)
class InPhase:
    """One of the phases that changes go through again and again: see Group, with their own potentials (V) and what
    alternators give (A).
    """

    group: VariantGroup
    potential: Array
    generated_a: Array


@dataclass
class Followed:
    """Where changes lead: potentials (V, shape (changes, points)), what alternators give (A, shape (changes,
    alternators)), the groups of those that come to rest, and the phases of those that chatter, in their order.

    What neither comes to rest nor chatters is in none of them. ``points``: those whose potentials are computed, if not
    all: on the way only what switches is looked at.
    """

    potential: Array
    generated_a: Array
    groups: list[VariantGroup]
    chatters: list[tuple[InPhase, ...]]
    points: Numbers | None = None


_Key = tuple[LatchState, tuple[Regulation, ...]]
_Waiting = tuple[_Key, Numbers, Solved | None]  # a group, the changes that go on to it, and where they come from


def settle_variants(network: Network, state: State, chosen: Mapping[str, str], altered: BranchOverride) -> Followed:
    """Every change by itself, from the key off to a state. Raises StateError for an unknown input."""
    count = len(altered.branch)
    arrived: dict[LatchState, Numbers] = {LatchState(): np.arange(count)}
    found = _nothing(network, count)
    way = steps(WAY_TO[state], chosen)
    for step in way:
        found = _nothing(network, count, None if step is way[-1] else network.watched)
        for latched, places in arrived.items():
            _follow_step(network, step, latched, altered, places, found)
        arrived = _by_latched([*found.groups, *(phases[-1].group for phases in found.chatters)])
    return found


def _nothing(network: Network, count: int, points: Numbers | None = None) -> Followed:
    sizes = network.assembly.size, len(network.assembly.generators)
    return Followed(np.zeros((count, sizes[0])), np.zeros((count, sizes[1])), [], [], points)


def _by_latched(groups: list[VariantGroup]) -> dict[LatchState, Numbers]:
    together: dict[LatchState, list[Numbers]] = {}
    for group in groups:
        together.setdefault(group.modes.latched, []).append(group.places)
    return {latched: np.concatenate(places) for latched, places in together.items()}


def _follow_step(
    network: Network, step: Step, latched: LatchState, altered: BranchOverride, places: Numbers, found: Followed
) -> None:
    """One step for what arrived with the same latched; what comes to rest is added to ``found``."""
    engine = ENGINE[step.state]
    excited = latched.excited if engine in TURNING else frozenset()
    start = Modes(positions(network.vehicle.inputs, step.state, step.chosen), engine, latched.pulled_in, excited)
    first = _key(network, start)
    if first is None:
        return
    waiting: deque[_Waiting] = deque([(first, places, None)])
    visits: list[tuple[_Key, set[int]]] = []
    rounds: dict[tuple[_Key, ...], list[int]] = {}
    chatters: dict[tuple[_Key, ...], list[int]] = {}
    for _ in range(MOST_GROUPS):
        if not waiting:
            break
        key, here, near = waiting.popleft()
        been = set[int]().union(*(those for one, those in visits if one == key))
        for place in sorted(been.intersection(here.tolist())):  # it goes round
            before = [one for one, those in visits if place in those]
            rounds.setdefault(tuple(before[before.index(key) :]), []).append(place)
        fresh = set(here.tolist()) - been
        if fresh:
            visits.append((key, fresh))
            waiting.extend(_follow_group(network, start, (key, np.array(sorted(fresh)), near), altered, found))
        while not waiting and rounds:
            cycle, round_ = rounds.popitem()
            searched = _key(network, Modes(start.positions, engine, *cycle[0][0]))
            if searched is not None and {each[0] for each in cycle} == {searched[0]} and searched not in cycle:
                waiting.append((searched, np.array(round_), None))  # two alternators that only a search brings to rest
            else:
                chatters[cycle] = round_
    for cycle, round_ in chatters.items():
        phases = _phases(network, start, cycle, altered, np.array(round_))
        if phases:
            found.chatters.append(phases)


def _phases(
    network: Network, start: Modes, cycle: tuple[_Key, ...], altered: BranchOverride, places: Numbers
) -> tuple[InPhase, ...]:
    """What changes go through: groups from which not only an alternator regulates otherwise; none that cannot tell."""
    phases: list[InPhase] = []
    for key, after in zip(cycle, (*cycle[1:], cycle[0]), strict=True):
        if after[0] == key[0]:
            continue
        modes = Modes(start.positions, start.engine, *key[0])
        near = phases[-1].group.solved if phases else None
        try:
            solved = _solved(network.regulators.circuitry.ohmic_part(modes, key[1]), near)
        except NotSettledError:
            return ()
        variants = vary(solved, altered[places].change_of(solved.part))
        if not variants.settled.all():
            return ()
        phases.append(InPhase(VariantGroup(places, modes, solved), variants.potential, variants.generated_a))
    return tuple(phases)


def _key(network: Network, modes: Modes) -> _Key | None:
    """The group that the sound network begins in with these modes."""
    modes = network.coils.without_cut_off(modes)
    try:
        solved = network.regulators.solve(modes, None)
    except NotSettledError:
        return None
    return modes.latched, tuple(each.mode for each in solved.part.regulated)


def _follow_group(
    network: Network, start: Modes, waiting: _Waiting, altered: BranchOverride, found: Followed
) -> Iterator[_Waiting]:
    """Solve one group. What stays in it is found; the others go on to other groups."""
    key, places, near = waiting
    latched, regulation = key
    modes = Modes(start.positions, start.engine, *latched)
    part = network.regulators.circuitry.ohmic_part(modes, regulation)
    try:
        solved = _solved(part, near)
    except NotSettledError:
        searched = _key(network, modes)
        if searched is not None:
            yield searched, places, None
        return
    variants = vary(solved, altered[places].change_of(solved.part), found.points)
    bands = network.coils.bands_with(variants.potential, altered.branch[places], altered.pull_in_v[places])
    for after, here in _after(network, modes, regulation, solved, variants, bands):
        if after == key:
            settled = places[here]
            if found.points is None:
                found.potential[settled] = variants.potential[here]
            found.generated_a[settled] = variants.generated_a[here]
            found.groups.append(VariantGroup(settled, modes, solved))
        else:
            yield _cut_off(network, start, after), places[here], solved


def _solved(part: OhmicPart, near: Solved | None) -> Solved:
    """A group's network, from nothing, or else from the group that led to it. Raises NotSettledError."""
    with suppress(NotSettledError):
        return part.solve()
    return part.solve(None if near is None else near.element_v)


def _cut_off(network: Network, start: Modes, key: _Key) -> _Key:
    """A coil that no closed contact leads to drops out at once."""
    modes = network.coils.without_cut_off(Modes(start.positions, start.engine, *key[0]))
    return modes.latched, key[1]


def _after(
    network: Network,
    modes: Modes,
    regulation: tuple[Regulation, ...],
    solved: Solved,
    variants: Variants,
    bands: NDArray[np.int_],
) -> Iterator[tuple[_Key, Numbers]]:
    """The groups that the variants of a group ask for, each with its variants; what did not settle is in none.

    ``bands`` are those of their coils.

    First an alternator regulates otherwise, then a coil pulls in or drops out, or an alternator wakes up.
    """
    generators, count = network.assembly.generators, len(variants.settled)
    asleep = [each.owner for each in generators if each.owner not in modes.excited]
    told = [
        *(
            network.regulators.asks_for(solved.part, place, variants.potential, variants.generated_a[:, place])
            for place in range(len(generators))
        ),
        *(np.broadcast_to(network.settling.wakes_up(each, modes, variants.potential), count) for each in asleep),
        *bands.T,
        variants.settled,
    ]
    keys: dict[_Key, list[Numbers]] = {}
    for row, here in _alike(np.array(told, dtype=np.int8).T):
        if row[-1]:
            keys.setdefault(_asks_for(network, modes, regulation, asleep, row), []).append(here)
    for key, those in keys.items():
        yield key, np.sort(np.concatenate(those))


def _alike(rows: NDArray[np.int8]) -> Iterator[tuple[list[int], Numbers]]:
    """The different rows, each with where it stands; most are like the first."""
    left = np.arange(len(rows))
    while left.size:
        first = rows[left[0]]
        same = (rows[left] == first).all(axis=1)
        yield first.tolist(), left[same]
        left = left[~same]


def _asks_for(
    network: Network, modes: Modes, regulation: tuple[Regulation, ...], asleep: list[str], row: list[int]
) -> _Key:
    """The group that variants ask for in which all this is so (see ``_after``)."""
    count = len(regulation)
    asked, rest = tuple(MODES_AND_STILL[each] for each in row[:count]), row[count:-1]
    if asked != regulation:
        return modes.latched, asked
    woken = modes.excited.union(each for each, wakes_up in zip(asleep, rest, strict=False) if wakes_up)
    moved = replace(modes, pulled_in=network.coils.after(modes, np.array(rest[len(asleep) :])), excited=woken)
    return moved.latched, regulation if moved.latched == modes.latched else network.regulators.assumed(
        moved, regulation
    )
