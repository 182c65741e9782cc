"""A settled state solved again with one conductance changed at a time: all changes at once, from one inverse.

Another conductance between two points is a rank-one change of the ohmic part (Sherman and Morrison, 1950), and so of
what the active elements see of one another; Newton's method goes on from the settled state, compiled for all of them.
"""

from dataclasses import dataclass, replace

import numpy as np

from percorso.arrays import Array, Mask, Numbers
from percorso.network.kernel import current_and_slope, newton_each, rank_one_update
from percorso.network.newton import OhmicPart, Solved

VARIED_V = 1e-9  # element voltages of variants are solved to this
MIN_PIVOT = 1e-10  # of what a change leaves of its own conductance and all beside it: with less, figures are lost
NOTHING_A = 1e-7  # what carries no more leads nowhere
NOTHING_V = 1e-4  # nor what loses no more


@dataclass(frozen=True)
class Laws:
    """Another law for one branch that has a law, one for each place; ``branch`` is negative where none has another."""

    branch: Numbers
    number: Numbers
    parameters: Array  # (places, 3)

    def __getitem__(self, places: Numbers) -> "Laws":
        """Some of them."""
        return Laws(self.branch[places], self.number[places], self.parameters[places])


@dataclass(frozen=True)
class ConductanceChange:
    """More conductance (S, less where negative) between two numbered points: one change for each place.

    ``of_s`` is what a branch that is changed has itself, 0 where it is no branch. With ``laws`` the conductance stays,
    and an element has another law.
    """

    start: Numbers
    end: Numbers
    added_s: Array
    of_s: Array
    laws: Laws | None = None

    @staticmethod
    def of_branches(part: OhmicPart, branches: Numbers, ohm: Array) -> "ConductanceChange":
        """Plain resistances at ``ohm`` instead of what they have; one that does not conduct changes nothing."""
        wiring = part.circuitry
        has_s = np.where(part.conducting[branches], part.conductance[branches], 0.0)
        added = np.where(part.conducting[branches], 1 / ohm - has_s, 0.0)
        return ConductanceChange(wiring.start[branches], wiring.end[branches], added, has_s)


@dataclass(frozen=True)
class BranchOverride:
    """Something that is otherwise, one for each place: a numbered branch that conducts ``altered_s`` instead of what it
    has, or where ``branch`` is negative as much more between two numbered points.

    A branch that is open stays so, unless it is ``held``: then it conducts at all times. One that has a law has another
    by ``laws``. A coil pulls in from ``pull_in_v`` on; NaN where it is none, or needs what it usually does.
    """

    start: Numbers
    end: Numbers
    branch: Numbers
    altered_s: Array
    held: Mask
    laws: Laws
    pull_in_v: Array

    def __getitem__(self, places: Numbers) -> "BranchOverride":
        """Some of them."""
        return BranchOverride(
            self.start[places],
            self.end[places],
            self.branch[places],
            self.altered_s[places],
            self.held[places],
            self.laws[places],
            self.pull_in_v[places],
        )

    def change_of(self, part: OhmicPart) -> ConductanceChange:
        """What they add in an ohmic part."""
        has_s = np.where((self.branch >= 0) & part.conducting[self.branch], part.conductance[self.branch], 0.0)
        of_branch = np.where(part.conducting[self.branch] | self.held, self.altered_s - has_s, 0.0)
        added_s = np.where(self.branch < 0, self.altered_s, of_branch)
        return ConductanceChange(self.start, self.end, np.where(self.laws.branch < 0, added_s, 0.0), has_s, self.laws)


@dataclass(frozen=True)
class Variants:
    """Potentials against the reference (V, shape (changes, points)), generators' currents (A), and who settled."""

    potential: Array
    generated_a: Array
    settled: Mask


@dataclass(frozen=True)
class _Changes:
    """One change for each variant, seen from the unknowns and from the active elements.

    Many are between the same two points, so those are told once, and ``pair`` says which are whose. A current of 1 A
    between them raises the unknowns by a row of ``columns`` and the elements by one of ``raised``; 1 A through each
    element raises what is between them by ``across``. ``factor`` is the conductance that stands for the change, S.
    """

    columns: Array  # (pairs, unknowns)
    raised: Array  # (pairs, elements)
    across: Array  # (pairs, elements)
    start: Numbers  # as all that follow, one for each change
    end: Numbers
    pair: Numbers
    factor: Array
    left: Array  # of the conductance between its two points, by share
    at_rest_a: Array  # what the change draws while the elements draw nothing beyond their companions
    laws: Laws  # ``branch`` is the place among the active elements of the one that has another law

    def without(self, some: Mask) -> "_Changes":
        """The same, where some change nothing."""
        if not some.any():
            return self
        return replace(
            self,
            factor=np.where(some, 0.0, self.factor),
            at_rest_a=np.where(some, 0.0, self.at_rest_a),
        )

    def behind(self, place: int, reference: int) -> Mask:
        """The unknowns beyond a cut, seen from the reference: 1 A that goes through it raises each side as a whole."""
        column = self.columns[self.pair[place]]
        far = np.abs(column - column[reference]) > np.ptp(column) / 2
        return np.asarray(far)


def vary(solved: Solved, change: ConductanceChange, points: Numbers | None = None) -> Variants:
    """Solve with each change made by itself; contacts stay as they are.

    What leads nowhere may be cut: nothing else changes then, and what lies behind the cut reads nothing. With which a
    regulator sees another point has not settled here. ``points``: those that are asked for, if not all; the potentials
    of others are not computed, and NaN.
    """
    part, ports = solved.part, solved.part.ports
    changes = _changes(part, change)
    cut, knows = _cut(solved, change, changes)
    changes = changes.without(cut)
    laws, bias = changes.laws, part.base[ports.start] - part.base[ports.end]
    excess, drawn_a, settled = newton_each(
        *(ports.law, ports.parameters, ports.companion, part.impedance, bias, solved.element_v[ports.active]),
        *(changes.raised, changes.across, changes.pair, changes.factor, changes.at_rest_a),
        *(laws.branch, laws.number, laws.parameters, VARIED_V),
    )
    potential, generated_a = _unknowns(part, changes, excess, drawn_a, points)
    for place in np.flatnonzero(cut & knows & (change.of_s + change.added_s == 0)).tolist():
        behind = changes.behind(place, part.circuitry.assembly.reference_number)
        potential[place, behind[: part.circuitry.size]] = 0.0
    settled &= (~cut | knows) & ~_sees_otherwise(part, change, cut, potential)
    return Variants(potential, generated_a, settled)


def _sees_otherwise(part: OhmicPart, change: ConductanceChange, cut: Mask, potential: Array) -> Mask:
    """With which changes a regulator sees another point: something joins a sense lead that leads nowhere, or a break
    leaves one that does, be it in the last load behind it.
    """
    wiring, laws = part.circuitry, change.laws
    found = np.zeros(len(change.start), dtype=bool)
    leads = zip(wiring.posts.tolist(), part.regulated, strict=True)
    for plus, sense in [(plus, sense) for (plus, _, sense), each in leads if plus != sense and each.mode != "still"]:
        here, there = sorted((part.wired[plus], part.wired[sense]))
        if here != there:
            ends = np.sort(part.wired[[change.start, change.end]], axis=0)
            found |= (change.added_s > 0) & (ends[0] == here) & (ends[1] == there)
            continue
        breaks = cut & (change.of_s + change.added_s == 0)
        if laws is not None:
            hardly = 2 * np.abs(potential[:, sense]) < np.abs(potential[:, plus])
            breaks |= hardly & (laws.branch >= 0) & (laws.parameters[:, 1] == 0)
        for place in np.flatnonzero(breaks).tolist():
            between = (wiring.start == change.start[place]) & (wiring.end == change.end[place])
            wired = part.wired_without(between)
            found[place] |= wired[plus] != wired[sense]
    return found


def _unknowns(
    part: OhmicPart, changes: _Changes, excess: Array, drawn_a: Array, points: Numbers | None
) -> tuple[Array, Array]:
    """Potentials of some points, or all, and what generators give, for what elements (beyond their companions) and the
    changes draw: see Variants.
    """
    size, reference = part.circuitry.size, part.circuitry.assembly.reference_number
    wanted = np.arange(size) if points is None else points
    count, some = len(wanted), np.concatenate([wanted, np.arange(size, len(part.base))])
    base, reach, columns = part.base[some], part.reach[some], np.ascontiguousarray(changes.columns[:, some])
    base[:count] -= part.base[reference]
    reach[:count] -= part.reach[reference]
    columns[:, :count] -= changes.columns[:, [reference]]
    found = rank_one_update(base, reach, columns, changes.pair, excess, drawn_a)
    potential, generated_a = found[:, :count], found[:, count:]
    if points is None:
        return potential, generated_a
    every = np.full((len(found), size), np.nan)
    every[:, points] = potential
    return every, generated_a


def _cut(solved: Solved, change: ConductanceChange, changes: "_Changes") -> tuple[Mask, Mask]:
    """The changes that leave next to nothing between their two points, and those of them that change nothing else."""
    cut = changes.left <= MIN_PIVOT
    carried = np.abs(change.of_s * (solved.potential[change.start] - solved.potential[change.end]))
    still_s = change.of_s + change.added_s
    dropped_v = np.where(still_s > 0, carried / np.where(still_s > 0, still_s, 1.0), 0.0)
    return cut, (change.of_s > 0) & (carried <= NOTHING_A) & (dropped_v <= NOTHING_V)


def _changes(part: OhmicPart, change: ConductanceChange) -> _Changes:
    size = part.circuitry.size
    pairs, pair = np.unique(change.start * size + change.end, return_inverse=True)
    start, end = np.divmod(pairs, size)
    columns = part.columns(start, end)
    every = np.arange(len(pairs))
    left = 1 + change.added_s * (columns[every, start] - columns[every, end])[pair]
    factor = change.added_s / np.where(left == 0.0, 1.0, left)
    return _Changes(
        columns=columns,
        raised=np.ascontiguousarray(columns[:, part.ports.start] - columns[:, part.ports.end]),
        across=part.reach[start] - part.reach[end],
        start=change.start,
        end=change.end,
        pair=pair,
        factor=factor,
        left=left,
        at_rest_a=factor * (part.base[start] - part.base[end])[pair],
        laws=_laws(part, change.laws, len(pair)),
    )


def _laws(part: OhmicPart, laws: Laws | None, count: int) -> Laws:
    """Other laws of elements that conduct, by their places among those."""
    if laws is None:
        return Laws(np.full(count, -1), np.zeros(count, dtype=np.int64), np.zeros((count, 3)))
    branches = part.circuitry.elements[part.ports.active]
    conducts = (laws.branch >= 0) & part.circuitry.has_law[laws.branch] & part.conducting[laws.branch]
    return Laws(np.where(conducts, np.searchsorted(branches, laws.branch), -1), laws.number, laws.parameters)


class Loading:
    """What an instrument sees between its probes in each of many variants, as they settled.

    Each has its own slopes of the elements, so the Jacobian of each is its own, reduced to the elements.
    """

    def __init__(self, solved: Solved, change: ConductanceChange, potential: Array) -> None:
        """``potential``: of the variants, V, shape (changes, points)."""
        self._part = part = solved.part
        changes = _changes(part, change)
        cut, knows = _cut(solved, change, changes)
        self._changes = changes = changes.without(cut)
        self._behind = np.zeros((len(changes.pair), changes.columns.shape[1]), dtype=bool)
        for place in np.flatnonzero(cut & knows & (change.of_s + change.added_s == 0)).tolist():
            self._behind[place] = changes.behind(place, part.circuitry.assembly.reference_number)
        ports, laws = part.ports, changes.laws
        voltage = potential[:, ports.start] - potential[:, ports.end]
        slope = current_and_slope(ports.law, voltage, *ports.parameters.T)[1]
        rows = np.flatnonzero(laws.branch >= 0)
        others = laws[rows]
        across = voltage[rows, others.branch]
        slope[rows, others.branch] = current_and_slope(others.number, across, *others.parameters.T)[1]
        self._beyond = slope - ports.companion
        felt = changes.factor[:, None] * changes.across[changes.pair]
        impedance = part.impedance - changes.raised[changes.pair][:, :, None] * felt[:, None, :]
        self._settled = np.linalg.inv(np.eye(len(ports.active)) + impedance * self._beyond[:, None, :])

    def ohm(self, first: Numbers, second: Numbers, rows: Numbers) -> Array:
        """Between pairs of numbered points with some of the changes, Ω, shape (rows, pairs); infinite across a cut."""
        part, changes, every = self._part, self._changes, np.arange(len(first))
        ports, beyond, pair, factor = part.ports, self._beyond[rows], changes.pair[rows], changes.factor[rows, None]
        injected = part.inverse[:, first] - part.inverse[:, second]
        back = (changes.columns[:, first] - changes.columns[:, second])[pair]
        drawn = factor * (injected[changes.start[rows]] - injected[changes.end[rows]])
        raised = (injected[ports.start] - injected[ports.end]).T - changes.raised[pair][:, None, :] * drawn[:, :, None]
        felt = (back * factor)[:, :, None] * changes.across[pair][:, None, :]
        seen = part.reach[first] - part.reach[second] - felt
        settled = raised @ self._settled[rows].transpose(0, 2, 1)
        ohmic = injected[first, every] - injected[second, every] - back * drawn
        apart = self._behind[np.ix_(rows, first)] != self._behind[np.ix_(rows, second)]
        return np.where(apart, np.inf, ohmic - (seen * beyond[:, None, :] * settled).sum(axis=-1))
