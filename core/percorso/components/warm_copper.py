"""How warm a wire's copper gets by its own current: for long, or in the seconds for which a starter cranks."""

import math
from functools import cache

import numpy as np
from numpy.typing import ArrayLike

from percorso.arrays import Array
from percorso.components.conductors import resistance_20c_ohm_per_m, warmed
from percorso.components.thermal import SHORT_CIRCUIT_LIMIT_C, Cable, ampacity_a_at, time_constant_s

LASTS = math.inf
CRANKING_S = 10.0  # into a start, in which it is read, common practice
STEPS = 24  # of temperature from the air to the hottest: between two the copper is off by less than 0.2 K


@cache
def warming(wire: Cable, air_c: float, bundle: int = 1, seconds: float = LASTS) -> tuple[Array, Array]:
    """Squares of currents that flow for so long (A², from 0 up), and how warm the copper is at each (°C).

    Between two of them it warms in proportion. It is not taken as warmer than its insulation stands in a short circuit:
    what carries more than that melts, or opens its fuse. For long it is as the thermal model says; in seconds it warms
    by its time constant, to the first order, whatever lies beside it.
    """
    hottest, steps = max(SHORT_CIRCUIT_LIMIT_C[wire.material], air_c), np.linspace(0, 1, STEPS + 1)
    if hottest == air_c:
        return steps, np.full(STEPS + 1, air_c)
    if seconds < LASTS:
        return steps * (hottest - air_c) / _rise_k_per_a2(wire, air_c, seconds), air_c + steps * (hottest - air_c)
    copper_c = air_c + (hottest - air_c) * steps**1.3  # closer where it begins to warm
    return np.square(ampacity_a_at(wire, copper_c, air_c, bundle)), copper_c


def _rise_k_per_a2(wire: Cable, air_c: float, seconds: float) -> float:
    """Rise of the copper per square of a current that flows for seconds, K/A²."""
    heats_w = resistance_20c_ohm_per_m(wire.size) * warmed(air_c)
    if air_c >= wire.limit_c:
        return heats_w * seconds / wire.heat_capacity_j_per_m_k
    tau_s = time_constant_s(wire, air_c)
    return heats_w * tau_s / wire.heat_capacity_j_per_m_k * -math.expm1(-seconds / tau_s)


def warm_copper_c(wire: Cable, current_a: ArrayLike, air_c: float, bundle: int = 1, seconds: float = LASTS) -> Array:
    """How warm the copper of a wire is by its current, °C; takes arrays of currents."""
    copper: Array = np.interp(np.square(np.asarray(current_a, dtype=float)), *warming(wire, air_c, bundle, seconds))
    return copper
