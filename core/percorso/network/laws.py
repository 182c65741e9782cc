"""Current laws of everything that is not a plain resistance: current and slope from voltage, element by element.

Each law takes the voltage across its elements (V, shape (n,)) and its parameters (each of shape (n,)) and returns
current (A) and slope (S), both of shape (n,). All are odd or rectifying, continuous and pass through the origin (a
battery through its rest voltage), so a network of them has a solution. ``LAWS`` names them; ``spice`` writes the same
law as an expression for a general circuit simulator.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from percorso.arrays import Array

LawName = Literal["two slopes", "saturating", "filament", "constant power", "led", "diode"]

THERMAL_V = 0.025864186  # kT/q at 27 °C, where a general circuit simulator evaluates its diodes
LEAK_S = 1e-9  # across every junction, so that a blocked point still has a voltage
COLD_FILAMENT_SHARE = 0.006  # of rated voltage: below it a filament is cold and ten times as conductive, from memory
FILAMENT_EXPONENT = 0.55  # I ∝ V^0.55, handbook value, from memory
LED_KNEE_V = 0.06  # width of an LED's knee, from memory
RUNAWAY = 1.9
MAX_EXPONENT = 80.0  # keeps exp() finite while the iteration is still far off


def two_slopes(voltage: Array, knee_v: Array, below_s: Array, above_s: Array) -> tuple[Array, Array]:
    """Straight on each side of ``knee_v``: a battery charging or discharging, an alternator's diodes to D+."""
    slope = np.where(voltage < knee_v, below_s, above_s)
    return slope * (voltage - knee_v), slope


def saturating(voltage: Array, knee_v: Array, level_a: Array, rise_s: Array) -> tuple[Array, Array]:
    """A motor: ohmic while it stands, then nearly the current its load's torque asks for, whatever the voltage.

    Torque of a motor goes with its current and its speed with what voltage is left over, so a starter turning an
    engine draws about the same at 9 V as at 11 V and turns slower. Constant-current electronics follow it too.
    """
    size = np.abs(voltage)
    chord = rise_s + level_a / np.maximum(size, knee_v)
    return chord * voltage, np.where(size < knee_v, chord, rise_s)


def filament(voltage: Array, rated_v: Array, rated_a: Array, _: Array) -> tuple[Array, Array]:
    """A bulb: I ∝ V^0.55, ohmic while its filament is cold."""
    share = np.abs(voltage) / rated_v
    hot = np.maximum(share, COLD_FILAMENT_SHARE) ** (FILAMENT_EXPONENT - 1)  # conductance over rated conductance
    chord = hot * rated_a / rated_v
    return chord * voltage, np.where(share > COLD_FILAMENT_SHARE, FILAMENT_EXPONENT, 1.0) * chord


def constant_power(voltage: Array, power_w: Array, least_v: Array, _: Array) -> tuple[Array, Array]:
    """A switching supply: P/V from its least voltage on, ohmic below."""
    chord = power_w / np.maximum(np.abs(voltage), least_v) ** 2
    return chord * voltage, np.where(np.abs(voltage) > least_v, -chord, chord)


def led(voltage: Array, forward_v: Array, series_ohm: Array, _: Array) -> tuple[Array, Array]:
    """An LED with its resistor: nothing below its forward voltage, straight above, a soft knee between."""
    x = (voltage - forward_v) / LED_KNEE_V
    current = LED_KNEE_V * np.logaddexp(0.0, x) / series_ohm
    slope = 1 / (1 + np.exp(-np.clip(x, -MAX_EXPONENT, MAX_EXPONENT))) / series_ohm
    return current + LEAK_S * voltage, slope + LEAK_S


def diode(voltage: Array, saturation_a: Array, emission_v: Array, _: Array) -> tuple[Array, Array]:
    """Shockley's law, I = Is (exp(V / n·Vt) − 1); beyond MAX_EXPONENT it goes on straight."""
    x = np.minimum(voltage / emission_v, MAX_EXPONENT)
    grown = saturation_a * np.exp(x)
    beyond = voltage / emission_v - x
    return grown * (1 + beyond) - saturation_a + LEAK_S * voltage, grown / emission_v + LEAK_S


def limited_junction_v(wanted: Array, before: Array, saturation_a: Array, emission_v: Array) -> Array:
    """The junction voltage to try next on the way from ``before`` to ``wanted``, V: its current grows, not explodes.

    The usual limiting of circuit simulators (Nagel, SPICE2, 1975, from memory).
    """
    critical = emission_v * np.log(emission_v / (np.sqrt(2) * saturation_a))
    far = (wanted > critical) & (np.abs(wanted - before) > 2 * emission_v)
    from_below = emission_v * np.log(np.maximum(wanted / emission_v, 1.0))
    growth = 1 + (wanted - before) / emission_v
    from_above = np.where(growth > 0, before + emission_v * np.log(np.maximum(growth, 1e-30)), critical)
    return np.where(far, np.where(before > 0, from_above, from_below), wanted)


def limited_knee_v(wanted: Array, before: Array, knee_v: Array, *, falling: bool) -> Array:
    """The voltage to try next where a current is level or ``falling`` beyond ``knee_v``: zero for a step astray.

    There the slope does not tell where the current turns, so a step past zero means nothing; a falling current even
    drives an unfed device's voltage up, to just about twice at each step.
    """
    along = wanted * np.sign(before)
    astray = (along < 0) | (along > RUNAWAY * np.abs(before)) if falling else along < 0
    return np.where((np.abs(before) > knee_v) & astray, 0.0, wanted)


Law = Callable[[Array, Array, Array, Array], tuple[Array, Array]]
LAWS: Mapping[LawName, Law] = {
    "two slopes": two_slopes,
    "saturating": saturating,
    "filament": filament,
    "constant power": constant_power,
    "led": led,
    "diode": diode,
}


@dataclass(frozen=True)
class LawOf:
    """The law of one element with its three parameters; ``companion_s`` is a typical slope, to start from."""

    name: LawName
    parameters: tuple[float, float, float]
    companion_s: float
    passes: Literal["both ways", "along", "against"] = "both ways"  # a junction lets current pass one way only

    @property
    def blocks(self) -> bool:
        """Whether it is a junction."""
        return self.passes != "both ways"


def current_a(law: LawOf, voltage_v: float) -> float:
    """Current of one element at a voltage, A."""
    current, _ = LAWS[law.name](np.array([voltage_v]), *(np.array([each]) for each in law.parameters))
    return float(current[0])


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
