"""What an alternator gives: its most by speed and temperature, and the voltage its regulator holds."""

from collections.abc import Mapping

import numpy as np

from percorso.vehicle.devices import Alternator, Belt

CUT_IN_RPM = 1000.0  # below it nothing comes out; from memory
OPEN_CIRCUIT_V_PER_RPM = 0.005  # of 12 V, that a rotor with all its field induces when it is hot, from memory
MAKES_UP_TIMES = 1.25  # what it is set to, that it reaches while it turns fast enough to give, from memory
HOT_LOSS_PER_K = 0.0025  # of output above 25 °C, from memory
BELT_LIMIT_A: Mapping[Belt, float] = {
    "V-belt": 85.0,
    "two V-belts": 180.0,
    "ribbed belt": 300.0,
}  # of 12 V, from memory


def output_limit_a(spec: Alternator, rpm: float, temperature_c: float | None = None) -> float:
    """The most an alternator gives at a speed of its own, A; at its own temperature unless another is said.

    Straight from nothing at cut-in to its 1 800 rpm marking, on to its 6 000 rpm marking, or from point to point of its
    curve where that is known; flat beyond. A quarter of a percent less per kelvin above 25 °C (from memory).
    """
    speeds, currents = zip(*points(spec), strict=True)
    cold = float(np.interp(rpm, (0.0, *speeds), (0.0, *currents)))
    above_25 = max(0.0, (spec.temperature_c if temperature_c is None else temperature_c) - 25)
    return cold * max(0.0, 1 - HOT_LOSS_PER_K * above_25)


def points(spec: Alternator) -> tuple[tuple[float, float], ...]:
    """Its curve at 25 °C as (rpm, A), from where it begins to give."""
    marked = ((1800.0, spec.at_1800_a), (6000.0, spec.at_6000_a))
    curve = tuple((each.rpm, each.current_a) for each in spec.output) or marked
    return curve if curve[0][0] <= CUT_IN_RPM else ((CUT_IN_RPM, 0.0), *curve)


def rpm_for(spec: Alternator, current_a: float, temperature_c: float) -> float | None:
    """The lowest speed of its own at which it gives a current, rpm; None where it never does."""
    kept = output_limit_a(spec, spec.max_rpm, temperature_c) / output_limit_a(spec, spec.max_rpm, 25.0)
    cold = current_a / kept if kept > 0 else float("inf")
    speeds, currents = zip(*points(spec), strict=True)
    return float(np.interp(cold, currents, speeds)) if cold <= max(currents) else None


def setpoint_v(spec: Alternator, temperature_c: float) -> float:
    """The voltage its regulator holds at a temperature, V."""
    return spec.setpoint_v + spec.setpoint_v_per_k * (temperature_c - 25)


def most_v(spec: Alternator, rpm: float, nominal_v: float) -> float:
    """The most that its rotor induces at a speed of its own, V; what makes up for a cable at every speed."""
    least = MAKES_UP_TIMES * setpoint_v(spec, spec.temperature_c)
    return max(OPEN_CIRCUIT_V_PER_RPM * rpm * nominal_v / 12, least)


def belt_limit_a(spec: Alternator, nominal_v: float) -> float | None:
    """The output its belt drives without slipping, A; None where its belt is not known. The power rules."""
    return None if spec.belt is None else BELT_LIMIT_A[spec.belt] * 12 / nominal_v


def scaled(spec: Alternator, at_6000_a: float) -> Alternator:
    """One of the same kind that makes so much at 6 000 rpm, and at every other speed as much more or less."""
    times = at_6000_a / spec.at_6000_a
    curve = tuple(each.model_copy(update={"current_a": round(times * each.current_a, 1)}) for each in spec.output)
    typed = {name: text for name, text in spec.typed.items() if name not in ("at_1800_a", "at_6000_a", "output")}
    now = {"at_1800_a": round(times * spec.at_1800_a, 1), "at_6000_a": at_6000_a, "output": curve, "typed": typed}
    return spec.model_copy(update=now)
