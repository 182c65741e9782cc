"""What can be bad at a wire, a connection, a fuse, a contact or a diode, and what it is in the metal."""

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Literal

from percorso.errors import FaultError
from percorso.faults.changes import (
    AT_AN_END,
    Bypass,
    FaultChange,
    Inside,
    Interrupted,
    OversizedFuse,
    Rewired,
    SeriesResistance,
    ShortedThrough,
    WeldedContact,
)
from percorso.network.branches import reference_point
from percorso.vehicle.devices import Alternator
from percorso.vehicle.model import Segment, Vehicle
from percorso.vehicle.naming import segment_called
from percorso.vehicle.segments import Body

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
ADDED_OHM = 0.3  # a wire that hangs by some of its strands, where nobody says how much, from memory

SegmentFaultChange = Callable[[Vehicle, Segment, float | None, str | None], FaultChange]


def _opens(_: Vehicle, segment: Segment, __: float | None, ___: str | None) -> FaultChange:
    return Interrupted(segment)


def _resists(_: Vehicle, segment: Segment, ohm: float | None, __: str | None) -> FaultChange:
    return SeriesResistance(segment, ADDED_OHM if ohm is None else ohm)


def _chafed(vehicle: Vehicle, segment: Segment, ohm: float | None, _: str | None) -> FaultChange:
    return Bypass(Inside(segment.id), body_point(vehicle), ohm or 0.0)


def _chafed_near_its_start(vehicle: Vehicle, segment: Segment, ohm: float | None, _: str | None) -> FaultChange:
    return Bypass(Inside(segment.id, AT_AN_END), body_point(vehicle), ohm or 0.0)


def _chafed_near_its_end(vehicle: Vehicle, segment: Segment, ohm: float | None, _: str | None) -> FaultChange:
    return Bypass(Inside(segment.id, 1 - AT_AN_END), body_point(vehicle), ohm or 0.0)


def _chafed_to_the_ground_cable(vehicle: Vehicle, segment: Segment, ohm: float | None, _: str | None) -> FaultChange:
    return Bypass(Inside(segment.id), reference_point(vehicle), ohm or 0.0)


def _touching(vehicle: Vehicle, segment: Segment, ohm: float | None, other: str | None) -> FaultChange:
    if other is None:
        raise FaultError("say which wire it touches", field=("other",))
    return Bypass(Inside(segment.id), Inside(segment_called(vehicle, other).id), ohm or 0.0)


def _lands_elsewhere(vehicle: Vehicle, segment: Segment, _: float | None, other: str | None) -> FaultChange:
    """A sense lead that reads the alternator's own post instead of where it should: its far end is there."""
    if other is None or other not in vehicle.points:
        raise FaultError("say at which point it lands", field=("other",))
    senses = {each.terminals.get("S") for each, _ in vehicle.devices_of(Alternator)}
    if segment.to_point in senses:
        return Rewired((replace(segment, from_point=other),))
    return Rewired((replace(segment, to_point=other),))


def _shorted(_: Vehicle, segment: Segment, __: float | None, ___: str | None) -> FaultChange:
    return ShortedThrough(segment)


def _welded(_: Vehicle, segment: Segment, __: float | None, ___: str | None) -> FaultChange:
    return WeldedContact(segment)


def _turned(_: Vehicle, segment: Segment, __: float | None, ___: str | None) -> FaultChange:
    return Rewired((replace(segment, from_point=segment.to_point, to_point=segment.from_point),))


def _ways_swapped(vehicle: Vehicle, segment: Segment, _: float | None, other: str | None) -> FaultChange:
    """Two terminals of a plug in each other's cavity: each way leads to where the other should."""
    if other is None:
        raise FaultError("say which other way of the plug", field=("other",))
    beside = segment_called(vehicle, other)
    here, there = (_loom_end(vehicle, each) for each in (segment, beside))
    swapped = replace(segment, **{here: getattr(beside, there)}), replace(beside, **{there: getattr(segment, here)})
    return Rewired(swapped)


def _loom_end(vehicle: Vehicle, way: Segment) -> Literal["from_point", "to_point"]:
    """Which end of a plug's way is not on its device."""
    return "from_point" if vehicle.wired.get(way.to_point) and not vehicle.wired.get(way.from_point) else "to_point"


def _too_large(_: Vehicle, segment: Segment, __: float | None, ___: str | None) -> FaultChange:
    return OversizedFuse(segment)


_EVERYWHERE: tuple[str, ...] = (
    *("wire", "connector", "joint", "splice", "body", "fuse", "fusible link", "breaker"),
    *("relay contact", "switch", "sensor switch", "diode", "resistor", "shunt"),
)
_CONTACTS = ("relay contact", "switch", "sensor switch")
_AT: tuple[tuple[SegmentFault, tuple[str, ...], SegmentFaultChange], ...] = (
    ("open", _EVERYWHERE, _opens),
    ("terminal pushed out", ("connector",), _opens),
    ("blown", ("fuse", "fusible link", "breaker"), _opens),
    ("no contact", ("fuse", "breaker"), _opens),
    ("does not close", _CONTACTS, _opens),
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
    ("shorted", ("diode", "resistor"), _shorted),
    ("wrong way round", ("diode",), _turned),
    ("ways swapped", ("connector",), _ways_swapped),
    ("too large", ("fuse",), _too_large),
)
AT_SEGMENTS: Mapping[tuple[str, str], SegmentFaultChange] = {
    (name, kind): change for name, kinds, change in _AT for kind in kinds
}


def body_point(vehicle: Vehicle) -> str:
    """The point of the vehicle's metal that most of it meets, else the battery's minus."""
    metal = [each for each, spec in vehicle.segments_of(Body) if spec.condition == "seam path"]
    meeting = Counter(point for each in metal for point in (each.from_point, each.to_point))
    found = max(meeting, key=lambda point: len(vehicle.meeting[point]), default=None)
    return reference_point(vehicle) if found is None else found
