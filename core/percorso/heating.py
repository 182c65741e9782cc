"""How much current a conductor may carry without overheating its insulation, from published tables."""

from functools import cache

from percorso import tables
from percorso.conductors import ConductorSize, Series, find_size

ENGINE_SPACE_FACTOR = 0.85  # ABYC E-11, 105 °C conductors inside engine spaces, from memory


@cache
def _listed(series: Series) -> tuple[tuple[float, float], ...]:
    """(area mm², ampacity A) of the table for ``series``, thinnest first; the source stands in each row."""
    sized = ((find_size(row["size"]), float(row["ampacity_a"])) for row in tables.rows("ampacity"))
    return tuple(sorted((size.area_mm2, ampacity) for size, ampacity in sized if size.series == series))


@cache
def table_ampacity_a(size: ConductorSize, *, engine_space: bool = False) -> float:
    """Continuous current of a single 105 °C conductor in 30 °C air, A, by table: the conservative figure.

    AWG by ABYC E-11, metric by ISO 10133. A size between two listed ones takes the thinner one's figure. Below
    the thinnest listed size the current density of that size is kept, which is on the safe side: a thinner wire
    cools better per square millimetre.
    """
    listed = _listed(size.series)
    thinnest_area, thinnest_ampacity = listed[0]
    if size.area_mm2 < thinnest_area:
        ampacity = thinnest_ampacity * size.area_mm2 / thinnest_area
    else:
        ampacity = max(amps for area, amps in listed if area <= size.area_mm2 * (1 + 1e-9))
    return ampacity * (ENGINE_SPACE_FACTOR if engine_space else 1.0)
