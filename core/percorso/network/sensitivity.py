"""How voltages and currents of a settled state move with every part of the network: one transposed solve for each.

The adjoint method: with F(u, p) = 0 at rest and a measured x = cᵀu, dx/dp = −λᵀ ∂F/∂p where Jᵀλ = c, and J is the
Jacobian of F. One λ serves all parts p at once (Director and Rohrer, 1969, from memory).
"""

from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array, Numbers
from percorso.network.newton import Solved


@dataclass(frozen=True)
class Sensitivity:
    """What moves each of several measured values, shape (measured, branches) or (measured, generators).

    ``resistance``: for a branch of more resistance, by its share (dx/d ln R). Of a load that draws more, by its share,
    it is the same with the other sign. ``branch_v``: for a branch whose own voltage (a battery's rest, a junction's
    forward drop) is higher, per volt. ``setpoint``: for a regulator's setpoint, per volt, and for what an alternator
    at its limit gives, per ampere.
    """

    resistance: Array
    branch_v: Array
    setpoint: Array


def of_voltages(solved: Solved, start: Numbers, end: Numbers) -> Sensitivity:
    """Of the voltages from some numbered points to others, V."""
    measured = np.zeros((_unknowns(solved), len(start)))
    every = np.arange(len(start))
    measured[start, every] += 1
    measured[end, every] -= 1
    return _sensitivity(solved, measured)


def of_currents(solved: Solved, branches: Numbers) -> Sensitivity:
    """Of the currents through some branches from their start to their end, A; nothing moves one that is open."""
    wiring, every = solved.part.circuitry, np.arange(len(branches))
    slope = np.where(solved.part.conducting[branches], _slopes(solved)[branches], 0.0)
    measured = np.zeros((_unknowns(solved), len(branches)))
    measured[wiring.start[branches], every] += slope
    measured[wiring.end[branches], every] -= slope
    found = _sensitivity(solved, measured)
    found.resistance[every, branches] -= solved.branch_a[branches]  # the part itself, at the voltage it has
    found.branch_v[every, branches] -= slope
    return found


def _unknowns(solved: Solved) -> int:
    return solved.part.circuitry.size + len(solved.part.regulated)


def _slopes(solved: Solved) -> Array:
    """How much more every branch takes for more voltage across it, S, shape (branches,)."""
    wiring = solved.part.circuitry
    slopes = wiring.conductance.copy()
    slopes[wiring.elements] = wiring.currents(solved.element_v)[1]
    return slopes


def _sensitivity(solved: Solved, measured: Array) -> Sensitivity:
    """From the weights of the unknowns in what is measured, shape (unknowns, measured)."""
    part = solved.part
    wiring, slopes = part.circuitry, _slopes(solved)
    adjoint = part.adjoint(measured, slopes[wiring.elements][part.ports.active]).T
    across = adjoint[:, wiring.start] - adjoint[:, wiring.end]
    return Sensitivity(
        resistance=across * solved.branch_a,
        branch_v=across * np.where(part.conducting, slopes, 0.0),
        setpoint=adjoint[:, wiring.size :],
    )
