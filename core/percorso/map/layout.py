"""The map of a vehicle at a stage: where each point, segment and terminal lies, from the connections alone."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from percorso.map.columns import last_column, return_columns, spans_of, supply_columns
from percorso.map.rows import MapRow, rows_of
from percorso.map.trees import Forest, Leaf, MapSide, Node, forest_of
from percorso.vehicle.model import Segment, Vehicle

COLUMN, ROW = 48, 31  # px at full size: a mark with its label needs no more
POST, DEVICE, EDGE = 14, 186, 24
TOP = 56
Place = tuple[float, float]


@dataclass(frozen=True)
class PlacedTerminal:
    """A terminal of a device in its row; ``is_main``: the device itself stands there.

    ``way`` are the segments from it to the post of its side, or to where its tree between devices begins.
    """

    device: str
    terminal: str
    point: str
    side: MapSide
    y: float
    is_main: bool
    way: tuple[str, ...]


@dataclass(frozen=True)
class PlacedPoint:
    """A point, and the bar that joins what branches off there."""

    point: str
    side: MapSide
    x: float
    y: float
    top: float
    bottom: float


@dataclass(frozen=True)
class PlacedSegment:
    """A segment from the point nearer to its post to the other, with ``mark`` in the middle of what shows its kind.

    It lies in the row of its mark. What is in no tree leaves its row at ``turn`` for its other end.
    """

    segment: str
    side: MapSide
    start: Place
    end: Place
    mark: Place
    turn: float | None = None

    @property
    def bend(self) -> tuple[Place, ...]:
        """The corners on its way."""
        row = self.mark[1]
        corners = [(self.start[0], row), (self.end[0] if self.turn is None else self.turn, row)]
        return tuple(each for each in corners if each not in (self.start, self.end))


@dataclass(frozen=True)
class MapLayout:
    """A map in px at full size; ``crossings`` of lines with bars by side: at the supply side there are none."""

    width: float
    height: float
    middle: tuple[float, float]  # the left and the right edge of the devices
    terminals: tuple[PlacedTerminal, ...]
    points: tuple[PlacedPoint, ...]
    segments: tuple[PlacedSegment, ...]
    crossings: Mapping[str, int]


def layout_of(vehicle: Vehicle) -> MapLayout:
    """The map of a vehicle at a stage, the same for the same connections."""
    forest = forest_of(vehicle)
    rows = rows_of(vehicle, forest)
    return _Drawing(forest, rows).layout()


class _Drawing:
    """Columns and rows as px."""

    def __init__(self, forest: Forest, rows: list[MapRow]) -> None:
        self._forest, self._rows = forest, rows
        self._spans = spans_of([forest.supply, *forest.right])
        left, right = supply_columns(forest.supply), return_columns(forest.ground, forest.between, self._spans)
        self._column = left | right
        self._left = EDGE + POST + COLUMN * (last_column(left, forest.nodes) + 1)
        self._right = self._left + DEVICE
        self._width = self._right + COLUMN * (last_column(right, forest.nodes) + 1) + POST + EDGE

    def layout(self) -> MapLayout:
        segments = tuple(self._segments())
        points = tuple(map(self._point, self._forest.nodes.values()))
        ends = [leaf for row in self._rows for leaf in row.ends if leaf.terminal]
        leads = [(self._x(each.node), self._edge(each.node), _y(each.row)) for each in ends]
        pieces = [(each.start[0], each.end[0], each.mark[1]) for each in segments if each.turn is None]
        lines = [(min(start, end), max(start, end), y) for start, end, y in leads + pieces]
        return MapLayout(
            self._width,
            TOP + ROW * len(self._rows) + EDGE,
            (self._left, self._right),
            tuple(self._terminals()),
            points,
            segments,
            {
                "supply": _crossings([each for each in points if each.side == "supply"], lines),
                "return": _crossings([each for each in points if each.side != "supply"], lines),
            },
        )

    def _edge(self, node: Node) -> float:
        """Where the column of devices begins, seen from a point."""
        return self._left if self._forest.side[node.point] == "supply" else self._right

    def _x(self, node: Node, beyond: int = 0) -> float:
        from_post = EDGE + POST + COLUMN * (self._column[node.point] + beyond)
        return from_post if self._forest.side[node.point] == "supply" else self._width - from_post

    def _point(self, node: Node) -> PlacedPoint:
        side, (top, bottom) = self._forest.side[node.point], self._spans[node.point].reach
        return PlacedPoint(node.point, side, self._x(node), self._y(node), _y(top), _y(bottom))

    def _y(self, node: Node) -> float:
        return _y(self._spans[node.point].row)

    def _terminals(self) -> Iterator[PlacedTerminal]:
        for number, row in enumerate(self._rows):
            for leaf in row.ends:
                if leaf.terminal:
                    yield self._terminal(*leaf.terminal, leaf.node, number, row.is_main)

    def _terminal(self, device: str, mark: str, node: Node, row: int, is_main: bool) -> PlacedTerminal:
        side, way = self._forest.side[node.point], tuple(_way(node))
        return PlacedTerminal(device, mark, node.point, side, _y(row), is_main, way)

    def _segments(self) -> Iterator[PlacedSegment]:
        outside: dict[str, list[Leaf]] = {}
        for row in self._rows:
            for leaf in row.ends:
                if leaf.outside:
                    outside.setdefault(leaf.outside.id, []).append(leaf)
        for node in self._forest.nodes.values():
            if node.via and node.parent:
                yield self._in_tree(node, node.via, node.parent)
        for leaves in outside.values():
            yield self._outside(*leaves)

    def _place(self, node: Node) -> Place:
        return self._x(node), self._y(node)

    def _in_tree(self, node: Node, segment: Segment, parent: Node) -> PlacedSegment:
        start, end = self._place(parent), self._place(node)
        mark = (_beside(start[0], end[0]), end[1])
        return PlacedSegment(segment.id, self._forest.side[node.point], start, end, mark)

    def _outside(self, leaf: Leaf, across: Leaf | None = None) -> PlacedSegment:
        """From its point along a row of its own, and there to its other end: straight across, or round to the point."""
        assert leaf.outside
        start, turn = self._place(leaf.node), self._x(leaf.node, 1)
        mark = (_beside(start[0], turn), _y(leaf.row))
        if across:
            return PlacedSegment(leaf.outside.id, "across", start, self._place(across.node), mark)
        other = self._forest.nodes[leaf.outside.other_end(leaf.node.point) or leaf.node.point]
        side = self._forest.side[leaf.node.point]
        return PlacedSegment(leaf.outside.id, side, start, self._place(other), mark, turn)


def _way(node: Node | None) -> Iterator[str]:
    while node and node.via:
        yield node.via.id
        node = node.parent


def _y(row: int) -> float:
    return TOP + ROW * row + ROW / 2


def _beside(start: float, end: float) -> float:
    """The middle of the first gap between columns towards the other end, where no bar of another column can be."""
    return start + (COLUMN if end > start else -COLUMN) / 2


def _crossings(points: Sequence[PlacedPoint], lines: Sequence[tuple[float, float, float]]) -> int:
    """How often level lines, from x to x at a y, go through the bars of points."""
    return sum(
        left < point.x < right and point.top <= y <= point.bottom for point in points for left, right, y in lines
    )
