"""Which points hang together whatever is switched, or whatever could be."""

from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import Diode, RelayContact, SensorSwitch, Switch


def buses(vehicle: Vehicle, *, through_switches: bool = False) -> dict[str, str]:
    """For each point one name of the stretch it lies on: points joined by what nothing switches, or by anything."""
    name = {point: point for point in vehicle.points}
    for segment in vehicle.segments.values():
        if through_switches or not isinstance(segment.spec, Switch | SensorSwitch | RelayContact | Diode):
            old, new = name[segment.to_point], name[segment.from_point]
            name = {point: new if on == old else on for point, on in name.items()}
    return name
