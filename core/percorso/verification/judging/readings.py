"""Judges what the meter said: resistance from drop and current, projected to design current, against the target."""

from dataclasses import dataclass
from typing import Literal

from percorso.circuits.verdict import Verdict, judge_drop
from percorso.circuits.voltage_profile import Leg, Profile
from percorso.errors import ReadingError
from percorso.house_rules import HouseRules
from percorso.vehicle.model import SIDES, Circuit, Vehicle, stations
from percorso.verification.measured.measurements import Measurement

METER_SHARE = 0.005  # hand-held meter on a DC volt range: ±(0.5 % + 2 counts of 1 mV), common practice
METER_COUNTS_V = 0.002
SAME_CURRENT = 0.005  # relative: closer than this two currents are one to a hand-held clamp
LEAST_SHARE = 0.02  # of the current at which it was read: with less, a reading is a dot on the zero line


@dataclass(frozen=True)
class DropReading:
    """A voltage drop as measured: red probe nearer the source, V and A at the time of measuring."""

    red_point: str
    black_point: str
    value_v: float
    current_a: float
    lead_offset_v: float = 0.0  # what the meter shows with its probes together


@dataclass(frozen=True)
class Judgement:
    """What a reading proves. ``projected_v`` is at design current; the verdict is of the whole circuit with it.

    ``current_a`` flowed while it was read, as measured or else as computed.

    ``at_design_current``: it was measured there, so that nothing was projected.
    """

    resistance_ohm: float
    current_a: float
    at_design_current: bool
    projected_v: float
    uncertainty_v: float
    expected_v: float
    compared: Literal["as expected", "higher", "lower"]
    circuit_drop_v: float
    verdict: Verdict

    @property
    def own_v(self) -> float:
        """What the circuit itself lost while it was read, V."""
        return self.resistance_ohm * self.current_a


@dataclass(frozen=True)
class Mark:
    """Where a reading puts the potential at its black probe on a shown profile, at the current that flows there, V."""

    black_point: str
    lost_v: float  # from the source, the rest of the route as computed
    drop_v: float
    uncertainty_v: float


def mark(shown: Profile, reading: DropReading) -> Mark | None:
    """A reading on a profile; None where its probes are not on the route, or hardly anything flows there now."""
    red = next((leg for leg in shown.legs if leg.start_point == reading.red_point), None)
    own = leg_at_device(shown, reading.red_point, reading.black_point)
    if red is None or own is None:
        return None
    scale = own.current_a / reading.current_a
    if abs(scale) < LEAST_SHARE:
        return None
    drop = (reading.value_v - reading.lead_offset_v) * scale
    uncertainty = meter_uncertainty_v(reading.value_v) * abs(scale)
    return Mark(reading.black_point, red.lost_before_v + drop, drop, uncertainty)


def leg_at_device(shown: Profile, red_point: str, black_point: str) -> Leg | None:
    """The piece between two probes that is nearest the device; None where one of them is not on the route.

    What flows in it is the circuit's own as far as the probes reach; nearer the source others may add to it.
    """
    red = next((leg for leg in shown.legs if leg.start_point == red_point), None)
    black = next((leg for leg in shown.legs if leg.end_point == black_point), None)
    if red is None or black is None:
        return None
    return black if black.side == "supply" else red


def drop_resistance_ohm(drop_v: float, current_a: float) -> float:
    """Resistance of a path from a drop measured along it, Ω (Ohm's law)."""
    return drop_v / current_a


def meter_uncertainty_v(value_v: float) -> float:
    """How far a hand-held meter's reading may be off, V."""
    return METER_SHARE * abs(value_v) + METER_COUNTS_V


def own_drop_v(reading: DropReading, at_design: Profile, circuit: Circuit, expected_v: float) -> float:
    """What a circuit itself loses of a drop, V: without what others lose on the metal they share, as computed.

    ``expected_v`` is what all of them together should lose between the probes.
    """
    starts = {leg.start_point: leg.lost_before_v for leg in at_design.legs}
    ends = {leg.end_point: leg.lost_after_v for leg in at_design.legs}
    red, black = starts.get(reading.red_point), ends.get(reading.black_point)
    if red is None or black is None:
        return reading.value_v
    own = (black - red) * reading.current_a / circuit.design_current_a
    return reading.value_v - (expected_v - own)


def is_across(vehicle: Vehicle, circuit: Circuit, measurement: Measurement) -> bool:
    """Whether a voltage is over a circuit's device or source, and so no drop of one of its sides."""
    sides = [stations(vehicle, circuit, side) for side in SIDES]
    red, black = (
        {place for place, points in enumerate(sides) if point in points}
        for point in (measurement.red_point, measurement.black_point)
    )
    return bool(red and black) and not red & black


def judge_reading(
    vehicle: Vehicle, circuit: Circuit, solved: Profile, reading: DropReading, rules: HouseRules
) -> Judgement:
    """Judge a drop reading against what is computed between its probes and against the circuit's target.

    The verdict is of the whole circuit: the measured piece at design current, the rest as computed.
    Raises ReadingError when the probes are not on one side of the circuit, are swapped, or the current was too small.
    """
    expected = _expected_v(vehicle, solved, reading)
    net = _net_drop_v(reading)
    _refuse_small_current(reading, circuit, rules)
    resistance = drop_resistance_ohm(net, reading.current_a)
    projected = resistance * circuit.design_current_a
    uncertainty = meter_uncertainty_v(reading.value_v) * circuit.design_current_a / reading.current_a
    circuit_drop = solved.total_drop_v - expected + projected
    return Judgement(
        resistance_ohm=resistance,
        current_a=reading.current_a,
        at_design_current=abs(reading.current_a / circuit.design_current_a - 1) < SAME_CURRENT,
        projected_v=projected,
        uncertainty_v=uncertainty,
        expected_v=expected,
        compared=_compare(projected, expected, uncertainty, rules),
        circuit_drop_v=circuit_drop,
        verdict=_verdict(circuit_drop, solved.allowed_drop_v, uncertainty, rules),
    )


def _expected_v(vehicle: Vehicle, solved: Profile, reading: DropReading) -> float:
    starts = {leg.start_point: leg for leg in solved.legs}
    ends = {leg.end_point: leg for leg in solved.legs}
    for point, name in ((reading.red_point, "red_point"), (reading.black_point, "black_point")):
        if point not in starts and point not in ends:
            raise ReadingError("this point is not on the circuit", field=(name,))
    red, black = starts.get(reading.red_point), ends.get(reading.black_point)
    if red is None or black is None or black.lost_after_v <= red.lost_before_v:
        raise ReadingError("the leads are swapped: red goes nearer the source, as current flows", field=("red_point",))
    if red.side != black.side:
        raise ReadingError("both probes must be on one side of the device for a drop test", field=("black_point",))
    return black.lost_after_v - red.lost_before_v


def _net_drop_v(reading: DropReading) -> float:
    net = reading.value_v - reading.lead_offset_v
    if net < 0:
        raise ReadingError("a drop below zero means swapped leads or a wrong offset; measure again", field=("value_v",))
    return net


def _refuse_small_current(reading: DropReading, circuit: Circuit, rules: HouseRules) -> None:
    least = rules.min_test_current_fraction * circuit.design_current_a
    if reading.current_a < least:
        raise ReadingError(
            f"a drop at {reading.current_a:.3g} A proves nothing about {circuit.design_current_a:.3g} A: load the "
            f"circuit to at least {least:.3g} A ({rules.min_test_current_fraction:.0%} of its design current)",
            field=("current_a",),
        )


def _compare(
    projected_v: float, expected_v: float, uncertainty_v: float, rules: HouseRules
) -> Literal["as expected", "higher", "lower"]:
    if abs(projected_v - expected_v) <= max(rules.expected_tolerance * expected_v, uncertainty_v):
        return "as expected"
    return "higher" if projected_v > expected_v else "lower"


def _verdict(circuit_drop_v: float, allowed_v: float, uncertainty_v: float, rules: HouseRules) -> Verdict:
    verdict = judge_drop(circuit_drop_v, allowed_v, rules)
    if verdict.word == "fail" and verdict.margin_v + uncertainty_v >= 0:
        return Verdict("marginal", verdict.margin_v, "over by less than the meter can tell")
    return verdict
