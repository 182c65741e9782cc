"""The map of a vehicle in one state: every line, mark and figure that a page of it shows."""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from percorso.map.layout import (
    COLUMN,
    EDGE,
    POST,
    TOP,
    MapLayout,
    PlacedPoint,
    PlacedSegment,
    PlacedTerminal,
    layout_of,
)
from percorso.map.marks import MapMark, mark_of
from percorso.map.trees import MapSide
from percorso.network.device_results import doing
from percorso.network.results import SegmentResult, Solution
from percorso.vehicle.connectivity import SWITCHING
from percorso.vehicle.model import Fate, Known, Segment, Vehicle
from percorso.vehicle.segments import Connector, describe

POST_ABOVE, POST_BELOW = 4, 8  # px that a post reaches beyond the rows
FLOWS_A = 1e-3  # what is less is drawn as no current
DrawnAs = MapSide | Literal["idle"]


@dataclass(frozen=True)
class Stroke:
    """A line as an SVG path, how thick it is, and by what it is coloured."""

    path: str
    px: float
    drawn_as: DrawnAs


@dataclass(frozen=True)
class DrawnSegment:
    """A segment: its line, open where its mark stands around ``x`` and ``y``, and what the state makes of it.

    ``plug`` is the designation of the plug whose way it is; ``end_v`` the potential at its end away from the post, V.
    A red probe goes to ``plus_point``, its end nearer to plus, and a black one to ``minus_point``.
    """

    id: str
    designation: str
    description: str
    is_new: bool
    fate: Fate
    known: Known
    plus_point: str
    minus_point: str
    plug: str | None
    line: Stroke
    mark: MapMark
    x: float
    y: float
    end_v: float | None
    result: SegmentResult


@dataclass(frozen=True)
class DrawnPoint:
    """A point with its bar, if anything branches off there, and its voltage."""

    id: str
    name: str
    x: float
    y: float
    bar: Stroke | None
    drawn_as: DrawnAs
    v: float | None


@dataclass(frozen=True)
class DrawnTerminal:
    """A terminal with the line that leads there, and the segments from it to the post of its side."""

    terminal: str
    point: str
    side: MapSide
    lead: Stroke
    way: tuple[str, ...]


@dataclass(frozen=True)
class DrawnRow:
    """A device in its row, or another terminal of it, between what leads there from the left and from the right."""

    device: str
    designation: str
    name: str
    left: DrawnTerminal | None
    right: DrawnTerminal | None
    is_main: bool
    is_new: bool
    fate: Fate
    known: Known
    y: float
    on: bool | None
    does: str
    current_a: float | None
    voltage_v: float | None


@dataclass(frozen=True)
class DrawnPost:
    """The bar at a margin that everything is fed from, or returns to, px."""

    sign: Literal["+", "−"]
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class Picture:
    """A page of the map, px; ``devices`` are the left and the right edge of the column of devices."""

    width: float
    height: float
    devices: tuple[float, float]
    posts: tuple[DrawnPost, ...]
    segments: tuple[DrawnSegment, ...]
    points: tuple[DrawnPoint, ...]
    rows: tuple[DrawnRow, ...]


def line_px(current_a: float) -> float:
    """How thick a current is drawn: 1.4 px without any, 1.2 px more for about each ten times."""
    return round(1.4 + 1.2 * math.log10(1 + 4 * abs(current_a)), 1)


def picture_of(vehicle: Vehicle, solution: Solution) -> Picture:
    """The map of a vehicle at a stage in a state."""
    layout = layout_of(vehicle)
    drawing = _Drawing(vehicle, solution, layout)
    return Picture(
        layout.width,
        layout.height,
        layout.middle,
        _posts(layout),
        tuple(map(drawing.segment, layout.segments)),
        tuple(map(drawing.point, layout.points)),
        tuple(drawing.rows()),
    )


class _Drawing:
    def __init__(self, vehicle: Vehicle, solution: Solution, layout: MapLayout) -> None:
        self._vehicle, self._solution, self._layout = vehicle, solution, layout
        self._placed = {each.point: each for each in layout.points}
        self._most_a = _most_at(vehicle, solution.flow_a)

    def segment(self, placed: PlacedSegment) -> DrawnSegment:
        segment = self._vehicle.segments[placed.segment]
        mark, amps = mark_of(segment.spec, self._is_closed(segment)), self._solution.flow_a.get(segment.id, 0.0)
        start, end = self._ends_of(segment, placed)
        return DrawnSegment(
            segment.id,
            segment.designation,
            describe(segment.spec),
            segment.origin == "new",
            segment.fate,
            segment.known,
            *((end, start) if placed.side == "return" else (start, end)),
            segment.spec.plug if isinstance(segment.spec, Connector) else None,
            _stroke(_line(placed, mark.gap), amps, placed.side),
            mark,
            *placed.mark,
            self._solution.points[end].v,
            self._solution.segments[segment.id],
        )

    def _ends_of(self, segment: Segment, placed: PlacedSegment) -> tuple[str, str]:
        """Its points as it is placed: the one nearer to its post, and the other."""
        one, other = segment.from_point, segment.to_point
        return (one, other) if (self._placed[other].x, self._placed[other].y) == placed.end else (other, one)

    def _is_closed(self, segment: Segment) -> bool:
        return not isinstance(segment.spec, SWITCHING) or segment.id in self._solution.conducting

    def point(self, placed: PlacedPoint) -> DrawnPoint:
        line = _stroke(f"M{placed.x:g},{placed.top:g}V{placed.bottom:g}", self._most_a[placed.point], placed.side)
        name, v = self._vehicle.points[placed.point].name, self._solution.points[placed.point].v
        bar = line if placed.top < placed.bottom else None
        return DrawnPoint(placed.point, name, placed.x, placed.y, bar, line.drawn_as, v)

    def rows(self) -> Iterator[DrawnRow]:
        by_row: dict[float, list[PlacedTerminal]] = {}
        for each in self._layout.terminals:
            by_row.setdefault(each.y, []).append(each)
        for y, terminals in by_row.items():
            device = self._vehicle.devices[terminals[0].device]
            result = self._solution.devices[device.id]
            yield DrawnRow(
                device.id,
                device.designation,
                device.name,
                *self._ends(terminals),
                terminals[0].is_main,
                device.origin == "new",
                device.fate,
                device.known,
                y,
                result.on,
                doing(device.spec, result),
                result.current_a,
                result.voltage_v,
            )

    def _ends(self, terminals: Sequence[PlacedTerminal]) -> tuple[DrawnTerminal | None, DrawnTerminal | None]:
        drawn = [DrawnTerminal(each.terminal, each.point, each.side, self._lead(each), each.way) for each in terminals]
        left = next((each for each in drawn if each.side == "supply"), None)
        return left, next((each for each in drawn if each.side != "supply"), None)

    def _lead(self, terminal: PlacedTerminal) -> Stroke:
        point, device = self._placed[terminal.point], self._vehicle.devices[terminal.device]
        is_main = terminal.terminal in device.spec.TERMINALS
        amps = (self._solution.devices[device.id].current_a or 0.0) if is_main else 0.0
        edge = self._layout.middle[point.side != "supply"]
        return _stroke(f"M{point.x:g},{terminal.y:g}H{edge:g}", amps, point.side)


def _posts(layout: MapLayout) -> tuple[DrawnPost, ...]:
    """As high as the rows."""
    at = TOP - POST_ABOVE, POST, layout.height - TOP - POST_BELOW
    return DrawnPost("+", EDGE, *at), DrawnPost("−", layout.width - EDGE - POST, *at)


def _stroke(path: str, amps: float, side: MapSide) -> Stroke:
    return Stroke(path, line_px(amps), side if abs(amps) >= FLOWS_A else "idle")


def _most_at(vehicle: Vehicle, flow_a: Mapping[str, float]) -> dict[str, float]:
    """The largest current of a segment at each point, A: what its bar is drawn with."""
    most = dict.fromkeys(vehicle.points, 0.0)
    for segment in vehicle.segments.values():
        for point in (segment.from_point, segment.to_point):
            most[point] = max(most[point], abs(flow_a.get(segment.id, 0.0)))
    return most


def _line(placed: PlacedSegment, gap: float) -> str:
    """The way of a segment, open for its mark; what is in no tree goes round to its other end."""
    (x, y), (start, _), (end, end_y) = placed.mark, placed.start, placed.end
    sense = 1 if x > start else -1
    line = f"M{start:g},{y:g}" + (f"H{x - sense * gap:g}M{x + sense * gap:g},{y:g}" if gap else "")
    if placed.turn is None:
        return f"{line}H{end:g}"
    out = sense * COLUMN / 2
    return f"{line}H{placed.turn:g}C{placed.turn + out:g},{y:g} {end + out:g},{end_y:g} {end:g},{end_y:g}"
