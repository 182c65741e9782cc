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

def vary_each(
    law: Numbers,
    parameters: Array,
    companion: Array,
    impedance: Array,
    bias: Array,
    before_v: Array,
    raised: Array,
    across: Array,
    pair: Numbers,
    factor: Array,
    at_rest_a: Array,
    other: Numbers,
    other_law: Numbers,
    other_parameters: Array,
    settled_v: float,
) -> tuple[Array, Array, NDArray[np.bool_]]:
    """The same with each of many changes, from ``before_v`` (n,) on: one change is between a pair of points, of which
    ``raised`` and ``across`` have a row (pairs, n); all from ``pair`` to ``at_rest_a`` have a figure for each change.

    ``other`` is the element that has another law with it, negative where none has. What the elements take beyond their
    companions, A, shape (changes, n), what each change draws, A, and who settled, both (changes,).
    """

def raised_each(base: Array, reach: Array, columns: Array, pair: Numbers, excess: Array, drawn_a: Array) -> Array:
    """Unknowns with each of many changes, base − reach · excess − columns[pair] · drawn, shape (changes, unknowns).

    ``reach`` (unknowns, n) is of the elements, ``columns`` (pairs, unknowns) of the pairs of points that changes are
    between.
    """
