"""How much current a wire may carry by the published tables, bundled and in warm air."""

import math
from functools import cache

import numpy as np
from numpy.typing import ArrayLike

from percorso import tables
from percorso.arrays import Array
from percorso.components.conductors import COPPER_ALPHA_20C_PER_K, ConductorSize, Series, find_size

TABLE_AIR_C = 30.0  # what both ampacity tables are for
ENGINE_SPACE_FACTOR = 0.85  # ABYC E-11, 105 °C conductors inside engine spaces, from memory
ENGINE_SPACE_C = 105 - ENGINE_SPACE_FACTOR**2 * (105 - TABLE_AIR_C)  # the air that factor means


def bundling_factor(conductors: ArrayLike) -> Array:
    """What is left of each wire's ampacity when so many loaded ones lie together (ABYC E-11, from memory)."""
    listed = [(float(row["up_to_conductors"]), float(row["factor"])) for row in tables.rows("bundling")]
    up_to, factor = np.array(listed).T
    place = np.searchsorted(up_to, np.asarray(conductors, dtype=float))
    left: Array = factor[np.minimum(place, len(factor) - 1)]
    return left


@cache
def _columns(series: Series) -> dict[float, tuple[tuple[float, float], ...]]:
    """By conductor class, °C: (area mm², ampacity A) of the table for ``series``, thinnest first."""
    columns: dict[float, list[tuple[float, float]]] = {}
    for row in tables.rows("ampacity"):
        size = find_size(row["size"])
        if size.series == series:
            columns.setdefault(float(row["class_c"]), []).append((size.area_mm2, float(row["ampacity_a"])))
    return {class_c: tuple(sorted(listed)) for class_c, listed in sorted(columns.items())}


def _published_a(size: ConductorSize, limit_c: float) -> tuple[float, float]:
    """The published ampacity for an insulation, A, and the class of its column, °C."""
    columns = _columns(size.series)
    class_c = max((each for each in columns if each <= limit_c), default=min(columns))
    listed, nominal = columns[class_c], find_size(size.name)
    thinnest_area, thinnest_a = listed[0]
    if nominal.area_mm2 < thinnest_area:
        published = thinnest_a * nominal.area_mm2 / thinnest_area
    else:
        published = max(amps for area, amps in listed if area <= nominal.area_mm2 * (1 + 1e-9))
    return published * math.sqrt(size.area_mm2 / nominal.area_mm2), class_c


@cache
def table_ampacity_a(
    size: ConductorSize,
    *,
    limit_c: float = 105.0,
    air_c: float = TABLE_AIR_C,
    bundle: int = 1,
    engine_space: bool = False,
) -> float:
    """Continuous current by table, A: the published figure, corrected to the air the wire really lies in.

    AWG by ABYC E-11, metric by ISO 10133, in 30 °C air. An insulation reads the column of its own class, or of the next
    cooler one; nothing is added for better insulation or cooler air than listed. A size between two listed ones takes
    the thinner one's figure; below the thinnest its current density is kept, on the safe side: a thinner wire cools
    better per square millimetre. A gauge that holds less copper than the listed one reaches the same heat at the root
    of its share of the current. Warmer air, or a class cooler than any column, corrects as NFPA 70 310.15(B) does,
    √(ΔT' ÷ ΔT), and for the copper's resistance (from memory); an engine space counts at least with its own factor.
    """
    published, class_c = _published_a(size, limit_c)
    air = max(air_c, ENGINE_SPACE_C if engine_space else TABLE_AIR_C)
    rise = max(limit_c - air, 0.0) / (class_c - TABLE_AIR_C)
    warmth = math.sqrt(rise * _copper_factor(class_c) / _copper_factor(limit_c))
    most = ENGINE_SPACE_FACTOR if engine_space else 1.0
    return published * min(warmth, most) * float(bundling_factor(bundle))


def _copper_factor(temperature: float) -> float:
    return 1.0 + COPPER_ALPHA_20C_PER_K * (temperature - 20)
