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

def newton_each(
    law: Numbers,
    parameters: Array,
    impedance: Array,
    raised: Array,
    felt: Array,
    bias: Array,
    companion: Array,
    voltage: Array,
    settled_v: float,
) -> NDArray[np.bool_]:
    """The same for many, each with impedance − raised ⊗ felt of its own: all but ``impedance`` and ``companion`` have a
    row for each. Who settled, (variants,).
    """
