"""A settled state solved again with one conductance changed at a time: all changes at once, from one inverse.

Another conductance between two points is a rank-one change of the ohmic part (Sherman and Morrison, 1950), and so of
the Jacobian in the settled state. Newton's method with that Jacobian held still is then a few products of matrices for
all changes together; what is too far off for it is left to be solved by itself.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Mask, Numbers
from percorso.network.kernel import newton
from percorso.network.newton import SETTLED_V, OhmicPart, Solved

MAX_STEPS = 12
LEAST_LEFT = 1e-10  # of what a change leaves of its own conductance and all beside it: with less, figures are lost
FARTHEST_V = 1000.0  # what diverges stays a number


@dataclass(frozen=True)
class Change:
    """More conductance (S, less where negative) between two numbered points: one change for each place."""

    start: Numbers
    end: Numbers
    added_s: Array

    @staticmethod
    def of_branches(part: OhmicPart, branches: Numbers, ohm: Array) -> "Change":
        """Plain resistances at ``ohm`` instead of what they have; one that does not conduct changes nothing."""
        wiring = part.circuitry
        added = np.where(part.conducting[branches], 1 / ohm - part.conductance[branches], 0.0)
        return Change(wiring.start[branches], wiring.end[branches], added)


@dataclass(frozen=True)
class Alteration:
    """Something that is otherwise, one for each place: a numbered branch that conducts ``altered_s`` instead of what it
    has, or where ``branch`` is negative as much more between two numbered points.

    A branch that is open stays so, unless it is ``held``: then it conducts at all times.
    """

    start: Numbers
    end: Numbers
    branch: Numbers
    altered_s: Array
    held: Mask

    def __getitem__(self, places: Numbers) -> "Alteration":
        """Some of them."""
        return Alteration(
            self.start[places], self.end[places], self.branch[places], self.altered_s[places], self.held[places]
        )

    def change_of(self, part: OhmicPart) -> Change:
        """What they add in an ohmic part."""
        has_s = np.where(part.conducting[self.branch], part.conductance[self.branch], 0.0)
        of_branch = np.where(part.conducting[self.branch] | self.held, self.altered_s - has_s, 0.0)
        return Change(self.start, self.end, np.where(self.branch < 0, self.altered_s, of_branch))


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


def vary(solved: Solved, change: Change) -> Variants:
    """Solve with each change made by itself; contacts stay as they are."""
    part = solved.part
    changes = _changes(part, change)
    voltage, settled = _settle(solved, changes)
    excess = _excess_a(solved, voltage)
    drawn = changes.at_rest_a - changes.drawn_a(excess)
    unknowns = part.base - excess @ part.reach.T - changes.column * drawn[:, None]
    size = part.circuitry.size
    potential = unknowns[:, :size] - unknowns[:, [part.circuitry.assembly.reference_number]]
    return Variants(potential, unknowns[:, size:], settled & (changes.left > LEAST_LEFT))


def _changes(part: OhmicPart, change: Change) -> _Changes:
    start, end = change.start, change.end
    column = (part.inverse[:, start] - part.inverse[:, end]).T
    every = np.arange(len(start))
    left = 1 + change.added_s * (column[every, start] - column[every, end])
    factor = change.added_s / np.where(left == 0.0, 1.0, left)
    return _Changes(
        column=column,
        raised=column[:, part.ports.start] - column[:, part.ports.end],
        across=part.reach[start] - part.reach[end],
        factor=factor,
        left=left,
        at_rest_a=factor * (part.base[start] - part.base[end]),
    )


def _excess_a(solved: Solved, voltage: Array) -> Array:
    """What the active elements take beyond their companions, A, shape (changes, elements)."""
    part = solved.part
    whole = np.tile(solved.element_v, (len(voltage), 1))
    whole[:, part.ports.active] = voltage
    excess: Array = part.circuitry.currents(whole)[0][:, part.ports.active] - part.ports.companion * voltage
    return excess


def _settle(solved: Solved, changes: _Changes) -> tuple[Array, NDArray[np.bool_]]:
    """Element voltages of every variant by Newton's method with the Jacobian of the settled state."""
    part = solved.part
    slope = part.circuitry.currents(solved.element_v)[1][part.ports.active] - part.ports.companion
    inverse = np.linalg.inv(np.eye(len(part.ports.active)) + part.impedance * slope)
    towards = changes.raised @ inverse.T
    felt = changes.factor[:, None] * changes.across * slope
    held = 1 - np.einsum("ke,ke->k", felt, towards)
    bias = part.base[part.ports.start] - part.base[part.ports.end] - changes.raised * changes.at_rest_a[:, None]
    voltage = np.tile(solved.element_v[part.ports.active], (len(changes.factor), 1))
    settled = np.zeros(len(voltage), dtype=bool)
    for _ in range(MAX_STEPS):
        excess = _excess_a(solved, voltage)
        error = voltage - bias + excess @ part.impedance.T - changes.raised * changes.drawn_a(excess)[:, None]
        settled = np.abs(error).max(axis=1, initial=0.0) < SETTLED_V
        if settled.all():
            break
        step = error @ inverse.T
        step += towards * (np.einsum("ke,ke->k", felt, step) / held)[:, None]
        voltage = np.where(settled[:, None], voltage, np.clip(voltage - step, -FARTHEST_V, FARTHEST_V))
    for place in np.flatnonzero(~settled).tolist():
        settled[place] = _settle_alone(solved, changes, place, np.ascontiguousarray(bias[place]), voltage)
    return voltage, settled


def _settle_alone(solved: Solved, changes: _Changes, place: int, bias: Array, voltage: Array) -> bool:
    """One variant that is too far off for a Jacobian that is held, by Newton's method with its own."""
    ports = solved.part.ports
    felt = changes.factor[place] * changes.across[place]
    impedance = np.ascontiguousarray(solved.part.impedance - np.outer(changes.raised[place], felt))
    own = solved.element_v[ports.active]
    found = bool(newton(ports.law, ports.parameters, impedance, bias, ports.companion, own, SETTLED_V))
    voltage[place] = own
    return found
