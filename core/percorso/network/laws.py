"""Current laws of everything that is not a plain resistance: which law an element has, and its parameters.

``kernel`` computes current and slope from them; ``spice`` writes the same law as an expression for a general circuit
simulator.
"""

import math
from dataclasses import dataclass
from typing import Literal, get_args

LawName = Literal["two slopes", "saturating", "filament", "constant power", "led", "diode"]
LAWS: tuple[LawName, ...] = get_args(LawName)  # in the order that ``kernel`` knows them by

THERMAL_V = 0.025864186  # kT/q at 27 °C, where a general circuit simulator evaluates its diodes
LEAK_S = 1e-9  # across every junction, so that a blocked point still has a voltage
COLD_FILAMENT_SHARE = 0.006  # of rated voltage: below it a filament is cold and ten times as conductive, from memory
FILAMENT_EXPONENT = 0.55  # I ∝ V^0.55, handbook value, from memory
LED_KNEE_V = 0.06  # width of an LED's knee, from memory
RUNAWAY = 1.9  # times the voltage before: a step as far is driven by a falling current, which about doubles it
MAX_EXPONENT = 80.0  # keeps exp() finite while the iteration is still far off


@dataclass(frozen=True)
class LawOf:
    """The law of one element with its three parameters; ``companion_s`` is a typical slope, to start from."""

    name: LawName
    parameters: tuple[float, float, float]
    companion_s: float
    passes: Literal["both ways", "along", "against"] = "both ways"  # a junction lets current pass one way only

    @property
    def number(self) -> int:
        """Which law it is, as ``kernel`` counts them."""
        return LAWS.index(self.name)

    @property
    def blocks(self) -> bool:
        """Whether it is a junction."""
        return self.passes != "both ways"


def battery_law(rest_v: float, discharge_ohm: float, charge_ohm: float) -> LawOf:
    """A battery seen from its posts: current into the plus post, A."""
    return LawOf("two slopes", (rest_v, 1 / discharge_ohm, 1 / charge_ohm), 1 / discharge_ohm)


def resistor_law(ohm: float) -> LawOf:
    """A plain resistance, where a network wants it as an element."""
    return LawOf("two slopes", (0.0, 1 / ohm, 1 / ohm), 1 / ohm)


def rectifier_law(series_ohm: float) -> LawOf:
    """An alternator's own diodes from its post to D+, seen from D+: they give, and block what comes in."""
    return LawOf("two slopes", (0.0, 1 / series_ohm, LEAK_S), 0.1, passes="against")


def motor_law(rated_v: float, rated_a: float, standing_ohm: float) -> LawOf:
    """A motor through its rated point; a tenth of its load's torque goes with the speed (from memory)."""
    return _levelling(rated_v, rated_a, 1 / standing_ohm, rise=0.1)


def constant_current_law(rated_v: float, rated_a: float) -> LawOf:
    """Electronics that draw ``rated_a`` from a twentieth of their voltage on."""
    return _levelling(rated_v, rated_a, 20 * rated_a / rated_v, rise=1e-4)


def _levelling(rated_v: float, rated_a: float, standing_s: float, rise: float) -> LawOf:
    rated_s = rated_a / rated_v
    level, rise_s = rated_a * (1 - rise), rise * rated_s
    return LawOf("saturating", (level / (standing_s - rise_s), level, rise_s), rated_s)


def filament_law(rated_v: float, rated_a: float) -> LawOf:
    """A bulb by its rated point."""
    return LawOf("filament", (rated_v, rated_a, 0.0), rated_a / rated_v)


def constant_power_law(power_w: float, least_v: float) -> LawOf:
    """A switching supply that works from ``least_v`` on."""
    return LawOf("constant power", (power_w, least_v, 0.0), power_w / (2 * least_v) ** 2)


def led_law(rated_v: float, rated_a: float, forward_v: float) -> LawOf:
    """An LED with the resistor that lets ``rated_a`` through at ``rated_v``."""
    series = (rated_v - forward_v) / rated_a
    return LawOf("led", (forward_v, series, 0.0), 0.1 / series, passes="along")


def diode_law(rated_a: float, forward_v: float) -> LawOf:
    """A silicon diode through its rated point, emission coefficient 1.8 (power rectifier, from memory)."""
    emission_v = 1.8 * THERMAL_V
    return LawOf(
        "diode", (rated_a / math.expm1(forward_v / emission_v), emission_v, 0.0), 0.1 * rated_a, passes="along"
    )
