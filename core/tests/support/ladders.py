"""Networks of nothing but a battery, resistances and ohmic loads, and the same with every part drawn by lot."""

import numpy as np
from numpy.typing import NDArray

from core.tests.support.small import IDEAL_BATTERY, small_vehicle
from percorso.vehicle.model import Vehicle
from percorso.vehicle.resistance import segment_resistance_ohm

# within what each is 95 times of 100, as the tables have it
WIRE, CONTACT, LOAD, BATTERY_OHM = (0.9, 1.1), (0.5, 1.5), (0.85, 1.15), (0.9, 1.1)
# of what is assumed: times or through so much for length, for a size, and for a contact beside its condition
LENGTH, SIZE, ANY_CONTACT, ANY_LOAD = 1.5, 1.6, 3.0, (0.7, 1.3)
HALF_CHARGED_V = (12.132, 12.24, 12.366)  # at 35, 50 and 65 %


def ladder_vehicle(seed: int) -> Vehicle:
    """Three to eight branches off a common feed and a common ground, each a wire, a connector and a load."""
    random = np.random.default_rng(seed)
    pieces = {"W": ("plus", "a0", _wire(random)), "G": ("b0", "minus", _wire(random))}
    loads = {}
    for number in range(1, int(random.integers(4, 10))):
        feed, ground = (f"{side}{random.integers(0, number)}" for side in "ab")
        pieces[f"W{number}"] = (feed, f"a{number}", _wire(random))
        pieces[f"X{number}"] = (f"a{number}", f"c{number}", {"kind": "connector"})
        pieces[f"G{number}"] = (f"b{number}", ground, _wire(random))
        ohmic = {"kind": "resistive", "rated_v": 12, "rated_a": float(random.uniform(0.5, 15))}
        loads[f"E{number}"] = ({"+": f"c{number}", "-": f"b{number}"}, ohmic)
    battery = {**IDEAL_BATTERY, "state_of_charge_percent": 50}
    return small_vehicle(pieces, {"B": ({"+": "plus", "-": "minus"}, battery), **loads})


def _wire(random: np.random.Generator) -> dict[str, object]:
    return {"kind": "wire", "size": str(random.choice(["2.5 mm2", "6 mm2"])), "length_m": float(random.uniform(0.5, 5))}


def drawn_voltages(vehicle: Vehicle, seed: int, draws: int, *, assumed: bool = False) -> NDArray[np.float64]:
    """Potentials with every part somewhere in its spread, V, shape (draws, points); the minus post is at nought."""
    random = np.random.default_rng(seed)
    numbers = {point: number for number, point in enumerate(vehicle.points)}
    matrix = np.zeros((draws, len(numbers), len(numbers)))
    driven = np.zeros((draws, len(numbers)))
    for part in vehicle.segments.values():
        ohm = segment_resistance_ohm(part.spec, vehicle.zone_temperature_c)
        is_wire = part.spec.kind == "wire"
        if not assumed:
            times = _lot(random, draws, *(WIRE if is_wire else CONTACT))
        elif is_wire:
            times = _factor(random, draws, LENGTH) * _factor(random, draws, SIZE)
        else:
            times = _factor(random, draws, ANY_CONTACT) * _lot(random, draws, *CONTACT)
        siemens = 1 / (ohm * times)
        _stamp(matrix, numbers[part.from_point], numbers[part.to_point], siemens)
    for device in vehicle.devices.values():
        plus, minus = (numbers[device.terminals[each]] for each in "+-")
        if device.spec.kind == "battery":
            siemens = 1 / (0.01 * _lot(random, draws, *BATTERY_OHM))
            rest = HALF_CHARGED_V[1]
            rest_v = rest * _lot(random, draws, HALF_CHARGED_V[0] / rest, HALF_CHARGED_V[2] / rest)
            driven[:, plus] += siemens * rest_v
        else:
            siemens = device.spec.rated_a / 12 * _lot(random, draws, *(ANY_LOAD if assumed else LOAD))
        _stamp(matrix, plus, minus, siemens)
    at_nought = numbers["minus"]
    matrix[:, at_nought, :] = 0
    matrix[:, at_nought, at_nought] = 1
    driven[:, at_nought] = 0
    return np.linalg.solve(matrix, driven[..., None])[..., 0]


def _lot(random: np.random.Generator, draws: int, low: float, high: float) -> NDArray[np.float64]:
    """Half below one and half above, normal on either side, 95 of 100 between ``low`` and ``high``."""
    z = random.standard_normal(draws) / 1.96
    return np.asarray(1 + np.where(z < 0, (1 - low) * z, (high - 1) * z))


def _factor(random: np.random.Generator, draws: int, most: float) -> NDArray[np.float64]:
    """As often above one as below, 95 of 100 between one over ``most`` and ``most``."""
    return np.exp(random.standard_normal(draws) / 1.96 * np.log(most))


def _stamp(matrix: NDArray[np.float64], one: int, other: int, siemens: NDArray[np.float64]) -> None:
    matrix[:, one, one] += siemens
    matrix[:, other, other] += siemens
    matrix[:, one, other] -= siemens
    matrix[:, other, one] -= siemens
