"""What a device does, by what it gets."""

from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array, Mask
from percorso.vehicle.devices import Battery, DeviceKind, RelayCoil, Starter
from percorso.vehicle.loads import IndicatorLamp, Load

GIVES_A = 0.01  # from here on a source counts as giving
TURNS_SHARE = 0.001  # of its speed: with less a starter stands, and what is computed is rounding
DESTROYS_TIMES = 1.5  # its voltage, from where on a load does not work any more, from memory
DRAWS_SHARE = 0.1  # of its rated current, from where on a load counts as drawing


@dataclass(frozen=True, slots=True)
class DeviceResult:
    """What a device does. Current is what a load takes, and what a battery or an alternator gives (A).

    ``on``: a load or lamp has enough voltage, a coil has pulled in, a source gives. ``pulled_in`` is of relay coils and
    solenoids; ``speed`` of starters, as a share of the speed at their running point.
    """

    current_a: float | None
    voltage_v: float | None
    on: bool | None
    pulled_in: bool | None = None
    speed: float | None = None


def doing(spec: DeviceKind, result: DeviceResult) -> str:
    """What a device does, in the words of the trade."""
    if result.on is None:
        return "chatters"
    if isinstance(spec, RelayCoil):
        return "pulled in" if result.on else "dropped out"
    if isinstance(spec, Battery):
        current = result.current_a or 0.0
        return "at rest" if abs(current) <= GIVES_A else "discharging" if current > 0 else "charging"
    if result.speed:
        return f"turns at {result.speed:.0%}"
    if isinstance(spec, Load) and not result.on:
        return _why_not(spec, result)
    return "on" if result.on else "off"


def _why_not(spec: Load, result: DeviceResult) -> str:
    """What a load does that does not work."""
    if is_destroyed(spec, result.voltage_v or 0.0):
        return "destroyed"
    return "low voltage" if draws(spec, result) else "off"


def draws(spec: Load, result: DeviceResult) -> bool:
    """Whether a load draws a current worth speaking of, whether or not it works with it."""
    return abs(result.current_a or 0.0) > least_drawn_a(spec)


def speed_of(spec: Starter, voltage_v: Array | float, current_a: Array | float) -> Array:
    """How fast a starter turns at the voltage across it (V) with a current (A), as a share of its usual speed, 0 where
    it stands, shape (…,).
    """
    speed = spec.speed(np.asarray(voltage_v), np.asarray(current_a))
    return np.where((np.asarray(current_a) > GIVES_A) & (speed > TURNS_SHARE), speed, 0.0)


def least_drawn_a(spec: Load) -> float:
    """The current from where on a load draws what is worth speaking of, A."""
    return DRAWS_SHARE * spec.drawn_a


def works(spec: Load, voltage_v: Array | float) -> Mask:
    """Whether a load works at the voltage across it, V, shape (…,): it gets enough, and not what destroys it."""
    one_way = isinstance(spec, IndicatorLamp) and spec.technology == "LED"
    enough = np.asarray(voltage_v if one_way else np.abs(voltage_v)) >= spec.least_v
    return np.asarray(enough & ~is_destroyed(spec, voltage_v))


def is_destroyed(spec: Load, voltage_v: Array | float) -> Mask:
    """Whether the voltage across a load, V, destroys it, shape (…,)."""
    return np.asarray(np.abs(voltage_v) > DESTROYS_TIMES * spec.drawn_v)
