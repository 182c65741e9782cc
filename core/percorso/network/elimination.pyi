"""What the compiled linear equations take and give; arrays are C-contiguous, of float64 and int64."""

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Numbers

def solve_network(matrix: Array, right: Array, last: NDArray[np.uint8]) -> bool:
    """Solve a conductance matrix in place; ``right`` becomes the solution. False where there is none.

    ``matrix`` (n, n) is symmetric and diagonally dominant but for the rows and columns in ``last`` (n,), which are
    eliminated last and with pivoting. The others are eliminated by fewest neighbours: a vehicle's wiring is nearly a
    tree, so hardly anything fills in.
    """

def add_conductances(matrix: Array, start: Numbers, end: Numbers, conductance: Array) -> None:
    """Add branches of ``conductance`` (S) between numbered points to a nodal matrix, in place."""

def join(island: Numbers, start: Numbers, end: Numbers) -> None:
    """Join the islands of linked points, in place; each is named after its first point."""
