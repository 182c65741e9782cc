"""How warm a wire gets and how much current it may carry: the physics of a wire in still air.

The model is a single round wire lying in still air: the heat of its current leaves through the insulation, then by
natural convection from a horizontal cylinder (Churchill and Chu, 1975) and by radiation. Every function takes arrays.
"""

import math
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import ArrayLike

from percorso.arrays import Array
from percorso.components.conductors import (
    COPPER_DENSITY_KG_M3,
    ConductorSize,
    at_temperature_ohm,
    find_size,
    resistance_20c_ohm_per_m,
)
from percorso.components.insulation import (
    Insulation,
    Material,
    conductor,
    family,
    fitting_insulation,
    usual_insulation,
)
from percorso.components.published_ampacity import TABLE_AIR_C, bundling_factor

STRAND_FILL = 0.77  # copper in the round of a stranded conductor, common practice
EMISSIVITY = 0.9  # of dark insulation, handbook value, from memory
STEFAN_BOLTZMANN = 5.670374e-8  # W/(m²·K⁴), CODATA 2018
INSULATION_W_PER_M_K = 0.25  # conductivity of PVC and cross-linked polyethylene, handbook value, from memory
COPPER_J_PER_KG_K = 385.0  # handbook value, from memory
INSULATION_J_PER_M3_K = 2.1e6  # of PVC: 1400 kg/m³ times 1500 J/(kg·K), handbook values, from memory
HOTTEST_C = 1083.0  # copper melts
GRAVITY_M_S2 = 9.81
KELVIN = 273.15
STEPS = 44  # of bisection: the whole range down to a billionth of a degree

SHORT_CIRCUIT_LIMIT_C: dict[Material, float] = {"cross-linked": 250.0, "PVC": 160.0}  # IEC 60364-4-43, from memory


@dataclass(frozen=True)
class Cable:
    """An insulated wire as heat sees it; ``limit_c`` is what its insulation stands, °C."""

    size: ConductorSize
    wall_mm: float
    limit_c: float
    material: Material = "cross-linked"

    @property
    def conductor_mm(self) -> float:
        """Diameter over the strands, mm."""
        return math.sqrt(4 * self.size.area_mm2 / (math.pi * STRAND_FILL))

    @property
    def outer_mm(self) -> float:
        """Diameter over the insulation, mm."""
        return self.conductor_mm + 2 * self.wall_mm

    @property
    def through_wall_k_m_per_w(self) -> float:
        """Thermal resistance of a metre of insulation, K·m/W."""
        return math.log(self.outer_mm / self.conductor_mm) / (2 * math.pi * INSULATION_W_PER_M_K)

    @property
    def heat_capacity_j_per_m_k(self) -> float:
        """Heat a metre takes up per kelvin, J/(m·K)."""
        copper = COPPER_DENSITY_KG_M3 * COPPER_J_PER_KG_K * self.size.area_mm2 * 1e-6
        wall_mm2 = math.pi / 4 * (self.outer_mm**2 - self.conductor_mm**2)
        return copper + INSULATION_J_PER_M3_K * wall_mm2 * 1e-6


@cache
def cable(size: ConductorSize, insulation: Insulation | float) -> Cable:
    """A conductor in an insulation, or in the usual wall of one that stands so many °C."""
    if isinstance(insulation, float):
        return Cable(size, family(usual_insulation(size.area_mm2)).wall_mm(size.area_mm2), insulation)
    kind = family(insulation)
    return Cable(size, kind.wall_mm(size.area_mm2), kind.limit_c, kind.material)


@cache
def cable_of(size: str, insulation: Insulation | None) -> Cable:
    """A size by its name, in an insulation or in what is usual where it is not made in that."""
    made = find_size(size)
    fitting = fitting_insulation(insulation, made.area_mm2)
    return cable(conductor(made, fitting), fitting)


def heat_given_off_w_per_m(outer_mm: float, surface_c: ArrayLike, air_c: ArrayLike) -> Array:
    """Heat a horizontal cylinder gives to still air and its surroundings, W/m; shapes broadcast.

    Convection by Churchill and Chu (1975, laminar and turbulent), air at film temperature by power laws through the
    handbook values at 300 K, from memory; radiation as a grey body among surroundings at air temperature.
    """
    surface, air = np.asarray(surface_c, dtype=float) + KELVIN, np.asarray(air_c, dtype=float) + KELVIN
    diameter, rise = outer_mm / 1000, surface - air
    film = (surface + air) / 2
    conductivity = 0.0263 * (film / 300) ** 0.85
    viscosity = 15.9e-6 * (film / 300) ** 1.75
    prandtl = 0.707
    rayleigh = GRAVITY_M_S2 / film * np.maximum(rise, 0.0) * diameter**3 / viscosity**2 * prandtl
    nusselt = (0.60 + 0.387 * rayleigh ** (1 / 6) / (1 + (0.559 / prandtl) ** (9 / 16)) ** (8 / 27)) ** 2
    convected = nusselt * conductivity / diameter * rise
    radiated = EMISSIVITY * STEFAN_BOLTZMANN * (surface**4 - air**4)
    given: Array = math.pi * diameter * (convected + radiated)
    return given


def steady_heat_w_per_m(wire: Cable, conductor_c: ArrayLike, air_c: ArrayLike) -> Array:
    """Heat that leaves a wire whose copper stays at ``conductor_c``, W/m; nothing where the air is warmer."""
    conductor, air = np.broadcast_arrays(np.asarray(conductor_c, dtype=float), np.asarray(air_c, dtype=float))
    low, high = air.copy(), np.maximum(conductor, air)
    for _ in range(STEPS):
        middle = (low + high) / 2
        heat = heat_given_off_w_per_m(wire.outer_mm, middle, air)
        too_hot = middle + heat * wire.through_wall_k_m_per_w > conductor
        low, high = np.where(too_hot, low, middle), np.where(too_hot, middle, high)
    return heat_given_off_w_per_m(wire.outer_mm, low, air)


def ampacity_a(wire: Cable, air_c: ArrayLike = TABLE_AIR_C, bundle: ArrayLike = 1) -> Array:
    """Continuous current that brings the copper just to the insulation's limit, A; shapes broadcast.

    ``bundle`` counts the loaded conductors that lie together. Nothing where the air alone is too warm.
    """
    return ampacity_a_at(wire, wire.limit_c, air_c, bundle)


def ampacity_a_at(wire: Cable, conductor_c: ArrayLike, air_c: ArrayLike, bundle: ArrayLike = 1) -> Array:
    """Continuous current that brings the copper just to a temperature, A; shapes broadcast."""
    heat = np.maximum(steady_heat_w_per_m(wire, conductor_c, air_c), 0.0)
    current: Array = np.sqrt(heat / _ohm_per_m(wire.size, conductor_c)) * bundling_factor(bundle)
    return current


def temperature_c(wire: Cable, current_a: ArrayLike, air_c: ArrayLike = TABLE_AIR_C, bundle: ArrayLike = 1) -> Array:
    """Steady temperature of the copper at a current, °C; infinite where it would melt. Shapes broadcast.

    A bundled wire is as warm as a single one with the current divided by the bundling factor.
    """
    alone = np.asarray(current_a, dtype=float) / bundling_factor(bundle)
    current, air = np.broadcast_arrays(alone, np.asarray(air_c, dtype=float))
    low, high = air.copy(), np.full(current.shape, HOTTEST_C)
    for _ in range(STEPS):
        middle = (low + high) / 2
        heat = heat_given_off_w_per_m(wire.outer_mm, middle, air)
        copper_c = middle + heat * wire.through_wall_k_m_per_w
        rises = current**2 * _ohm_per_m(wire.size, copper_c) > heat
        low, high = np.where(rises, middle, low), np.where(rises, high, middle)
    copper: Array = low + heat_given_off_w_per_m(wire.outer_mm, low, air) * wire.through_wall_k_m_per_w
    return np.where(copper >= HOTTEST_C, np.inf, copper)


def time_constant_s(wire: Cable, air_c: float = TABLE_AIR_C) -> float:
    """How long a wire takes to 63 % of its final rise, s, at the slope of its heat loss up to its limit.

    Raises ValueError where the air is as hot as the insulation's limit.
    """
    heat = float(steady_heat_w_per_m(wire, wire.limit_c, air_c))
    if heat <= 0:
        raise ValueError("the air is as hot as the insulation is good for")
    return wire.heat_capacity_j_per_m_k * (wire.limit_c - air_c) / heat


def intermittent_ampacity_a(
    wire: Cable, on_s: ArrayLike, off_s: ArrayLike = math.inf, air_c: float = TABLE_AIR_C
) -> Array:
    """Current a wire stands when it flows for ``on_s`` in every ``on_s + off_s``, A; shapes broadcast.

    First order: the rise follows (1 − e^(−on/τ)) ÷ (1 − e^(−(on+off)/τ)) with the wire's own time constant.
    """
    tau = time_constant_s(wire, air_c)
    on, off = np.asarray(on_s, dtype=float), np.asarray(off_s, dtype=float)
    reached = (1 - np.exp(-on / tau)) / (1 - np.exp(-(on + off) / tau))
    current: Array = ampacity_a(wire, air_c) / np.sqrt(reached)
    return current


def adiabatic_k(material: Material, starts_at_c: ArrayLike) -> Array:
    """What copper in an insulation stands in a short circuit, A·√s/mm², from the temperature it starts at.

    k = 226 · √ln((234.5 + θf) ÷ (234.5 + θi)), θf 250 °C cross-linked, 160 °C PVC; nothing from θf on.
    IEC 60364-4-43 Annex A, from memory.
    """
    ends_at, starts_at = SHORT_CIRCUIT_LIMIT_C[material], np.asarray(starts_at_c, dtype=float)
    stood: Array = 226 * np.sqrt(np.log((234.5 + ends_at) / (234.5 + np.minimum(starts_at, ends_at))))
    return stood


def withstand_a2s(wire: Cable, starts_at_c: ArrayLike) -> Array:
    """Heat per ohm that the insulation stands in a short circuit, A²·s: (k·S)², for up to five seconds.

    IEC 60364-4-43, from memory: no heat leaves meanwhile.
    """
    stood: Array = (adiabatic_k(wire.material, starts_at_c) * wire.size.area_mm2) ** 2
    return stood


def melting_current_a(size: ConductorSize, seconds: ArrayLike, air_c: float = TABLE_AIR_C) -> Array:
    """Current that melts a bare copper conductor in so many seconds, A (Onderdonk, up to about ten seconds).

    I = S · √(log₁₀(1 + (T_melt − T) ÷ (234 + T)) ÷ 33 t), S in circular mils; from memory.
    """
    circular_mils = size.area_mm2 / (math.pi / 4 * 0.0254**2)
    heat = math.log10(1 + (HOTTEST_C - air_c) / (234 + air_c))
    current: Array = circular_mils * np.sqrt(heat / (33 * np.asarray(seconds, dtype=float)))
    return current


def _ohm_per_m(size: ConductorSize, conductor_c: ArrayLike) -> Array:
    return at_temperature_ohm(resistance_20c_ohm_per_m(size), conductor_c)
