"""How warm the wires of a vehicle are by what flows through them, and what resistance that gives them."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from percorso.arrays import Array, Numbers
from percorso.components.conductors import warm_as, warmed
from percorso.components.warm_copper import CRANKING_S, LASTS, STEPS, warm_copper_c, warming
from percorso.house_rules import HouseRules
from percorso.vehicle.model import Segment, Vehicle
from percorso.vehicle.resistance import IDEAL_OHM
from percorso.vehicle.segments import Wire
from percorso.vehicle.states import State

FELT_K = 0.5  # by which some copper must warm before all is solved again: 2 ‰ of its resistance


def by_house(vehicle: Vehicle, rules: HouseRules) -> Vehicle:
    """The vehicle with its copper as warm as the house takes it."""
    return vehicle if vehicle.copper == rules.copper else replace(vehicle, copper=rules.copper)


def lasts_s(state: State) -> float:
    """For how long what flows in a state warms the copper, s."""
    return CRANKING_S if state == "cranking" else LASTS


def wire_c(vehicle: Vehicle, spec: Wire, current_a: float, seconds: float = LASTS) -> float:
    """How warm the copper of a wire is by a current, or as its zone where the house takes it so, °C."""
    air_c = vehicle.zone_temperature_c[spec.zone]
    if vehicle.copper == "zone temperature":
        return air_c
    return float(warm_copper_c(spec.cable, current_a, air_c, spec.bundle, seconds))


def segment_ohm(vehicle: Vehicle, segment: Segment, current_a: float, seconds: float = LASTS) -> float:
    """Resistance of a segment while a current flows through it, Ω."""
    if not isinstance(segment.spec, Wire) or vehicle.copper == "zone temperature":
        return 1 / segment.conductance_s(vehicle.zone_temperature_c)
    copper, rest = segment.ohms
    return max(copper * warmed(wire_c(vehicle, segment.spec, current_a, seconds)) + rest, IDEAL_OHM)


def flow_ohms(vehicle: Vehicle, flow_a: Mapping[str, float], seconds: float = LASTS) -> dict[str, float]:
    """Resistance of each segment at what flows through it, Ω, by id."""
    return {each: segment_ohm(vehicle, vehicle.segments[each], amps, seconds) for each, amps in flow_a.items()}


def copper_c(vehicle: Vehicle, segment: Segment, ohm: float) -> float | None:
    """How warm the copper of a wire is that has so much resistance, °C; None for what is no wire."""
    if not isinstance(segment.spec, Wire):
        return None
    copper, rest = segment.ohms
    air_c = vehicle.zone_temperature_c[segment.spec.zone]
    return air_c if ohm <= IDEAL_OHM else max(warm_as((ohm - rest) / copper), air_c)


@dataclass(frozen=True)
class Wires:
    """The wires of a vehicle as arrays: their places among its segments, their copper's resistance at 20 °C (Ω), the
    air's temperature (°C), and how their copper warms, shape (wires, steps): see ``warming``.
    """

    places: Numbers
    copper_20c_ohm: Array
    air_c: Array
    squared: Array
    copper_c: Array

    def warmed_c(self, current_a: Array) -> Array:
        """How warm the copper of each is by its current, °C, shape (wires,)."""
        squared, every = np.square(current_a), np.arange(len(current_a))
        step = np.minimum(np.sum(self.squared[:, 1:] <= squared[:, None], axis=1), STEPS - 1)
        low, high = self.squared[every, step], self.squared[every, step + 1]
        cool, warm = self.copper_c[every, step], self.copper_c[every, step + 1]
        return np.asarray(cool + np.minimum((squared - low) / (high - low), 1.0) * (warm - cool))

    def added_ohm(self, copper_c: Array) -> Array:
        """What each has more than at its air's temperature, Ω, shape (wires,)."""
        return np.asarray(self.copper_20c_ohm * (warmed(copper_c) - warmed(self.air_c)))


def wires_of(vehicle: Vehicle, durations: Iterable[float]) -> list[Wires]:
    """The wires of a vehicle, for what flows for each of some durations (s)."""
    found = [(place, each) for place, each in enumerate(vehicle.segments.values()) if isinstance(each.spec, Wire)]
    places = np.array([place for place, _ in found], dtype=np.int64)
    copper_20c_ohm = np.array([each.ohms[0] for _, each in found])
    laid = [
        (spec.cable, vehicle.zone_temperature_c[spec.zone], spec.bundle)
        for _, each in found
        if isinstance(spec := each.spec, Wire)
    ]
    kinds = {each: kind for kind, each in enumerate(dict.fromkeys(laid))}
    of_kind = np.array([kinds[each] for each in laid], dtype=np.int64)
    air_c = np.array([air for _, air, _ in laid])
    made = []
    for seconds in durations:
        warm = np.array([warming(*each, seconds) for each in kinds]).reshape(-1, 2, STEPS + 1)[of_kind]
        made.append(Wires(places, copper_20c_ohm, air_c, squared=warm[:, 0], copper_c=warm[:, 1]))
    return made
