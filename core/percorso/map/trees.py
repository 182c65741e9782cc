"""Sorts the points of a vehicle by the side they belong to, and grows the trees that rows and columns follow."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from percorso.network.branches import reference_point
from percorso.vehicle.devices import Alternator, Battery
from percorso.vehicle.model import Segment, Vehicle

MapSide = Literal["supply", "return", "between", "across"]
DeviceTerminal = tuple[str, str]  # a device's id and the terminal's mark
FAR = 10**9  # segments to a point that no metal leads to


@dataclass(eq=False)
class Leaf:
    """What a tree ends in, and so needs a row: a terminal, one end of a segment outside the trees, or a loose end."""

    node: "Node"
    terminal: DeviceTerminal | None = None
    outside: Segment | None = None
    row: int = -1


@dataclass(eq=False)
class Node:
    """A point in its tree, with the segment that leads there from its parent."""

    point: str
    via: Segment | None
    parent: "Node | None"
    depth: int
    branches: "list[Node | Leaf]" = field(default_factory=list)

    @property
    def children(self) -> "list[Node]":
        """The points that follow."""
        return [each for each in self.branches if isinstance(each, Node)]

    def nodes(self) -> "Iterator[Node]":
        """This point and all behind it, depth first, in order."""
        waiting = [self]
        while waiting:
            node = waiting.pop()
            yield node
            waiting += reversed(node.children)

    def leaves(self) -> Iterator[Leaf]:
        """Everything its branches end in, depth first, in order."""
        waiting: list[Node | Leaf] = [self]
        while waiting:
            each = waiting.pop()
            if isinstance(each, Leaf):
                yield each
            else:
                waiting += reversed(each.branches)


@dataclass(frozen=True)
class Forest:
    """The trees of a map. ``supply`` and ``ground`` are None where there is no such point.

    ``between`` are the points that no metal joins to either, as those between a charge lamp and its alternator.
    """

    supply: Node | None
    ground: Node | None
    between: tuple[Node, ...]
    nodes: Mapping[str, Node]  # by point
    side: Mapping[str, MapSide]  # of each point

    @property
    def right(self) -> tuple[Node, ...]:
        """The trees that are drawn at the right of the devices."""
        return (*((self.ground,) if self.ground else ()), *self.between)


def forest_of(vehicle: Vehicle) -> Forest:
    """The trees of the shortest ways, by segments, from the posts to every point that something ends on.

    A point belongs to the post it is nearer to by metal, of both as near to plus. What is added to a vehicle comes
    after what was there, so that nothing changes its order.
    """
    plus, minus = _posts(vehicle)
    from_plus, from_minus = _distances(vehicle, plus), _distances(vehicle, minus)
    points = [each for each in vehicle.points if each in vehicle.meeting or each in vehicle.wired]
    side: dict[str, MapSide] = {each: _side(from_plus.get(each, FAR), from_minus.get(each, FAR)) for each in points}
    nodes: dict[str, Node] = {}
    roots = [_grown(vehicle, post, side, nodes) if post in side else None for post in (plus, minus)]
    fed_first = sorted(
        (each for each in points if side[each] == "between"), key=lambda each: not _is_fed(vehicle, each, side)
    )
    between = tuple(_grown(vehicle, each, side, nodes) for each in fed_first if each not in nodes)
    _add_leaves(vehicle, nodes, side)
    return Forest(roots[0], roots[1], between, nodes, side)


def _side(to_plus: int, to_minus: int) -> MapSide:
    if to_plus == to_minus == FAR:
        return "between"
    return "supply" if to_plus <= to_minus else "return"


def _posts(vehicle: Vehicle) -> tuple[str | None, str | None]:
    """The points that everything is fed from and returns to; without any source, those of the first circuit."""
    sources = [
        (each.terminals[plus], each.terminals[minus])
        for kind, plus, minus in ((Battery, "+", "-"), (Alternator, "B+", "B-"))
        for each, _ in vehicle.devices_of(kind)
        if each.terminals  # one that is not wired yet feeds nothing
    ]
    if not sources:
        circuit = next(iter(vehicle.circuits.values()), None)
        start = circuit.source_point if circuit else next(iter(vehicle.points), None)
        return start, circuit.return_point if circuit else None
    minus, lower = reference_point(vehicle), {each for _, each in sources}
    joined = {plus: _distances(vehicle, plus) for plus, _ in sources}
    # Of batteries in series the highest: what is joined to no other's minus; of several, what is joined to most.
    plus = max(joined, key=lambda each: (each != minus, not lower & joined[each].keys(), len(joined[each])))
    return plus, minus


def _distances(vehicle: Vehicle, start: str | None) -> dict[str, int]:
    """How many segments lead from a point to each that metal joins to it."""
    if start is None:
        return {}
    found = {start: 0}
    for point in (waiting := [start]):
        for segment in vehicle.meeting.get(point, ()):
            other = segment.other_end(point)
            if other is not None and other not in found:
                found[other] = found[point] + 1
                waiting.append(other)
    return found


def _is_fed(vehicle: Vehicle, point: str, side: Mapping[str, MapSide]) -> bool:
    """Whether a device there has another terminal on the supply side."""
    return any(
        side[other] == "supply" for device in vehicle.wired.get(point, ()) for other in device.terminals.values()
    )


def _grown(vehicle: Vehicle, root: str, side: Mapping[str, MapSide], nodes: dict[str, Node]) -> Node:
    """The tree of the points of one side that hang together."""
    nodes[root] = Node(root, None, None, 0)
    for node in (waiting := [nodes[root]]):
        for segment in vehicle.meeting.get(node.point, ()):
            other = segment.other_end(node.point)
            if other is not None and other not in nodes and side[other] == side[root]:
                nodes[other] = Node(other, segment, node, node.depth + 1)
                node.branches.append(nodes[other])
                waiting.append(nodes[other])
    return nodes[root]


def _add_leaves(vehicle: Vehicle, nodes: Mapping[str, Node], side: Mapping[str, MapSide]) -> None:
    in_trees = {each.via.id for each in nodes.values() if each.via}
    outside = [each for each in vehicle.segments.values() if each.id not in in_trees]
    for segment in outside:
        ends = sorted((nodes[segment.from_point], nodes[segment.to_point]), key=lambda each: each.depth)
        is_across = side[segment.from_point] != side[segment.to_point]
        for node in ends if is_across else ends[:1]:
            node.branches.append(Leaf(node, outside=segment))
    for node in nodes.values():
        node.branches[:0] = [Leaf(node, terminal=each) for each in _terminals_at(vehicle, node.point)]
        if not node.branches:
            node.branches.append(Leaf(node))


def _terminals_at(vehicle: Vehicle, point: str) -> Iterator[DeviceTerminal]:
    for device in vehicle.wired.get(point, ()):
        for mark, place in device.terminals.items():
            if place == point:
                yield device.id, mark


def leaves_of(trees: Iterable[Node | None]) -> Sequence[Leaf]:
    """The leaves of trees, tree by tree."""
    return [leaf for tree in trees if tree is not None for leaf in tree.leaves()]
