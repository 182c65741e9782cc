"""What a person sees of a device or a fuse in a situation: it works, is weak, is dead, clicks once or chatters."""

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array
from percorso.network.device_results import GIVES_A, DeviceResult, least_drawn_a, speed_of, works
from percorso.network.operating_point import Network
from percorso.vehicle.devices import DeviceKind, RelayCoil, Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.states import State
from percorso.verification.measured.measurements import Measurement, Seen

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
    if isinstance(spec, Load) and result.voltage_v is None:  # it flickers
        return "weak" if result.on else "dead"
    if not isinstance(spec, Load | Starter):
        return "works" if result.on else "dead"
    voltage_v, current_a = result.voltage_v or 0.0, result.current_a or 0.0
    word: Seen = appearance(spec, voltage_v, current_a, pulled_in=bool(result.pulled_in)).item()
    return word


def appearance(
    spec: DeviceKind, voltage_v: Array | float, current_a: Array | float, *, pulled_in: bool
) -> NDArray[np.object_]:
    """How a device looks and sounds at the voltage across it (V), shape (…,): a load or a starter with the current it
    takes (A), a battery or an alternator with what it gives, a coil or a solenoid pulled in or not.
    """
    if isinstance(spec, RelayCoil):
        return np.full(np.shape(voltage_v), "works" if pulled_in else "dead", dtype=object)
    if isinstance(spec, Starter):
        speed = speed_of(spec, voltage_v, current_a)
        stands = "clicks once" if pulled_in else "dead"
        return np.where(speed >= SLOW_SHARE, "works", np.where(speed > 0, "weak", stands)).astype(object)
    if isinstance(spec, Load):
        return _of_load(spec, voltage_v, current_a)
    return np.where(np.asarray(current_a) > GIVES_A, "works", "dead").astype(object)


def _of_load(spec: Load, voltage_v: Array | float, current_a: Array | float) -> NDArray[np.object_]:
    on = works(spec, voltage_v)
    too_little = np.abs(voltage_v) < WEAK_SHARE * spec.rated_v
    weak = np.where(on, too_little, np.abs(current_a) > least_drawn_a(spec))
    return np.where(weak, "weak", np.where(on, "works", "dead")).astype(object)
