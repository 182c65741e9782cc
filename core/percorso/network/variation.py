"""A settled state solved again with one conductance changed at a time: all changes at once, from one inverse.

Another conductance between two points is a rank-one change of the ohmic part (Sherman and Morrison, 1950), and so of
the Jacobian in the settled state. Newton's method with that Jacobian held still is then a few products of matrices for
all changes together; what is too far off for it is left to be solved by itself.
"""

from dataclasses import dataclass, fields, replace

import numpy as np

from percorso.arrays import Array, Mask, Numbers
from percorso.network.kernel import current_and_slope, newton_each
from percorso.network.newton import OhmicPart, Ports, Solved

VARIED_V = 1e-9  # element voltages of variants are solved to this
HELD_STEPS = 4  # with the Jacobian held; what is not there then goes on with its own
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
    by ``laws``. A coil pulls in from ``pull_in_v`` on; NaN where it is none, or needs what it usually does.
    """

    start: Numbers
    end: Numbers
    branch: Numbers
    altered_s: Array
    held: Mask
    laws: Laws
    pull_in_v: Array

    def __getitem__(self, places: Numbers) -> "Alteration":
        """Some of them."""
        return Alteration(
            self.start[places],
            self.end[places],
            self.branch[places],
            self.altered_s[places],
            self.held[places],
            self.laws[places],
            self.pull_in_v[places],
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
    settled: Mask


@dataclass(frozen=True)
class _Changes:
    """One change for each variant, seen from the unknowns and from the active elements.

    A current of 1 A through it raises the unknowns by a column, of those in ``columns`` the one that ``pair`` says, for
    many are between the same two points; and the elements by ``raised``. 1 A through each element raises it by
    ``across``. ``factor`` is the conductance that stands for the change, S.
    """

    start: Numbers
    end: Numbers
    columns: Array  # (pairs, unknowns)
    pair: Numbers  # (changes,)
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
        own = {each.name: getattr(self, each.name)[places] for each in fields(self) if each.name != "columns"}
        return _Changes(columns=self.columns, **own)

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


def vary(solved: Solved, change: Change, points: Numbers | None = None) -> Variants:
    """Solve with each change made by itself; contacts stay as they are.

    What leads nowhere may be cut: nothing else changes then, and what lies behind the cut reads nothing. ``points``:
    those that are asked for, if not all; the potentials of others are not computed, and NaN.
    """
    part = solved.part
    size, reference = part.circuitry.size, part.circuitry.assembly.reference_number
    changes = _changes(part, change)
    cut, knows = _cut(solved, change, changes)
    changes = changes.without(cut)
    laws = _laws(part, change.laws)
    excess, settled = _settle(solved, changes, laws)
    drawn = changes.at_rest_a - changes.drawn_a(excess)

    def unknowns(some: Numbers | slice) -> Array:
        found: Array = part.base[some] - excess @ part.reach[some].T
        found -= changes.columns[:, some][changes.pair] * drawn[:, None]
        return found

    potential = unknowns(slice(size)) if points is None else np.full((len(drawn), size), np.nan)
    if points is not None:
        potential[:, points] = unknowns(points)
    potential -= unknowns(np.array([reference]))
    for place in np.flatnonzero(cut & knows & (change.of_s + change.added_s == 0)).tolist():
        potential[place, changes.behind(place, reference)[:size]] = 0.0
    return Variants(potential, unknowns(slice(size, None)), settled & (~cut | knows))


def _cut(solved: Solved, change: Change, changes: "_Changes") -> tuple[Mask, Mask]:
    """The changes that leave next to nothing between their two points, and those of them that change nothing else."""
    cut = changes.left <= LEAST_LEFT
    carried = np.abs(change.of_s * (solved.potential[change.start] - solved.potential[change.end]))
    still_s = change.of_s + change.added_s
    dropped_v = np.where(still_s > 0, carried / np.where(still_s > 0, still_s, 1.0), 0.0)
    return cut, (change.of_s > 0) & (carried <= NOTHING_A) & (dropped_v <= NOTHING_V)


def _changes(part: OhmicPart, change: Change) -> _Changes:
    size = part.circuitry.size
    pairs, pair = np.unique(change.start * size + change.end, return_inverse=True)
    start, end = np.divmod(pairs, size)
    columns = part.columns(start, end)
    every = np.arange(len(pairs))
    left = 1 + change.added_s * (columns[every, start] - columns[every, end])[pair]
    factor = change.added_s / np.where(left == 0.0, 1.0, left)
    return _Changes(
        start=change.start,
        end=change.end,
        columns=columns,
        pair=pair,
        raised=(columns[:, part.ports.start] - columns[:, part.ports.end])[pair],
        across=(part.reach[start] - part.reach[end])[pair],
        factor=factor,
        left=left,
        at_rest_a=factor * (part.base[start] - part.base[end])[pair],
    )


@dataclass(frozen=True)
class _ActiveLaws:
    """The laws of the active elements, and with which changes (``rows``) which element has another one."""

    ports: Ports
    rows: Numbers
    element: Numbers
    number: Numbers
    parameters: Array  # (others, 3)

    def currents(self, voltage: Array, count: int | None = None) -> tuple[Array, Array]:
        """What the elements take beyond their companions, A, and how much more for more voltage, S, shape (changes,
        elements); with ``count`` for so many changes at the same voltages.
        """
        ports = self.ports
        found = current_and_slope(ports.law, voltage, *ports.parameters.T)
        current, slope = found if count is None else (np.tile(each, (count, 1)) for each in found)
        across = voltage[self.element] if count else voltage[self.rows, self.element]
        own = current_and_slope(self.number, across, *self.parameters.T)
        current[self.rows, self.element], slope[self.rows, self.element] = own
        return current - ports.companion * voltage, slope - ports.companion

    def only(self, places: Numbers, count: int) -> "_ActiveLaws":
        """Those of some of so many changes."""
        row = np.full(count, -1)
        row[places] = np.arange(len(places))
        here = row[self.rows] >= 0
        return _ActiveLaws(
            self.ports, row[self.rows[here]], self.element[here], self.number[here], self.parameters[here]
        )

    def each(self, count: int) -> tuple[Numbers, Array]:
        """Law and parameters of every element with each of so many changes."""
        number = np.tile(self.ports.law, (count, 1))
        parameters = np.tile(self.ports.parameters, (count, 1, 1))
        number[self.rows, self.element], parameters[self.rows, self.element] = self.number, self.parameters
        return number, parameters


def _laws(part: OhmicPart, others: Laws | None) -> _ActiveLaws:
    none = np.zeros(0, dtype=np.int64)
    if others is None:
        return _ActiveLaws(part.ports, none, none, none, np.zeros((0, 3)))
    branches = part.circuitry.elements[part.ports.active]
    conducts = part.circuitry.has_law[others.branch] & part.conducting[others.branch]
    rows = np.flatnonzero((others.branch >= 0) & conducts)
    element = np.searchsorted(branches, others.branch[rows])
    return _ActiveLaws(part.ports, rows, element, others.number[rows], others.parameters[rows])


def _settle(solved: Solved, changes: _Changes, laws: _ActiveLaws) -> tuple[Array, Mask]:
    """What the elements take beyond their companions in every variant, A, by Newton's method with the Jacobian of the
    settled state, from there; and who settled.
    """
    part = solved.part
    own = solved.element_v[part.ports.active]
    slope = part.circuitry.currents(solved.element_v)[1][part.ports.active] - part.ports.companion
    inverse = np.linalg.inv(np.eye(len(part.ports.active)) + part.impedance * slope)
    towards = changes.raised @ inverse.T
    felt = changes.factor[:, None] * changes.across * slope
    held = 1 - np.einsum("ke,ke->k", felt, towards)
    bias = part.base[part.ports.start] - part.base[part.ports.end] - changes.raised * changes.at_rest_a[:, None]
    voltage = np.tile(own, (len(changes.factor), 1))
    excess, _ = laws.currents(own, len(voltage))
    left = np.arange(len(voltage))
    for turn in range(HELD_STEPS):
        some = changes.only(left)
        if turn:
            excess[left], _ = laws.only(left, len(excess)).currents(voltage[left])
        error = voltage[left] - bias[left] + excess[left] @ part.impedance.T
        error -= some.raised * some.drawn_a(excess[left])[:, None]
        moving = np.abs(error).max(axis=1, initial=0.0) >= VARIED_V
        left, error = left[moving], error[moving]
        if not left.size:
            break
        step = error @ inverse.T
        step += towards[left] * (np.einsum("ke,ke->k", felt[left], step) / held[left])[:, None]
        voltage[left] = np.clip(voltage[left] - step, -FARTHEST_V, FARTHEST_V)
    settled = np.ones(len(voltage), dtype=bool)
    if left.size:
        others = laws.only(left, len(excess))
        voltage, settled[left] = _settle_alone(solved, changes.only(left), others, bias[left])
        excess[left], _ = others.currents(voltage)
    return excess, settled


def _settle_alone(solved: Solved, changes: _Changes, laws: _ActiveLaws, bias: Array) -> tuple[Array, Mask]:
    """Element voltages of variants that are too far off for a Jacobian that is held, by Newton's method with their own,
    V, shape (changes, elements); and who settled.
    """
    ports, count = solved.part.ports, len(bias)
    felt = changes.factor[:, None] * changes.across
    voltage = np.tile(solved.element_v[ports.active], (count, 1))
    impedance, raised = np.ascontiguousarray(solved.part.impedance), np.ascontiguousarray(changes.raised)
    settled = newton_each(*laws.each(count), impedance, raised, felt, bias, ports.companion, voltage, VARIED_V)
    return voltage, settled


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
        self._behind = np.zeros((len(changes.pair), changes.columns.shape[1]), dtype=bool)
        for place in np.flatnonzero(cut & knows & (change.of_s + change.added_s == 0)).tolist():
            self._behind[place] = changes.behind(place, part.circuitry.assembly.reference_number)
        ports = part.ports
        voltage = potential[:, ports.start] - potential[:, ports.end]
        self._beyond = _laws(part, change.laws).currents(voltage)[1]
        felt = self._changes.factor[:, None] * self._changes.across
        impedance = part.impedance - self._changes.raised[:, :, None] * felt[:, None, :]
        self._settled = np.linalg.inv(np.eye(len(ports.active)) + impedance * self._beyond[:, None, :])

    def ohm(self, first: Numbers, second: Numbers, rows: Numbers) -> Array:
        """Between pairs of numbered points with some of the changes, Ω, shape (rows, pairs); infinite across a cut."""
        part, changes, every = self._part, self._changes.only(rows), np.arange(len(first))
        ports, beyond = part.ports, self._beyond[rows]
        injected = part.inverse[:, first] - part.inverse[:, second]
        back = (changes.columns[:, first] - changes.columns[:, second])[changes.pair]
        drawn = changes.factor[:, None] * (injected[changes.start] - injected[changes.end])
        raised = (injected[ports.start] - injected[ports.end]).T - changes.raised[:, None, :] * drawn[:, :, None]
        felt = (back * changes.factor[:, None])[:, :, None] * changes.across[:, None, :]
        seen = part.reach[first] - part.reach[second] - felt
        settled = raised @ self._settled[rows].transpose(0, 2, 1)
        ohmic = injected[first, every] - injected[second, every] - back * drawn
        apart = self._behind[np.ix_(rows, first)] != self._behind[np.ix_(rows, second)]
        return np.where(apart, np.inf, ohmic - (seen * beyond[:, None, :] * settled).sum(axis=-1))
