"""What goes on the ends of a wire and around it: terminal, stud, heat-shrink, sleeve."""

from dataclasses import dataclass

from percorso import tables
from percorso.conductors import find_size
from percorso.devices import Alternator, Battery, Starter
from percorso.specs import Body, Connector, End, Fuse, Joint, RelayContact, SensorSwitch, Switch, Wire, Zone
from percorso.vehicle import Segment, Vehicle

STUD_UP_TO_MM2 = ((6.0, "M6"), (25.0, "M8"), (70.0, "M10"), (120.0, "M12"))  # rings as they are sold, common practice
BLADE_UP_TO_MM2 = 6.0  # a 6.3 mm blade terminal takes no more, common practice
SHRINK_MM = (3.2, 4.8, 6.4, 9.5, 12.7, 19.0, 25.4, 38.0)  # before shrinking, common practice
SHRINK_OVER = 1.6  # heat-shrink must pass over the terminal's barrel, common practice


@dataclass(frozen=True)
class Termination:
    """A terminal as it is bought; ``stud`` is the thread a ring goes on."""

    end: End
    stud: str | None = None

    @property
    def text(self) -> str:
        """As the schedule writes it: ``ring M8``."""
        return f"{self.end} {self.stud}" if self.stud else self.end


def termination(vehicle: Vehicle, segment: Segment, wire: Wire, point: str) -> Termination:
    """What a wire ends in at a point: as said, else what is usual for what it meets there."""
    said = wire.from_end if point == segment.from_point else wire.to_end
    end = said or _usual_end(vehicle, segment, wire, point)
    return Termination(end, _stud(find_size(wire.size).area_mm2)) if end == "ring" else Termination(end)


def _usual_end(vehicle: Vehicle, segment: Segment, wire: Wire, point: str) -> End:
    area = find_size(wire.size).area_mm2
    met = [each.spec for each in vehicle.segments.values() if each.id != segment.id and each.other_end(point)]
    devices = [each for each in vehicle.devices.values() if point in each.terminals.values()]
    if any(isinstance(each.spec, Battery | Starter) for each in devices) or area > BLADE_UP_TO_MM2:
        return "ring"
    if any(isinstance(each.spec, Alternator) and point == each.terminals["B+"] for each in devices):
        return "ring"
    if any(isinstance(spec, Joint | Body) or (isinstance(spec, Fuse) and spec.family != "blade") for spec in met):
        return "ring"
    if any(isinstance(spec, Connector) for spec in met):
        return "connector terminal"
    if devices or any(isinstance(spec, Fuse | RelayContact | Switch | SensorSwitch) for spec in met):
        return "blade 6.3 mm"
    return "butt splice" if any(isinstance(spec, Wire) for spec in met) else "blade 6.3 mm"


def _stud(area_mm2: float) -> str:
    return next(stud for up_to, stud in STUD_UP_TO_MM2 if area_mm2 <= up_to * (1 + 1e-9))


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
