"""Nodal analysis: how a wiring is eliminated, its conductance matrix, islands of joined points, and what is nothing."""

import numpy as np

from percorso.arrays import Array, Numbers
from percorso.kept import BoundedCache
from percorso.network.elimination import StarMesh, add_conductances, join

NOTHING = 1e-9  # A or V: a contact with no more than that may open or close, and nothing changes
MOST_MESHES = 32  # that are kept

_MESHES = BoundedCache[tuple[int | bytes, ...], StarMesh](MOST_MESHES)


def star_mesh(points: int, start: Numbers, end: Numbers, posts: Numbers) -> StarMesh:
    """How wiring is eliminated up to the posts of its generators, shape (generators, 3); wired alike it is the same."""

    def ordered() -> StarMesh:
        return StarMesh(points, start, end, np.unique(posts))

    return _MESHES.get_or((points, start.tobytes(), end.tobytes(), posts.tobytes()), ordered)


def conductance_matrix(size: int, start: Numbers, end: Numbers, conductance: Array) -> Array:
    """Nodal conductance matrix of branches between numbered points, S, shape (size, size)."""
    matrix = np.zeros((size, size))
    add_conductances(matrix, start, end, conductance)
    return matrix


def joined(island: Numbers, start: Numbers, end: Numbers) -> Numbers:
    """Islands after more pairs of points are linked, shape (points,); each is named after its first point."""
    island = island.copy()
    join(island, start, end)
    return island


def noticed(values: Array) -> Array:
    """Currents (A) or voltages (V) without what is only left of rounding."""
    return np.where(np.abs(values) > NOTHING, values, 0.0)
