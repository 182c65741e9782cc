"""What the compiled inner loops take and give; arrays are C-contiguous, of float64 and int64."""

import numpy as np
from numpy.typing import ArrayLike, NDArray

from percorso.arrays import Array, Numbers
from percorso.network.elimination import StarMesh

def current_and_slope(
    law: ArrayLike, voltage: ArrayLike, first: ArrayLike, second: ArrayLike, third: ArrayLike
) -> tuple[Array, Array]:
    """Current (A) and slope (S) of elements at the voltage across them (V), by number of law and parameters.

    A NumPy ufunc: all arguments are broadcast against each other.
    """

def limited_v(law: ArrayLike, wanted: ArrayLike, before: ArrayLike, first: ArrayLike, second: ArrayLike) -> Array:
    """Element voltages to try next on the way from ``before`` to ``wanted``, V: no step goes astray. A NumPy ufunc."""

def newton(
    wiring: StarMesh,
    conductance: Array,
    ground: Array,
    block: Array,
    driven: Array,
    law: Numbers,
    parameters: Array,
    companion: Array,
    start: Numbers,
    end: Numbers,
    slot: Numbers,
    voltage: Array,
    is_guess: bool,
    settled_v: float,
) -> Array | None:
    """The unknowns of a wiring with elements in it, by Newton's method from ``voltage`` (n,) across them, used up.

    What is plain is as for ``solve_network``, ``driven`` (unknowns,) what generators inject. ``law`` (n,) and
    ``parameters`` (n, 3) of the elements are as for ``current_and_slope``; they lie between ``start`` and ``end``, in
    ``slot``. Where there is no guess the first step takes each of them for its ``companion`` (S). None where no step
    becomes smaller than ``settled_v``.
    """

def newton_each(
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
    """Element voltages that solve U = bias − impedance · (I(U) − companion · U) with each of many changes.

    They go on from ``before_v`` (n,). One change is between a pair of points, of which ``raised`` and ``across`` have a
    row (pairs, n); all from ``pair`` to ``at_rest_a`` have a figure for each change.

    ``other`` is the element that has another law with it, negative where none has. What the elements take beyond their
    companions, A, shape (changes, n), what each change draws, A, and who settled, both (changes,).
    """

def rank_one_update(base: Array, reach: Array, columns: Array, pair: Numbers, excess: Array, drawn_a: Array) -> Array:
    """Unknowns with each of many changes, base − reach · excess − columns[pair] · drawn, shape (changes, unknowns).

    ``reach`` (unknowns, n) is of the elements, ``columns`` (pairs, unknowns) of the pairs of points that changes are
    between.
    """
