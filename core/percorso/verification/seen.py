"""What a person sees of a device or a fuse in a situation: it works, is weak, is dead, clicks once or chatters."""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array
from percorso.network.device_results import DeviceResult, least_drawn_a, works
from percorso.network.operating_point import Network
from percorso.vehicle.devices import DeviceKind, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.states import State
from percorso.verification.measurements import Measurement, Seen

WEAK_SHARE = 0.8  # of its rated voltage, below which a load is seen or heard to be weak, from memory
SLOW_SHARE = 0.6  # of its usual speed, below which a starter is heard to crank slowly, from memory


def seen(network: Network, state: State, chosen: Mapping[str, str], measurement: Measurement) -> Seen:
    """What is seen of the device or segment of a measurement. Raises StateError."""
    if measurement.device is None:
        return "whole"
    solution = network.solve(state, chosen, look_ahead=False)
    if any(measurement.device in each.device_ids for each in solution.unsettled):
        return "clicks"
    device = network.vehicle.devices.get(measurement.device)
    return "dead" if device is None else looks(device.spec, solution.devices[device.id])


def looks(spec: DeviceKind, result: DeviceResult) -> Seen:
    """How a device looks and sounds that is not known to click."""
    if result.on is None:
        return "clicks"
    if isinstance(spec, Starter):
        return _word(starter_looks(result.speed or 0.0, pulls=bool(result.pulled_in)))
    if isinstance(spec, Load):
        if result.voltage_v is None:  # it flickers
            return "weak" if result.on else "dead"
        return _word(load_looks(spec, result.voltage_v, result.current_a or 0.0))
    return "works" if result.on else "dead"


def _word(found: NDArray[np.object_]) -> Seen:
    word: Seen = found.item()
    return word


def starter_looks(speed: Array | float, *, pulls: bool) -> NDArray[np.object_]:
    """How a starter is heard to turn at a share of its usual speed, shape (…,), with its solenoid pulled in or not."""
    turns, at_speed = np.asarray(speed) > 0, np.asarray(speed) >= SLOW_SHARE
    stands = "clicks once" if pulls else "dead"
    return np.where(at_speed, "works", np.where(turns, "weak", stands)).astype(object)


def load_looks(spec: Load, voltage_v: Array | float, current_a: Array | float) -> NDArray[np.object_]:
    """How a load looks at the voltage across it (V) and with the current it draws (A), shape (…,)."""
    on = works(spec, voltage_v)
    too_little = np.abs(voltage_v) < WEAK_SHARE * spec.rated_v
    weak = np.where(on, too_little, np.abs(current_a) > least_drawn_a(spec))
    return np.where(weak, "weak", np.where(on, "works", "dead")).astype(object)
