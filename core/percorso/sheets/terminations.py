"""What goes on the ends of a wire and around it."""

from dataclasses import dataclass

from percorso import tables
from percorso.components.conductors import ConductorSize, find_size
from percorso.sizing.wire_ends import Terminal, met_there, on_stud, terminals
from percorso.vehicle.devices import RelayCoil
from percorso.vehicle.model import Segment, Vehicle
from percorso.vehicle.segments import Connector, End, Wire, Zone

SHRINK_MM = (3.2, 4.8, 6.4, 9.5, 12.7, 19.0, 25.4, 38.0)  # before shrinking, common practice
SHRINK_OVER = 1.6  # heat-shrink must pass over the terminal's barrel, common practice


@dataclass(frozen=True)
class Termination:
    """What a wire ends in; ``terminal`` names the ring's stud or the splice's colour, where one is made for it."""

    end: End
    terminal: str | None = None

    @property
    def text(self) -> str:
        """As the schedule writes it: ``ring M8``."""
        return self.terminal or self.end


def _fitting(kind: str, size: ConductorSize) -> Terminal | None:
    """The terminal of a kind that is made for a size: the ring of that stud, the splice of that colour."""
    return next((each for name, each in terminals().items() if name.startswith(kind) and each.takes(size)), None)


def termination(vehicle: Vehicle, segment: Segment, wire: Wire, point: str) -> Termination:
    """What a wire ends in at a point: as said, else what is usual for what it meets there."""
    said = wire.from_end if point == segment.from_point else wire.to_end
    size = find_size(wire.size)
    end = said or _usual_end(vehicle, segment, size, point)
    fitting = _fitting(end, size) if end in ("ring", "butt splice") else None
    return Termination(end, fitting.name if fitting else None)


def _usual_end(vehicle: Vehicle, segment: Segment, size: ConductorSize, point: str) -> End:
    met = [each.spec for each in met_there(vehicle, segment, point)]
    coils = (each.spec for each in vehicle.wired.get(point, ()))
    if on_stud(vehicle, segment, point):
        return "ring"
    if any(isinstance(spec, Connector) for spec in met) and terminals()["connector terminal"].takes(size):
        return "connector terminal"
    if not terminals()["blade 6.3 mm"].takes(size) and not any(isinstance(spec, RelayCoil) for spec in coils):
        return "ring" if size.area_mm2 > terminals()["blade 6.3 mm"].thickest_mm2 else "bare"
    only_wires = met and all(isinstance(spec, Wire) for spec in met)
    return "butt splice" if only_wires and point not in vehicle.wired else "blade 6.3 mm"


def heat_shrink(wire: Wire) -> str:
    """Heat-shrink for the ends of a wire: kind by zone, width by the wire."""
    over = SHRINK_OVER * wire.cable.outer_mm
    width = next((each for each in SHRINK_MM if each >= over), SHRINK_MM[-1])
    return f"{_row(wire.zone)['shrink']} {width:g} mm"


def sleeve(zone: Zone) -> str:
    """What a wire runs in through a zone."""
    return _row(zone)["sleeve"]


def _row(zone: Zone) -> dict[str, str]:
    return next(row for row in tables.rows("sleeves") if row["zone"] == zone)
