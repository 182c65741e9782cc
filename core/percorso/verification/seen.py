"""What a person sees of a device or a fuse in a situation: it works, is weak, is dead, clicks."""

from collections.abc import Mapping

from percorso.network.device_results import DeviceResult, draws
from percorso.network.operating_point import Network
from percorso.vehicle.devices import DeviceKind
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
    if result.speed is not None and result.on:
        return "weak" if result.speed < SLOW_SHARE else "works"
    if isinstance(spec, Load):
        if result.on:
            return "weak" if abs(result.voltage_v or 0.0) < WEAK_SHARE * spec.rated_v else "works"
        return "weak" if draws(spec, result) else "dead"
    return "works" if result.on else "dead"
