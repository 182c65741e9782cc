"""Instruments as the network sees them: what hangs between their probes, and what they show of the voltage there."""

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Mask
from percorso.network.branches import Branch
from percorso.network.laws import LawOf, battery_law, filament_law
from percorso.verification.measured.instruments import (
    BRIGHT_SHARE,
    BUZZES_BELOW_OHM,
    GLOWS_SHARE,
    LED_BRIGHT_V,
    LED_GLOWS_V,
    OHMMETER_V,
    TEST_LAMP_W,
    Instrument,
    Range,
    input_resistance_ohm,
    ranges,
)
from percorso.verification.measured.measurements import DEAD, Measurement


def probes(measurement: Measurement) -> tuple[str, str]:
    """The points of the red and the black probe."""
    return measurement.red_point or "", measurement.black_point or ""


def meter(pair: tuple[str, str]) -> Branch:
    """A voltmeter between two points."""
    return _between(pair, ohm=input_resistance_ohm("multimeter", "voltage"))


def instrument_branches(measurement: Measurement, nominal_v: float) -> list[Branch]:
    """What hangs between the probes of an ohmmeter, in each of its ranges, of a test lamp or an LED tester."""
    pair = probes(measurement)
    if measurement.quantity in DEAD:
        behind = [_behind_ohm(each) for each in ranges("multimeter", "resistance")]
        return [_between(pair, battery_law(OHMMETER_V, each, each)) for each in behind]
    if measurement.with_what == "test lamp":
        return [_between(pair, filament_law(nominal_v, TEST_LAMP_W / nominal_v))]
    return [_between(pair, ohm=input_resistance_ohm("LED tester", "lamp"))]


def ohm_shown(voltage_v: Array, scale: Range) -> tuple[Array, Array, Mask]:
    """What an ohmmeter shows in a range at a voltage between its probes (V), shape (…,): Ω, how many of them a volt
    moves it, and whether the range shows as much at all.
    """
    behind = _behind_ohm(scale)
    given_v = OHMMETER_V - voltage_v
    is_shown = given_v * (scale.up_to + behind) > OHMMETER_V * behind
    given_v = np.where(is_shown, given_v, np.nan)
    return voltage_v * behind / given_v, behind * OHMMETER_V / given_v**2, is_shown


def buzzes(ohm: Array) -> NDArray[np.object_]:
    """What a continuity buzzer says of a resistance (Ω), shape (…,)."""
    return np.where(ohm < BUZZES_BELOW_OHM, "connected", "open").astype(object)


def brightness(instrument: Instrument, voltage_v: Array, nominal_v: float) -> NDArray[np.object_]:
    """How a test lamp or an LED tester is seen to light at a voltage across it (V), shape (…,), either way round."""
    glows, bright = GLOWS_SHARE * nominal_v, BRIGHT_SHARE * nominal_v
    if instrument == "LED tester":
        glows, bright = LED_GLOWS_V, LED_BRIGHT_V
    across = np.abs(voltage_v)
    return np.where(across < glows, "dark", np.where(across < bright, "dim", "bright")).astype(object)


def _behind_ohm(scale: Range) -> float:
    return scale.input_resistance_ohm or 1.0


def _between(pair: tuple[str, str], law: LawOf | None = None, ohm: float | None = None) -> Branch:
    return Branch("", "instrument", *pair, resistance_ohm=ohm, law=law)
