"""Instruments as the circuit sees them: what they load it with, in which range they read, and how far they may be off.

A meter's limit of error is taken as what it keeps to 95 times of 100.
"""

from dataclasses import dataclass
from functools import cache
from typing import Literal

import numpy as np

from percorso import tables
from percorso.arrays import Array

Quantity = Literal["voltage", "current", "resistance", "continuity", "lamp", "seen", "wiggle"]
Instrument = Literal["multimeter", "clamp", "test lamp", "LED tester", "eyes"]
USUAL: dict[Quantity, Instrument] = {
    "voltage": "multimeter",
    "current": "clamp",
    "resistance": "multimeter",
    "continuity": "multimeter",
    "lamp": "test lamp",
    "seen": "eyes",
    "wiggle": "multimeter",
}
UNITS: dict[Quantity, str] = {"voltage": "V", "current": "A", "resistance": "Ω", "continuity": "Ω"}
TEST_LAMP_W = 4.0  # a filament lamp on two leads, common practice
OHMMETER_V = 0.5  # behind the resistance of its range: too little to open a junction, common practice
BUZZES_BELOW_OHM = 30.0  # a meter's continuity buzzer, common practice
GLOWS_SHARE = 0.2  # of its voltage, from which a filament is seen to glow, from memory
BRIGHT_SHARE = 0.75  # of its voltage, from which it is called bright, from memory
LED_GLOWS_V, LED_BRIGHT_V = 2.2, 6.0  # over an LED tester, from memory


@dataclass(frozen=True)
class Range:
    """One range of an instrument, in V, A or Ω: how far it reads, its last digit, and its limit of error."""

    up_to: float
    digit: float
    share: float
    at_least: float
    input_resistance_ohm: float | None

    def error(self, value: float) -> float:
        """How far a value read in this range may be off."""
        return self.share * abs(value) + self.at_least


@cache
def ranges(instrument: Instrument, quantity: Quantity) -> tuple[Range, ...]:
    """The ranges of an instrument, the finest first; none where it does not measure that quantity in numbers."""
    wanted = "resistance" if quantity == "continuity" else quantity
    return tuple(
        Range(
            float(row["up_to"]),
            float(row["digit"]),
            float(row["share_percent"]) / 100,
            float(row["at_least"]),
            float(row["input_resistance_ohm"]) if row["input_resistance_ohm"] else None,
        )
        for row in tables.rows("instruments")
        if (row["instrument"], row["quantity"]) == (instrument, wanted) and row["up_to"]
    )


def measures(instrument: Instrument, quantity: Quantity) -> bool:
    """Whether an instrument measures a quantity."""
    if quantity in ("seen", "wiggle"):
        return True
    return bool(ranges(instrument, quantity)) or (quantity == "lamp" and instrument in ("test lamp", "LED tester"))


def range_for(instrument: Instrument, quantity: Quantity, value: float) -> Range | None:
    """The finest range that shows a value; None where it is beyond all of them."""
    return next((each for each in ranges(instrument, quantity) if abs(value) <= each.up_to), None)


def error(instrument: Instrument, quantity: Quantity, value: float) -> float:
    """How far a reading of about this value may be off, in its own unit."""
    every = ranges(instrument, quantity)
    return (range_for(instrument, quantity, value) or every[-1]).error(value) if every else 0.0


def errors(instrument: Instrument, quantity: Quantity, values: Array) -> Array:
    """The same of many values, shape of ``values``."""
    every = ranges(instrument, quantity)
    if not every:
        return np.zeros(values.shape)
    size = np.abs(values)
    at = np.minimum(np.searchsorted([each.up_to for each in every], size), len(every) - 1)
    share, at_least = np.array([(each.share, each.at_least) for each in every]).T
    return np.asarray(share[at] * size + at_least[at])


@cache
def input_resistance_ohm(instrument: Instrument, quantity: Quantity) -> float:
    """What an instrument opposes in its finest range, Ω: between its probes, or in series for a current."""
    if quantity == "lamp":
        row = next(row for row in tables.rows("instruments") if row["instrument"] == instrument)
        return float(row["input_resistance_ohm"])
    return ranges(instrument, quantity)[0].input_resistance_ohm or 0.0
