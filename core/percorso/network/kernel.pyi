"""What the compiled inner loops take and give; arrays are C-contiguous, of float64 and int64."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from percorso.arrays import Array, Numbers

def current_and_slope(
    law: ArrayLike, voltage: ArrayLike, first: ArrayLike, second: ArrayLike, third: ArrayLike
) -> tuple[Array, Array]:
    """Current (A) and slope (S) of elements at the voltage across them (V), by number of law and parameters.

    A NumPy ufunc: all arguments are broadcast against each other.
    """

def limited_v(law: ArrayLike, wanted: ArrayLike, before: ArrayLike, first: ArrayLike, second: ArrayLike) -> Array:
    """Element voltages to try next on the way from ``before`` to ``wanted``, V: no step goes astray. A NumPy ufunc."""

def solve_network(matrix: Array, right: Array, last: NDArray[np.uint8]) -> bool:
    """Solve a conductance matrix in place; ``right`` becomes the solution. False where there is none.

    ``matrix`` (n, n) is symmetric and diagonally dominant but for the rows and columns in ``last`` (n,), which are
    eliminated last and with pivoting. The others are eliminated by fewest neighbours: a vehicle's wiring is nearly a
    tree, so hardly anything fills in.
    """

def add_conductances(matrix: Array, start: Numbers, end: Numbers, conductance: Array) -> None:
    """Add branches of ``conductance`` (S) between numbered points to a nodal matrix, in place."""

def newton(
    law: Numbers,
    parameters: Array,
    impedance: Array,
    bias: Array,
    companion: Array,
    voltage: Array,
    settled_v: float,
) -> bool:
    """Element voltages (n,) that solve U = bias − impedance · (I(U) − companion · U), from ``voltage``, in place.

    ``law`` (n,) and ``parameters`` (n, 3) as for ``current_and_slope``. False where Newton's method finds none that is
    within ``settled_v``.
    """

def join(island: Numbers, start: Numbers, end: Numbers) -> None:
    """Join the islands of linked points, in place; each is named after its first point."""
