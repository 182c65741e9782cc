"""What a contact switches: the loads behind it."""

from percorso.components.contacts import HOUSE_LOAD, switched_share
from percorso.vehicle.model import Vehicle, passing


def load_kind_behind(vehicle: Vehicle, segment_id: str) -> str:
    """The kind of load that asks most of a contact, among the devices whose circuits pass it."""
    kinds = [
        "solenoid" if device.spec.kind == "starter" and circuit.family == "control" else device.spec.kind
        for circuit in passing(vehicle, segment_id)
        if (device := vehicle.devices.get(circuit.device_id or "")) is not None
    ]
    return min(kinds, key=switched_share, default=HOUSE_LOAD)
