"""What a reading tells of assumed metal: a drop at a known current is a resistance, which is offered as measured."""

from dataclasses import dataclass

from percorso.changes.edits import ChangeSegment
from percorso.vehicle.model import Segment, Vehicle
from percorso.vehicle.segments import Diode, FusibleLink, Resistor, Shunt, Wire
from percorso.verification.judging.logged import Logged
from percorso.verification.judging.spreads import of_segment
from percorso.verification.measured.instruments import error

WELL_READ = 0.15  # of the value: a reading that may be off by more pins nothing down; from memory


@dataclass(frozen=True)
class Pinned:
    """What assumed metal is by a reading, in words, and the edit that takes it as measured."""

    says: str
    edit: ChangeSegment


def pinned(vehicle: Vehicle, reading: Logged) -> Pinned | None:
    """What a reading pins down; None where it is no drop across one assumed segment at a current that was measured.

    A resistance that is beyond what is usual is no measure of the part but of what is bad in it, and is not offered.
    """
    net, amps = reading.net, reading.current_a
    segment = _across(vehicle, net.red_point, net.black_point)
    if segment is None or segment.known != "assumed" or net.quantity != "voltage" or not net.value or not amps:
        return None
    if error(net.with_what, "voltage", net.value) > WELL_READ * abs(net.value):
        return None
    ohm = abs(net.value / amps)
    times = ohm * segment.conductance_s(vehicle.zone_temperature_c)
    less, more = of_segment(segment)
    change = _change(segment, ohm, times)
    if change is None or not 1 + less <= times <= 1 + more:
        return None
    like = f", like {change['length_m']:g} m of its size" if "length_m" in change else ""
    edit = ChangeSegment(segment_id=segment.id, change=change, known="measured")
    return Pinned(f"{segment.designation} has {1000 * ohm:.3g} mΩ by it{like}", edit)


def _across(vehicle: Vehicle, red: str | None, black: str | None) -> Segment | None:
    """The one segment between two points; None where there is none, or several share the current."""
    between = [each for each in vehicle.meeting.get(red or "", ()) if each.other_end(red or "") == black]
    return between[0] if len(between) == 1 else None


def _change(segment: Segment, ohm: float, times: float) -> dict[str, float] | None:
    match segment.spec:
        case Wire(length_m=length_m) | FusibleLink(length_m=length_m):
            return {"length_m": round(length_m * times, 2)}
        case Diode() | Resistor() | Shunt():
            return None
    return {"resistance_ohm": ohm}
