"""What a battery gives and takes: rest voltage, internal resistance, charge acceptance, and how fast it empties."""

from functools import cache
from typing import Literal

import numpy as np

from percorso import tables

Chemistry = Literal["lead-acid", "AGM", "LiFePO4"]
COLD_C, WARM_C = -18.0, 25.0
CRANKING_SPAN_V = 12.6 - 7.2  # a 12 V battery falls this far at its cold cranking current, SAE J537, from memory
WARM_SHARE = 0.5  # warm resistance is about half the cold one, common practice
RATED_HOURS = 20.0  # over which a capacity is stated, as C20
ABSORPTION_V = 14.4  # of a 12 V battery: where charge acceptance is stated, common practice


@cache
def _columns(table: str, chemistry: Chemistry, first: str, second: str) -> tuple[np.ndarray, np.ndarray]:
    """Two columns of a table of which each row belongs to a chemistry."""
    listed = [row for row in tables.rows(table) if row["chemistry"] == chemistry]
    return np.array([float(row[first]) for row in listed]), np.array([float(row[second]) for row in listed])


def open_circuit_v(chemistry: Chemistry, state_of_charge_percent: float, nominal_v: float) -> float:
    """Rest voltage of a battery of ``nominal_v``, V, linear between the table's points; the source stands there."""
    charge, rest = _columns("open_circuit_voltage", chemistry, "state_of_charge_percent", "rest_v")
    return float(np.interp(state_of_charge_percent, charge, rest)) * nominal_v / 12


def internal_resistance_ohm(
    cold_cranking_a: float, state_of_charge_percent: float, temperature_c: float, nominal_v: float
) -> float:
    """Internal resistance from the cold cranking current, Ω.

    (12.6 − 7.2) V ÷ CCA at −18 °C (SAE J537, from memory), half of it from 25 °C on and linear between (common
    practice); twice that when flat, linear in the state of charge (from memory).
    """
    cold = CRANKING_SPAN_V * nominal_v / 12 / cold_cranking_a
    warmth = float(np.interp(temperature_c, (COLD_C, WARM_C), (1.0, WARM_SHARE)))
    return cold * warmth * (2 - state_of_charge_percent / 100)


def lithium_resistance_ohm(capacity_ah: float, temperature_c: float, nominal_v: float) -> float:
    """Internal resistance of a lithium iron phosphate battery from its capacity, Ω; the table names the source.

    Its cold cranking figure, where a label has one, is what its electronics allow and says nothing of resistance.
    """
    warm = usual("ohm_ah", "LiFePO4") * nominal_v / 12 / capacity_ah
    return warm * float(np.interp(temperature_c, (COLD_C, WARM_C), (usual("cold_times", "LiFePO4"), 1.0)))


def charge_acceptance_a(
    chemistry: Chemistry, capacity_ah: float, state_of_charge_percent: float, temperature_c: float = WARM_C
) -> float:
    """Current a battery takes at 14.4 V (of 12 V), A; the tables name their sources.

    It depends much on age: measure yours. A cold battery takes little, a lithium one below freezing nothing at all.
    """
    charge, per_ah = _columns("charge_acceptance", chemistry, "state_of_charge_percent", "a_per_ah")
    at_25_c = float(np.interp(state_of_charge_percent, charge, per_ah)) * capacity_ah
    return at_25_c * temperature_share("acceptance_share", chemistry, temperature_c)


def temperature_share(
    of: Literal["acceptance_share", "capacity_share", "start_percent"], chemistry: Chemistry, temperature_c: float
) -> float:
    """What a battery's temperature leaves of its charge acceptance or capacity at 25 °C, 0 to 1.

    Or, as ``start_percent``, the charge it must have to start the engine, %.
    """
    return float(np.interp(temperature_c, *_columns("battery_temperature", chemistry, "temperature_c", of)))


def usual(of: Literal["peukert", "charge_efficiency", "ohm_ah", "cold_times"], chemistry: Chemistry) -> float:
    """What is usual for a kind of battery: Peukert's exponent, the share of charge that stays in, Ω·Ah of 12 V."""
    return next(float(row[of]) for row in tables.rows("battery_kinds") if row["chemistry"] == chemistry)


def peukert_factor(current_a: float, capacity_ah: float, exponent: float) -> float:
    """How many times faster than its current says a battery empties.

    Peukert (1897) with the capacity at the twenty-hour rate: t = 20 h · (C ÷ (20 h · I))^k, so it empties
    (I ÷ I₂₀)^(k−1) times as fast. Below the twenty-hour current nothing is taken to be gained.
    """
    return float(max(1.0, current_a * RATED_HOURS / capacity_ah) ** (exponent - 1))


def charge_resistance_ohm(acceptance_a: float, rest_v: float, nominal_v: float) -> float:
    """What a battery opposes to charging, Ω, so that it takes ``acceptance_a`` at its absorption voltage."""
    return (ABSORPTION_V * nominal_v / 12 - rest_v) / acceptance_a
