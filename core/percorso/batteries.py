"""What a battery gives and takes: rest voltage, internal resistance and charge acceptance."""

from functools import cache
from typing import Literal

import numpy as np

from percorso import tables

Chemistry = Literal["lead-acid", "AGM", "LiFePO4"]
COLD_C, WARM_C = -18.0, 25.0
CRANKING_SPAN_V = 12.6 - 7.2  # a 12 V battery falls this far at its cold cranking current, SAE J537, from memory
WARM_SHARE = 0.5  # warm resistance is about half the cold one, common practice
ABSORPTION_V = 14.4  # of a 12 V battery: where charge acceptance is stated, common practice


@cache
def _rest_curve(chemistry: Chemistry) -> tuple[np.ndarray, np.ndarray]:
    listed = [row for row in tables.rows("open_circuit_voltage") if row["chemistry"] == chemistry]
    charge = np.array([float(row["state_of_charge_percent"]) for row in listed])
    return charge, np.array([float(row["rest_v"]) for row in listed])


def open_circuit_v(chemistry: Chemistry, state_of_charge_percent: float, nominal_v: float) -> float:
    """Rest voltage of a battery of ``nominal_v``, V, linear between the table's points; the source stands there."""
    charge, rest = _rest_curve(chemistry)
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


def charge_acceptance_a(capacity_ah: float, state_of_charge_percent: float) -> float:
    """Current a lead-acid battery takes at 14.4 V, A: 1 % of its capacity when full, half of it when flat.

    Linear between, from memory; it depends much on age and temperature: measure yours.
    """
    return capacity_ah * (0.01 + 0.49 * (1 - state_of_charge_percent / 100))


def charge_resistance_ohm(acceptance_a: float, rest_v: float, nominal_v: float) -> float:
    """What a battery opposes to charging, Ω, so that it takes ``acceptance_a`` at its absorption voltage."""
    return (ABSORPTION_V * nominal_v / 12 - rest_v) / acceptance_a
