"""What a fault is in the metal, as data: one vehicle is changed by it, and many are solved by it together."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import assert_never

from percorso.vehicle.devices import DeviceKind
from percorso.vehicle.ids import free_id
from percorso.vehicle.model import Device, Point, Segment, Vehicle
from percorso.vehicle.resistance import IDEAL_OHM
from percorso.vehicle.segments import Fuse, Resistor, SegmentSpec, Wire

AT_AN_END = 1e-4  # of a wire's length
WELDED_OHM = 0.002  # contacts that melted together, from memory
TOO_LARGE_A = 1000.0  # what somebody put there instead of a fuse: nothing blows it


@dataclass(frozen=True)
class Inside:
    """A place inside a segment, by its id: after a share of a wire, behind all of anything else."""

    segment: str
    share: float = 0.5


@dataclass(frozen=True)
class Interrupted:
    """A segment that conducts nothing."""

    segment: Segment


@dataclass(frozen=True)
class SeriesResistance:
    """A segment with more resistance, Ω, in series with what it has."""

    segment: Segment
    ohm: float


@dataclass(frozen=True)
class Bypass:
    """A resistance, Ω, between two places, points or inside of a segment, that the plan does not have."""

    start: str | Inside
    end: str | Inside
    ohm: float


@dataclass(frozen=True)
class WeldedContact:
    """A contact that stays closed, whatever should open it, as long as it is plugged in."""

    segment: Segment
    ohm: float = WELDED_OHM


@dataclass(frozen=True)
class ShortedThrough:
    """A segment that is nothing but a link."""

    segment: Segment


@dataclass(frozen=True)
class OversizedFuse:
    """A fuse that nothing blows."""

    segment: Segment


@dataclass(frozen=True)
class OtherValues:
    """A device with other values than it should have."""

    device: Device
    spec: DeviceKind


@dataclass(frozen=True)
class BrokenInside:
    """A device behind one of whose terminals nothing is joined."""

    device: Device
    terminal: str


@dataclass(frozen=True)
class Rewired:
    """Segments and devices that lead to other points than they should."""

    segments: tuple[Segment, ...] = ()
    devices: tuple[Device, ...] = ()


FaultChange = (
    Interrupted
    | SeriesResistance
    | Bypass
    | WeldedContact
    | ShortedThrough
    | OversizedFuse
    | OtherValues
    | BrokenInside
    | Rewired
)


def with_change(vehicle: Vehicle, change: FaultChange) -> Vehicle:
    """The vehicle with it."""
    match change:
        case Interrupted(segment):
            return replace(vehicle, opened=vehicle.opened | {segment.id})
        case SeriesResistance(segment, ohm):
            vehicle, behind = with_inside(vehicle, Inside(segment.id, 1.0))
            return with_resistor(vehicle, behind, segment.to_point, ohm)
        case Bypass(start, end, ohm):
            vehicle, first = _at(vehicle, start)
            vehicle, second = _at(vehicle, end)
            return with_resistor(vehicle, first, second, ohm)
        case WeldedContact(segment, ohm):
            spec = segment.spec.model_copy(update={"resistance_ohm": ohm})
            return replace(_put(vehicle, [replace(segment, spec=spec)]), welded=vehicle.welded | {segment.id})
        case ShortedThrough(segment):
            return _put(vehicle, [replace(segment, spec=Resistor(resistance_ohm=IDEAL_OHM))])
        case OversizedFuse(segment):
            return _put(vehicle, [replace(segment, spec=_bridged(segment, vehicle))])
        case OtherValues(device, spec):
            return _put(vehicle, devices=[replace(device, spec=spec)])
        case BrokenInside(device, terminal):
            inside = free_id("inside", vehicle.points)
            cut = replace(device, terminals={**device.terminals, terminal: inside})
            points = {**vehicle.points, inside: Point(inside, f"inside {device.designation}")}
            return _put(replace(vehicle, points=points), devices=[cut])
        case Rewired(segments, devices):
            return _put(vehicle, segments, devices)
    assert_never(change)


def with_inside(vehicle: Vehicle, place: Inside) -> tuple[Vehicle, str]:
    """The vehicle with a point of its own there, and the point."""
    segment, share = vehicle.segments[place.segment], place.share
    between = free_id("inside", vehicle.points)
    points = {**vehicle.points, between: Point(between, f"inside {segment.designation}")}
    first = replace(segment, to_point=between)
    segments = {**vehicle.segments, segment.id: first}
    if share < 1:
        near, far = _parts(segment.spec, share)
        rest = free_id("rest", segments)
        segments[segment.id] = replace(first, spec=near)
        segments[rest] = replace(segment, id=rest, from_point=between, spec=far)
    return replace(vehicle, points=points, segments=segments), between


def _parts(spec: SegmentSpec, share: float) -> tuple[SegmentSpec, SegmentSpec]:
    """What lies before and behind a place inside."""
    if not isinstance(spec, Wire):
        return spec, Resistor(resistance_ohm=IDEAL_OHM)
    near_m, far_m = spec.length_m * share, spec.length_m * (1 - share)
    return spec.model_copy(update={"length_m": near_m}), spec.model_copy(update={"length_m": far_m})


def with_resistor(vehicle: Vehicle, start: str, end: str, ohm: float) -> Vehicle:
    """The vehicle with a plain resistance between two points."""
    added = free_id("fault", vehicle.segments)
    return _put(vehicle, [Segment(added, added, start, end, Resistor(resistance_ohm=max(ohm, IDEAL_OHM)))])


def _at(vehicle: Vehicle, place: str | Inside) -> tuple[Vehicle, str]:
    return (vehicle, place) if isinstance(place, str) else with_inside(vehicle, place)


def _put(vehicle: Vehicle, segments: Iterable[Segment] = (), devices: Iterable[Device] = ()) -> Vehicle:
    return replace(
        vehicle,
        segments={**vehicle.segments, **{each.id: each for each in segments}},
        devices={**vehicle.devices, **{each.id: each for each in devices}},
    )


def _bridged(segment: Segment, vehicle: Vehicle) -> Fuse:
    assert isinstance(segment.spec, Fuse)
    resistance_ohm = 1 / segment.conductance_s(vehicle.zone_temperature_c)
    return segment.spec.model_copy(update={"rating_a": TOO_LARGE_A, "resistance_ohm": resistance_ohm})
