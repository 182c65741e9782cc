"""The mark of each kind of segment on the map, as SVG paths around its middle."""

from dataclasses import dataclass
from typing import assert_never

from percorso.vehicle.segments import (
    Body,
    Breaker,
    Connector,
    Diode,
    Fuse,
    FusibleLink,
    Joint,
    RelayContact,
    Resistor,
    SegmentSpec,
    SensorSwitch,
    Shunt,
    Splice,
    Switch,
    Wire,
)

MOVED_BY = {Switch: "", SensorSwitch: "M-5,6q5,5 10,0", RelayContact: "M-5,8h10M0,8v-5"}  # beneath a contact


@dataclass(frozen=True)
class MapMark:
    """``outline`` is filled with the paper, ``stroke`` is not; the line leaves a gap of ``gap`` px to each side."""

    outline: str = ""
    stroke: str = ""
    gap: float = 0.0


def mark_of(spec: SegmentSpec, is_closed: bool) -> MapMark:
    """The mark of a segment. A contact is drawn open unless it is closed in the state that is shown."""
    match spec:
        case Wire():
            return MapMark()
        case Fuse() | FusibleLink() | Breaker():
            return _guard(spec)
        case Switch() | SensorSwitch() | RelayContact():
            return MapMark(stroke=f"M-10,0L9,{0 if is_closed else -8}{_dot(10)}{MOVED_BY[type(spec)]}", gap=10)
        case Connector():
            return MapMark(stroke="M-2,-7h-6v14h6M2,-7h6v14h-6", gap=8)
        case Splice():
            return MapMark(outline="M-5,-3.5h10a3.5,3.5 0 0 1 0,7h-10a3.5,3.5 0 0 1 0,-7Z")
        case Diode():
            return MapMark(outline="M-6,-6v12l11,-6Z", stroke="M6,-6v12")
        case Resistor():
            return MapMark(outline=_box(12, 4))
        case Shunt():
            return MapMark(outline=_ring(8), stroke="M-3,4L4,-5")
        case Joint():
            return MapMark(outline=_ring(6), stroke=_dot(0))
        case Body():
            return MapMark(outline=_box(14, 6), stroke="M-12,6l7,-12M-5,6l7,-12M2,6l7,-12")
        case _:
            assert_never(spec)


def _guard(spec: Fuse | FusibleLink | Breaker) -> MapMark:
    if isinstance(spec, Breaker):
        return MapMark(stroke="M-11,0q11,-14 22,0")
    if isinstance(spec, FusibleLink):
        return MapMark(stroke="M-12,0l6,-5l6,10l6,-10l6,5", gap=12)
    return MapMark(outline=_box(11, 5), stroke="M-11,0q5.5,-5 11,0t11,0" if spec.fitted else "", gap=11)


def _box(half_width: float, half_height: float) -> str:
    return f"M-{half_width},-{half_height}h{2 * half_width}v{2 * half_height}h-{2 * half_width}Z"


def _ring(radius: float) -> str:
    return f"M-{radius},0a{radius},{radius} 0 1 0 {2 * radius},0a{radius},{radius} 0 1 0 -{2 * radius},0Z"


def _dot(x: float) -> str:
    return f"M{x - 1.5},0a1.5,1.5 0 1 0 3,0a1.5,1.5 0 1 0 -3,0Z"
