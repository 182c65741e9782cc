"""What can be bad at a wire, a connection, a fuse, a contact or a diode, as a change of the vehicle."""

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Literal

from percorso.errors import FaultError
from percorso.network.branches import reference_point
from percorso.vehicle.devices import Alternator
from percorso.vehicle.ids import free_id
from percorso.vehicle.model import Point, Segment, Vehicle
from percorso.vehicle.naming import segment_called
from percorso.vehicle.resistance import IDEAL_OHM
from percorso.vehicle.segments import Body, Fuse, Resistor, Wire

SegmentFault = Literal[
    "open",
    "terminal pushed out",
    "blown",
    "no contact",
    "does not close",
    "thin place",
    "resistance",
    "burnt",
    "chafed to ground",
    "chafed near its start",
    "chafed near its end",
    "chafed to the ground cable",
    "touching its neighbour",
    "lands on the wrong post",
    "welded",
    "shorted",
    "wrong way round",
    "ways swapped",
    "too large",
]
OPENS: tuple[SegmentFault, ...] = ("open", "terminal pushed out", "blown", "no contact", "does not close")
RESISTS: tuple[SegmentFault, ...] = ("thin place", "resistance", "burnt")
CHAFED: tuple[SegmentFault, ...] = (
    "chafed to ground",
    "chafed near its start",
    "chafed near its end",
    "chafed to the ground cable",
)
AT_AN_END = 1e-4  # of a wire's length
ADDED_OHM = 0.3  # a wire that hangs by some of its strands, where nobody says how much, from memory
WELDED_OHM = 0.002  # contacts that melted together, from memory
TOO_LARGE_A = 1000.0  # what somebody put there instead of a fuse: nothing blows it

SegmentChange = Callable[[Vehicle, Segment, float | None, str | None], Vehicle]


def _open(vehicle: Vehicle, segment: Segment, _: float | None, __: str | None) -> Vehicle:
    return replace(vehicle, opened=vehicle.opened | {segment.id})


def _resists(vehicle: Vehicle, segment: Segment, ohm: float | None, _: str | None) -> Vehicle:
    vehicle, between = with_inside(vehicle, segment, behind=True)
    return with_resistor(vehicle, between, segment.to_point, ADDED_OHM if ohm is None else ohm)


def _chafed(vehicle: Vehicle, segment: Segment, ohm: float | None, _: str | None) -> Vehicle:
    vehicle, between = with_inside(vehicle, segment)
    return with_resistor(vehicle, between, body_point(vehicle), ohm or 0.0)


def _chafed_near_its_start(vehicle: Vehicle, segment: Segment, ohm: float | None, _: str | None) -> Vehicle:
    vehicle, between = with_inside(vehicle, segment, share=AT_AN_END)
    return with_resistor(vehicle, between, body_point(vehicle), ohm or 0.0)


def _chafed_near_its_end(vehicle: Vehicle, segment: Segment, ohm: float | None, _: str | None) -> Vehicle:
    vehicle, between = with_inside(vehicle, segment, share=1 - AT_AN_END)
    return with_resistor(vehicle, between, body_point(vehicle), ohm or 0.0)


def _chafed_to_the_ground_cable(vehicle: Vehicle, segment: Segment, ohm: float | None, _: str | None) -> Vehicle:
    vehicle, between = with_inside(vehicle, segment)
    return with_resistor(vehicle, between, reference_point(vehicle), ohm or 0.0)


def _touching(vehicle: Vehicle, segment: Segment, ohm: float | None, other: str | None) -> Vehicle:
    if other is None:
        raise FaultError("say which wire it touches", field=("other",))
    vehicle, here = with_inside(vehicle, segment)
    vehicle, there = with_inside(vehicle, segment_called(vehicle, other))
    return with_resistor(vehicle, here, there, ohm or 0.0)


def _lands_elsewhere(vehicle: Vehicle, segment: Segment, _: float | None, other: str | None) -> Vehicle:
    """A sense lead that reads the alternator's own post instead of where it should: its far end is there."""
    if other is None or other not in vehicle.points:
        raise FaultError("say at which point it lands", field=("other",))
    senses = {each.terminals.get("S") for each, _ in vehicle.devices_of(Alternator)}
    far_end = "from_point" if segment.to_point in senses else "to_point"
    return _put(vehicle, replace(segment, **{far_end: other}))


def _conducts(ohm: float) -> SegmentChange:
    """It conducts at all times, whatever should open or block it."""

    def change(vehicle: Vehicle, segment: Segment, _: float | None, __: str | None) -> Vehicle:
        return _put(vehicle, replace(segment, spec=Resistor(resistance_ohm=ohm)))

    return change


def _welded(vehicle: Vehicle, segment: Segment, _: float | None, __: str | None) -> Vehicle:
    """It stays closed, as long as it is plugged in."""
    spec = segment.spec.model_copy(update={"resistance_ohm": WELDED_OHM})
    return replace(_put(vehicle, replace(segment, spec=spec)), welded=vehicle.welded | {segment.id})


def _turned(vehicle: Vehicle, segment: Segment, _: float | None, __: str | None) -> Vehicle:
    return _put(vehicle, replace(segment, from_point=segment.to_point, to_point=segment.from_point))


def _ways_swapped(vehicle: Vehicle, segment: Segment, _: float | None, other: str | None) -> Vehicle:
    """Two terminals of a plug in each other's cavity: each way leads to where the other should."""
    if other is None:
        raise FaultError("say which other way of the plug", field=("other",))
    beside = segment_called(vehicle, other)
    here, there = (_loom_end(vehicle, each) for each in (segment, beside))
    swapped = replace(segment, **{here: getattr(beside, there)}), replace(beside, **{there: getattr(segment, here)})
    return _put(_put(vehicle, swapped[0]), swapped[1])


def _loom_end(vehicle: Vehicle, way: Segment) -> Literal["from_point", "to_point"]:
    """Which end of a plug's way is not on its device."""
    return "from_point" if vehicle.wired.get(way.to_point) and not vehicle.wired.get(way.from_point) else "to_point"


def _too_large(vehicle: Vehicle, segment: Segment, _: float | None, __: str | None) -> Vehicle:
    if not isinstance(segment.spec, Fuse):
        raise TypeError("only a fuse is too large")
    resistance_ohm = 1 / segment.conductance_s(vehicle.zone_temperature_c)
    bridged = segment.spec.model_copy(update={"rating_a": TOO_LARGE_A, "resistance_ohm": resistance_ohm})
    return _put(vehicle, replace(segment, spec=bridged))


def _put(vehicle: Vehicle, segment: Segment) -> Vehicle:
    return replace(vehicle, segments={**vehicle.segments, segment.id: segment})


_EVERYWHERE: tuple[str, ...] = (
    *("wire", "connector", "joint", "splice", "body", "fuse", "fusible link", "breaker"),
    *("relay contact", "switch", "sensor switch", "diode", "resistor", "shunt"),
)
_CONTACTS = ("relay contact", "switch", "sensor switch")
_AT: tuple[tuple[SegmentFault, tuple[str, ...], SegmentChange], ...] = (
    ("open", _EVERYWHERE, _open),
    ("terminal pushed out", ("connector",), _open),
    ("blown", ("fuse", "fusible link", "breaker"), _open),
    ("no contact", ("fuse", "breaker"), _open),
    ("does not close", _CONTACTS, _open),
    ("thin place", _EVERYWHERE, _resists),
    ("resistance", _EVERYWHERE, _resists),
    ("burnt", _CONTACTS, _resists),
    ("chafed to ground", _EVERYWHERE, _chafed),
    ("chafed near its start", ("wire",), _chafed_near_its_start),
    ("chafed near its end", ("wire",), _chafed_near_its_end),
    ("chafed to the ground cable", ("wire",), _chafed_to_the_ground_cable),
    ("touching its neighbour", ("wire",), _touching),
    ("lands on the wrong post", ("wire",), _lands_elsewhere),
    ("welded", _CONTACTS, _welded),
    ("shorted", ("diode", "resistor"), _conducts(IDEAL_OHM)),
    ("wrong way round", ("diode",), _turned),
    ("ways swapped", ("connector",), _ways_swapped),
    ("too large", ("fuse",), _too_large),
)
AT_SEGMENTS: Mapping[tuple[str, str], SegmentChange] = {
    (name, kind): change for name, kinds, change in _AT for kind in kinds
}


def body_point(vehicle: Vehicle) -> str:
    """The point of the vehicle's metal that most of it meets, else the battery's minus."""
    metal = [each for each, spec in vehicle.segments_of(Body) if spec.condition == "seam path"]
    meeting = Counter(point for each in metal for point in (each.from_point, each.to_point))
    found = max(meeting, key=lambda point: len(vehicle.meeting[point]), default=None)
    return reference_point(vehicle) if found is None else found


def with_inside(vehicle: Vehicle, segment: Segment, *, behind: bool = False, share: float = 0.5) -> tuple[Vehicle, str]:
    """A point inside a segment: after a share of a wire, behind all of anything else; ``behind`` all of a wire too."""
    between = free_id("inside", vehicle.points)
    points = {**vehicle.points, between: Point(between, f"inside {segment.designation}")}
    first = replace(segment, to_point=between)
    segments = {**vehicle.segments, segment.id: first}
    if not behind and isinstance(segment.spec, Wire):
        lengths = segment.spec.length_m * share, segment.spec.length_m * (1 - share)
        near, far = (segment.spec.model_copy(update={"length_m": each}) for each in lengths)
        rest = free_id("rest", segments)
        segments[segment.id] = replace(first, spec=near)
        segments[rest] = replace(segment, id=rest, from_point=between, spec=far)
    elif not behind:
        rest = free_id("rest", segments)
        segments[rest] = replace(segment, id=rest, from_point=between, spec=Resistor(resistance_ohm=IDEAL_OHM))
    return replace(vehicle, points=points, segments=segments), between


def with_resistor(vehicle: Vehicle, start: str, end: str, ohm: float) -> Vehicle:
    """The vehicle with a plain resistance between two points."""
    added = free_id("fault", vehicle.segments)
    spec = Resistor(resistance_ohm=max(ohm, IDEAL_OHM))
    segments = {**vehicle.segments, added: Segment(added, added, start, end, spec)}
    return replace(vehicle, segments=segments)
