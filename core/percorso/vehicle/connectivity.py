"""Which points hang together whatever is switched, or whatever could be."""

from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import Diode, RelayContact, SensorSwitch, Switch

SWITCHING = (Switch, SensorSwitch, RelayContact, Diode)


def buses(vehicle: Vehicle, *, through_switches: bool = False) -> dict[str, str]:
    """For each point one name of the stretch it lies on: points joined by what nothing switches, or by anything."""
    leads_to = {point: point for point in vehicle.points}

    def name(point: str) -> str:
        while leads_to[point] != point:
            leads_to[point] = point = leads_to[leads_to[point]]
        return point

    for segment in vehicle.segments.values():
        if segment.id not in vehicle.opened and (through_switches or not isinstance(segment.spec, SWITCHING)):
            leads_to[name(segment.to_point)] = name(segment.from_point)
    return {point: name(point) for point in vehicle.points}
