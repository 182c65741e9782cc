"""A settled state solved again with one conductance changed at a time: all changes at once, from one inverse.

Another conductance between two points is a rank-one change of the ohmic part (Sherman and Morrison, 1950), and so of
the Jacobian in the settled state. Newton's method with that Jacobian held still is then a few products of matrices for
all changes together; what is too far off for it is left to be solved by itself.
"""

from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Mask, Numbers
from percorso.network.kernel import current_and_slope, newton
from percorso.network.newton import SETTLED_V, OhmicPart, Solved

MAX_STEPS = 12
LEAST_LEFT = 1e-10  # of what a change leaves of its own conductance and all beside it: with less, figures are lost
NOTHING_A = 1e-7  # what carries no more leads nowhere
NOTHING_V = 1e-4  # nor what loses no more
FARTHEST_V = 1000.0  # what diverges stays a number


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
class Change:
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
    def of_branches(part: OhmicPart, branches: Numbers, ohm: Array) -> "Change":
        """Plain resistances at ``ohm`` instead of what they have; one that does not conduct changes nothing."""
        wiring = part.circuitry
        has_s = np.where(part.conducting[branches], part.conductance[branches], 0.0)
        added = np.where(part.conducting[branches], 1 / ohm - has_s, 0.0)
        return Change(wiring.start[branches], wiring.end[branches], added, has_s)


@dataclass(frozen=True)
class Alteration:
    """Something that is otherwise, one for each place: a numbered branch that conducts ``altered_s`` instead of what it
    has, or where ``branch`` is negative as much more between two numbered points.

    A branch that is open stays so, unless it is ``held``: then it conducts at all times. One that has a law has another
    by ``laws``.
    """

    start: Numbers
    end: Numbers
    branch: Numbers
    altered_s: Array
    held: Mask
    laws: Laws

    def __getitem__(self, places: Numbers) -> "Alteration":
        """Some of them."""
        return Alteration(
            self.start[places],
            self.end[places],
            self.branch[places],
            self.altered_s[places],
            self.held[places],
            self.laws[places],
        )

    def change_of(self, part: OhmicPart) -> Change:
        """What they add in an ohmic part."""
        has_s = np.where((self.branch >= 0) & part.conducting[self.branch], part.conductance[self.branch], 0.0)
        of_branch = np.where(part.conducting[self.branch] | self.held, self.altered_s - has_s, 0.0)
        added_s = np.where(self.branch < 0, self.altered_s, of_branch)
        return Change(self.start, self.end, np.where(self.laws.branch < 0, added_s, 0.0), has_s, self.laws)


@dataclass(frozen=True)
class Variants:
    """Potentials against the reference (V, shape (changes, points)), generators' currents (A), and who settled."""

    potential: Array
    generated_a: Array
    settled: NDArray[np.bool_]


@dataclass(frozen=True)
class _Changes:
    """One change for each variant, seen from the unknowns and from the active elements.

    A current of 1 A through it raises the unknowns by ``column`` and the elements by ``raised``; 1 A through each
    element raises it by ``across``. ``factor`` is the conductance that stands for the change, S.
    """

    start: Numbers
    end: Numbers
    column: Array  # (changes, unknowns)
    raised: Array  # (changes, elements)
    across: Array  # (changes, elements)
    factor: Array  # (changes,)
    left: Array  # (changes,): of the conductance between its two points, by share
    at_rest_a: Array  # (changes,): what the change draws while the elements draw nothing beyond their companions

    def drawn_a(self, excess: Array) -> Array:
        """What the change draws beyond ``at_rest_a`` for the elements' excess, shape (changes,)."""
        drawn: Array = self.factor * np.einsum("ke,ke->k", self.across, excess)
        return drawn

    def only(self, places: Numbers) -> "_Changes":
        """Some of them."""
        return _Changes(*(getattr(self, each.name)[places] for each in fields(self)))

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
        column = self.column[place]
        far = np.abs(column - column[reference]) > np.ptp(column) / 2
        return np.asarray(far)


def vary(solved: Solved, change: Change) -> Variants:
    """Solve with each change made by itself; contacts stay as they are.

    What leads nowhere may be cut: nothing else changes then, and what lies behind the cut reads nothing.
    """
    part = solved.part
    changes = _changes(part, change)
    cut, knows = _cut(solved, change, changes)
    changes = changes.without(cut)
    laws = _laws(part, change.laws)
    voltage, settled = _settle(solved, changes, laws)
    excess = laws.excess_a(voltage)
    drawn = changes.at_rest_a - changes.drawn_a(excess)
    unknowns = part.base - excess @ part.reach.T - changes.column * drawn[:, None]
    size = part.circuitry.size
    potential = unknowns[:, :size] - unknowns[:, [part.circuitry.assembly.reference_number]]
    for place in np.flatnonzero(cut & knows & (change.of_s + change.added_s == 0)).tolist():
        potential[place, changes.behind(place, part.circuitry.assembly.reference_number)[:size]] = 0.0
    return Variants(potential, unknowns[:, size:], settled & (~cut | knows))


def _cut(solved: Solved, change: Change, changes: "_Changes") -> tuple[Mask, Mask]:
    """The changes that leave next to nothing between their two points, and those of them that change nothing else."""
    cut = changes.left <= LEAST_LEFT
    carried = np.abs(change.of_s * (solved.potential[change.start] - solved.potential[change.end]))
    still_s = change.of_s + change.added_s
    dropped_v = np.where(still_s > 0, carried / np.where(still_s > 0, still_s, 1.0), 0.0)
    return cut, (change.of_s > 0) & (carried <= NOTHING_A) & (dropped_v <= NOTHING_V)


def _changes(part: OhmicPart, change: Change) -> _Changes:
    start, end = change.start, change.end
    column = part.columns(start, end).T
    every = np.arange(len(start))
    left = 1 + change.added_s * (column[every, start] - column[every, end])
    factor = change.added_s / np.where(left == 0.0, 1.0, left)
    return _Changes(
        start=start,
        end=end,
        column=column,
        raised=column[:, part.ports.start] - column[:, part.ports.end],
        across=part.reach[start] - part.reach[end],
        factor=factor,
        left=left,
        at_rest_a=factor * (part.base[start] - part.base[end]),
    )


@dataclass(frozen=True)
class _ActiveLaws:
    """Law and parameters of every active element with each change, shape (changes or 1, elements)."""

    number: Numbers
    parameters: tuple[Array, Array, Array]
    companion: Array

    def excess_a(self, voltage: Array) -> Array:
        """What the elements take beyond their companions, A, shape (changes, elements)."""
        return np.asarray(current_and_slope(self.number, voltage, *self.parameters)[0] - self.companion * voltage)

    def slope_s(self, voltage: Array) -> Array:
        """How much more the elements take for more voltage across them, S, shape (changes, elements)."""
        return np.asarray(current_and_slope(self.number, voltage, *self.parameters)[1])

    def only(self, places: Numbers) -> "_ActiveLaws":
        """Those of some changes."""
        if len(self.number) == 1:
            return self
        first, second, third = (each[places] for each in self.parameters)
        return _ActiveLaws(self.number[places], (first, second, third), self.companion)

    def of(self, place: int) -> tuple[Numbers, Array]:
        """Law and parameters of every element with one change."""
        row = min(place, len(self.number) - 1)
        own = np.stack([each[row] for each in self.parameters], axis=-1)
        return np.ascontiguousarray(self.number[row]), np.ascontiguousarray(own)


def _laws(part: OhmicPart, others: Laws | None) -> _ActiveLaws:
    ports = part.ports
    number, parameters = ports.law[None], ports.parameters[None]
    if others is not None and (others.branch >= 0).any():
        branches = part.circuitry.elements[ports.active]
        change, element = np.nonzero(others.branch[:, None] == branches)
        number = np.tile(number, (len(others.branch), 1))
        parameters = np.tile(parameters, (len(others.branch), 1, 1))
        number[change, element], parameters[change, element] = others.number[change], others.parameters[change]
    return _ActiveLaws(number, (parameters[..., 0], parameters[..., 1], parameters[..., 2]), ports.companion)


def _settle(solved: Solved, changes: _Changes, laws: _ActiveLaws) -> tuple[Array, NDArray[np.bool_]]:
    """Element voltages of every variant by Newton's method with the Jacobian of the settled state."""
    part = solved.part
    slope = part.circuitry.currents(solved.element_v)[1][part.ports.active] - part.ports.companion
    inverse = np.linalg.inv(np.eye(len(part.ports.active)) + part.impedance * slope)
    towards = changes.raised @ inverse.T
    felt = changes.factor[:, None] * changes.across * slope
    held = 1 - np.einsum("ke,ke->k", felt, towards)
    bias = part.base[part.ports.start] - part.base[part.ports.end] - changes.raised * changes.at_rest_a[:, None]
    voltage = np.tile(solved.element_v[part.ports.active], (len(changes.factor), 1))
    left = np.arange(len(voltage))
    for _ in range(MAX_STEPS):
        some = changes.only(left)
        excess = laws.only(left).excess_a(voltage[left])
        error = voltage[left] - bias[left] + excess @ part.impedance.T - some.raised * some.drawn_a(excess)[:, None]
        moving = np.abs(error).max(axis=1, initial=0.0) >= SETTLED_V
        left, error = left[moving], error[moving]
        if not left.size:
            break
        step = error @ inverse.T
        step += towards[left] * (np.einsum("ke,ke->k", felt[left], step) / held[left])[:, None]
        voltage[left] = np.clip(voltage[left] - step, -FARTHEST_V, FARTHEST_V)
    settled = np.ones(len(voltage), dtype=bool)
    for place in left.tolist():
        settled[place] = _settle_alone(solved, changes, laws, place, np.ascontiguousarray(bias[place]), voltage)
    return voltage, settled


def _settle_alone(
    solved: Solved, changes: _Changes, laws: _ActiveLaws, place: int, bias: Array, voltage: Array
) -> bool:
    """One variant that is too far off for a Jacobian that is held, by Newton's method with its own."""
    ports = solved.part.ports
    felt = changes.factor[place] * changes.across[place]
    impedance = np.ascontiguousarray(solved.part.impedance - np.outer(changes.raised[place], felt))
    own = solved.element_v[ports.active]
    found = bool(newton(*laws.of(place), impedance, bias, ports.companion, own, SETTLED_V))
    voltage[place] = own
    return found


class Loading:
    """What an instrument sees between its probes in each of many variants, as they settled.

    Each has its own slopes of the elements, so the Jacobian of each is its own, reduced to the elements.
    """

    def __init__(self, solved: Solved, change: Change, potential: Array) -> None:
        """``potential``: of the variants, V, shape (changes, points)."""
        self._part = part = solved.part
        changes = _changes(part, change)
        cut, knows = _cut(solved, change, changes)
        self._changes = changes.without(cut)
        self._behind = np.zeros(changes.column.shape, dtype=bool)
        for place in np.flatnonzero(cut & knows & (change.of_s + change.added_s == 0)).tolist():
            self._behind[place] = changes.behind(place, part.circuitry.assembly.reference_number)
        ports = part.ports
        voltage = potential[:, ports.start] - potential[:, ports.end]
        self._beyond = _laws(part, change.laws).slope_s(voltage) - ports.companion
        felt = self._changes.factor[:, None] * self._changes.across
        impedance = part.impedance - self._changes.raised[:, :, None] * felt[:, None, :]
        self._settled = np.linalg.inv(np.eye(len(ports.active)) + impedance * self._beyond[:, None, :])

    def ohm(self, first: Numbers, second: Numbers, rows: Numbers) -> Array:
        """Between pairs of numbered points with some of the changes, Ω, shape (rows, pairs); infinite across a cut."""
        part, changes, every = self._part, self._changes.only(rows), np.arange(len(first))
        ports, beyond = part.ports, self._beyond[rows]
        injected = part.inverse[:, first] - part.inverse[:, second]
        back = changes.column[:, first] - changes.column[:, second]
        drawn = changes.factor[:, None] * (injected[changes.start] - injected[changes.end])
        raised = (injected[ports.start] - injected[ports.end]).T - changes.raised[:, None, :] * drawn[:, :, None]
        felt = (back * changes.factor[:, None])[:, :, None] * changes.across[:, None, :]
        seen = part.reach[first] - part.reach[second] - felt
        settled = raised @ self._settled[rows].transpose(0, 2, 1)
        ohmic = injected[first, every] - injected[second, every] - back * drawn
        apart = self._behind[np.ix_(rows, first)] != self._behind[np.ix_(rows, second)]
        return np.where(apart, np.inf, ohmic - (seen * beyond[:, None, :] * settled).sum(axis=-1))
