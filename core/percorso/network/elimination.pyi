"""What the compiled linear equations take and give; arrays are C-contiguous, of float64 and int64."""

from percorso.arrays import Array, Numbers

class StarMesh:
    """How a wiring is eliminated, whatever its conductances: the star of branches around a point becomes a mesh among
    its neighbours (star–mesh transformation), the point with the fewest neighbours first. A vehicle's wiring is nearly
    a tree, so hardly anything is added, and as nothing is subtracted, hardly a figure is lost.

    Points that are ``kept`` are not eliminated: with the generators, whose equations are no branches, they are a
    small block that is solved with pivoting. ``slot`` is where the conductance of each branch goes, one of ``size``;
    negative where both its ends are on one point.
    """

    points: int
    size: int
    slot: Numbers

    def __init__(self, points: int, start: Numbers, end: Numbers, kept: Numbers) -> None:
        """``start`` and ``end`` of the branches, shape (branches,), and points to keep, ascending."""

    def summed(self, slot: Numbers, conductance: Array) -> Array:
        """Conductances by slot, S, shape (slots,): those of branches that lie beside one another are added."""

def solve_network(wiring: StarMesh, conductance: Array, ground: Array, block: Array, right: Array) -> bool:
    """Solve for the unknowns (points, then generators), in place. False where a point hangs in the air.

    ``conductance`` (slots,) and ``ground`` (points,), from each point to where potentials count from, are used up,
    S. ``block`` is what generators add among themselves and the points that are kept. ``right`` (unknowns, sides), what
    is injected, becomes the solution.
    """

def add_conductances(matrix: Array, start: Numbers, end: Numbers, conductance: Array) -> None:
    """Add branches of ``conductance`` (S) between numbered points to a nodal matrix, in place."""

def join(island: Numbers, start: Numbers, end: Numbers) -> None:
    """Join the islands of linked points, in place; each is named after its first point."""
