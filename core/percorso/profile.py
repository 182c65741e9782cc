"""A circuit's potential along its path at its design current, and the verdict against its target."""

from dataclasses import dataclass
from itertools import accumulate, pairwise
from typing import Literal

from percorso.house_rules import HouseRules
from percorso.specs import segment_resistance_ohm
from percorso.vehicle import SIDES, Circuit, Side, Vehicle, check_circuit, stations


@dataclass(frozen=True)
class Verdict:
    """pass · marginal · fail · unknown, with its reason; ``margin_v`` is what is left of the allowance, V."""

    word: Literal["pass", "marginal", "fail", "unknown"]
    margin_v: float
    reason: str


@dataclass(frozen=True)
class Leg:
    """One segment of a circuit as its current passes it; ``lost_*_v`` count from the source, both sides together."""

    segment_id: str
    side: Side
    start_point: str
    end_point: str
    current_a: float
    resistance_ohm: float
    drop_v: float
    power_w: float
    lost_before_v: float
    lost_after_v: float
    share: float  # of everything the circuit loses


@dataclass(frozen=True)
class Profile:
    """Where a circuit's voltage is lost. The device sees ``device_v``."""

    legs: tuple[Leg, ...]
    supply_drop_v: float
    return_drop_v: float
    total_drop_v: float
    allowed_drop_v: float
    source_v: float
    device_v: float
    verdict: Verdict

    def leg(self, segment_id: str) -> Leg:
        """The leg of a segment of this circuit."""
        return next(leg for leg in self.legs if leg.segment_id == segment_id)


def judge_drop(drop_v: float, allowed_v: float, rules: HouseRules) -> Verdict:
    """Verdict of a drop against an allowance, V: close from the house's ``close_fraction`` of it on."""
    margin = allowed_v - drop_v
    if allowed_v <= 0:
        return Verdict("fail", margin, "the source is already below what the device needs")
    if margin < 0:
        return Verdict("fail", margin, f"loses {drop_v:.2f} V of {allowed_v:.2f} V allowed")
    if drop_v > rules.close_fraction * allowed_v:
        return Verdict("marginal", margin, f"only {margin * 1000:.0f} mV left of {allowed_v:.2f} V allowed")
    return Verdict("pass", margin, f"loses {drop_v:.2f} V of {allowed_v:.2f} V allowed")


def profile(vehicle: Vehicle, circuit: Circuit, rules: HouseRules) -> Profile:
    """Series sum of a circuit at its design current.

    Raises PathError when the circuit is not one path out and one path back.
    """
    check_circuit(vehicle, circuit)
    legs = _legs(vehicle, circuit)
    total = legs[-1].lost_after_v
    supply_drop = sum(leg.drop_v for leg in legs if leg.side == "supply")
    allowed = circuit.target.allowed_drop_v(circuit.source_v, vehicle.nominal_v)
    return Profile(
        legs=legs,
        supply_drop_v=supply_drop,
        return_drop_v=total - supply_drop,
        total_drop_v=total,
        allowed_drop_v=allowed,
        source_v=circuit.source_v,
        device_v=circuit.source_v - total,
        verdict=judge_drop(total, allowed, rules),
    )


def _legs(vehicle: Vehicle, circuit: Circuit) -> tuple[Leg, ...]:
    """Every segment in the order the current takes them, supply side first."""
    current = circuit.design_current_a
    steps = [(side, segment_id, ends) for side in SIDES for segment_id, ends in _steps(vehicle, circuit, side)]
    specs = [vehicle.segments[segment_id].spec for _, segment_id, _ in steps]
    resistances = [segment_resistance_ohm(spec, vehicle.zone_temperature_c) for spec in specs]
    lost = [current * ohm for ohm in accumulate(resistances, initial=0.0)]
    return tuple(
        Leg(
            segment_id=segment_id,
            side=side,
            start_point=start,
            end_point=end,
            current_a=current,
            resistance_ohm=resistance,
            drop_v=current * resistance,
            power_w=current**2 * resistance,
            lost_before_v=before,
            lost_after_v=after,
            share=current * resistance / lost[-1],
        )
        for (side, segment_id, (start, end)), resistance, (before, after) in zip(
            steps, resistances, pairwise(lost), strict=True
        )
    )


def _steps(vehicle: Vehicle, circuit: Circuit, side: Side) -> list[tuple[str, tuple[str, str]]]:
    """(segment id, (start point, end point)) of one side, in the order the current takes them."""
    points = stations(vehicle, circuit, side)
    return list(zip(circuit.path(side), pairwise(points), strict=True))
