"""Copper conductors: the sizes that are made, their resistance at temperature, their mass."""

import math
from dataclasses import dataclass
from functools import cache
from typing import Literal, TypeVar, get_args

import numpy as np
from numpy.typing import ArrayLike

from percorso import tables
from percorso.arrays import Array
from percorso.errors import UnknownSizeError
from percorso.quantities import TypedSize, parse_size

COPPER_RESISTIVITY_20C_OHM_M = 1.7241e-8  # annealed copper, IEC 60028:1925
COPPER_ALPHA_20C_PER_K = 0.00393  # annealed copper at constant mass, IEC 60028:1925
COPPER_DENSITY_KG_M3 = 8960.0  # common handbook value, from memory
THICKEST_AWG, THINNEST_AWG = -3, 24  # 4/0 … 24
TRADE_AWG = (24, 22, 20, 18, 16, 14, 12, 10, 8, 6, 4, 2, 1, 0, -1, -2, -3)  # stocked sizes, common practice

_Temperature = TypeVar("_Temperature", float, Array)
Series = Literal["awg", "metric"]
Gauge = Literal["astm", "sae"]  # what an AWG number holds: a solid wire's area, or the least of road-vehicle cable
GAUGES: tuple[Gauge, ...] = get_args(Gauge)
MetricStandard = Literal["iso-6722-1", "iec-60228"]
METRIC_STANDARDS: tuple[MetricStandard, ...] = get_args(MetricStandard)


@dataclass(frozen=True)
class ConductorSize:
    """A conductor size under its canonical name, ``10 AWG``, ``2/0 AWG`` or ``10 mm2``, and the copper it holds."""

    name: str
    series: Series
    area_mm2: float
    gauge: Gauge = "astm"


def awg_diameter_mm(gauge: int) -> float:
    """Diameter of the solid wire of an AWG number, mm; 1/0 … 4/0 are gauge 0 … −3 (ASTM B258)."""
    return float(0.127 * 92 ** ((36 - gauge) / 39))


def awg_area_mm2(gauge: int) -> float:
    """Cross-section of the solid wire of an AWG number, mm² (ASTM B258)."""
    return math.pi * awg_diameter_mm(gauge) ** 2 / 4


@cache
def find_size(text: str) -> ConductorSize:
    """The size that ``text`` names. Raises QuantityError when unreadable, UnknownSizeError when not made."""
    return _made(parse_size(text))


def _made(typed: TypedSize) -> ConductorSize:
    if typed.series == "metric":
        if f"{typed.number:g}" not in _metric_mohm_per_m("iso-6722-1"):
            stocked = ", ".join(_metric_mohm_per_m("iso-6722-1"))
            raise UnknownSizeError(f"{typed.number:g} mm² is not a standard size; take one of {stocked} mm²")
        return ConductorSize(f"{typed.number:g} mm2", "metric", typed.number)
    gauge = int(typed.number)
    if not THICKEST_AWG <= gauge <= THINNEST_AWG:
        raise UnknownSizeError("AWG sizes go from 24 AWG up to 4/0 AWG")
    number = f"{gauge}" if gauge > 0 else f"{1 - gauge}/0"
    return ConductorSize(f"{number} AWG", "awg", awg_area_mm2(gauge))


@cache
def in_gauge(size: ConductorSize, gauge: Gauge) -> ConductorSize:
    """A size as cable of that gauge holds it: SAE J1128's least copper where it lists the number, else unchanged."""
    listed = {row["size"]: float(row["min_area_mm2"]) for row in tables.rows("sae_gauge")}
    if gauge == "astm" or size.name not in listed:
        return find_size(size.name)
    return ConductorSize(size.name, size.series, listed[size.name], "sae")


def made_to(size: ConductorSize) -> str:
    """The standard that says how much copper a size holds."""
    if size.series == "metric":
        return "ISO 6722-1"
    return "SAE J1128" if size.gauge == "sae" else "ASTM B258"


@cache
def stocked_sizes(series: Series, metric_standard: MetricStandard = "iso-6722-1") -> tuple[ConductorSize, ...]:
    """The sizes a shop can buy, thinnest first; metric ones are those the standard lists."""
    if series == "awg":
        return tuple(_made(TypedSize("awg", gauge)) for gauge in TRADE_AWG)
    return tuple(_made(TypedSize("metric", float(area))) for area in _metric_mohm_per_m(metric_standard))


@cache
def _metric_mohm_per_m(standard: MetricStandard) -> dict[str, float]:
    """Maximum resistance at 20 °C, mΩ/m, by area text; the source stands in each row of the table."""
    listed = (row for row in tables.rows("metric_resistance") if row["standard"] == standard)
    return {row["area_mm2"]: float(row["max_mohm_per_m_20c"]) for row in listed}


def resistance_20c_ohm_per_m(size: ConductorSize, metric_standard: MetricStandard = "iso-6722-1") -> float:
    """Resistance per metre at 20 °C, Ω/m.

    AWG: annealed copper of the gauge's area (ASTM B258 or SAE J1128, IEC 60028). Metric: the standard's maximum.
    Raises UnknownSizeError when the standard does not list the area.
    """
    if size.series == "awg":
        return COPPER_RESISTIVITY_20C_OHM_M / (size.area_mm2 * 1e-6)
    listed = _metric_mohm_per_m(metric_standard)
    area = f"{size.area_mm2:g}"
    if area not in listed:
        raise UnknownSizeError(f"{metric_standard.upper()} does not list {area} mm²")
    return listed[area] / 1000


def at_temperature_ohm(resistance_20c_ohm: ArrayLike, temperature_c: ArrayLike) -> np.ndarray:
    """Resistance of copper at ``temperature_c`` from its value at 20 °C, Ω; shapes broadcast (IEC 60028:1925)."""
    return np.asarray(resistance_20c_ohm) * warmed(np.asarray(temperature_c, dtype=np.float64))


def warmed(temperature_c: _Temperature) -> _Temperature:
    """How many times its resistance at 20 °C copper has at ``temperature_c`` (IEC 60028:1925)."""
    return 1 + COPPER_ALPHA_20C_PER_K * (temperature_c - 20)


def warm_as(times: float) -> float:
    """How warm copper is that has so many times its resistance at 20 °C, °C."""
    return 20 + (times - 1) / COPPER_ALPHA_20C_PER_K


def resistance_ohm(
    size: ConductorSize,
    length_m: float,
    temperature_c: float = 20.0,
    metric_standard: MetricStandard = "iso-6722-1",
) -> float:
    """Resistance of a conductor of ``length_m`` (m, out and back if it is both) at ``temperature_c``, Ω."""
    return resistance_20c_ohm_per_m(size, metric_standard) * length_m * warmed(temperature_c)


def copper_mass_kg(size: ConductorSize, length_m: float) -> float:
    """Mass of the copper alone, kg; insulation comes on top."""
    return COPPER_DENSITY_KG_M3 * size.area_mm2 * 1e-6 * length_m
