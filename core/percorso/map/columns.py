"""Gives every point of the map its column, counted from the post of its side, and how far its bar reaches."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from percorso.map.trees import Leaf, Node
from percorso.vehicle.segments import Wire

Reach = tuple[int, int]  # the first and the last row that a point's bar touches


@dataclass(frozen=True, slots=True)
class Span:
    """The row of the segment to a point, and the rows between which it joins what branches off there."""

    row: int
    reach: Reach


def spans_of(trees: Iterable[Node | None]) -> dict[str, Span]:
    """Every point's; a point stands in the row of the middle one of its branches."""
    found: dict[str, Span] = {}
    for tree in trees:
        for node in reversed(list(tree.nodes()) if tree else []):
            rows = sorted(each.row if isinstance(each, Leaf) else found[each.point].row for each in node.branches)
            found[node.point] = Span(rows[(len(rows) - 1) // 2], (rows[0], rows[-1]))
    return found


def supply_columns(tree: Node | None) -> dict[str, int]:
    """By depth, what is behind the wire of a route that no longer branches close to its device."""
    nodes = list(tree.nodes()) if tree else []
    found = {each.point: each.depth for each in nodes}
    last = last_column(found, {each.point: each for each in nodes})
    for chain in _ends_of_routes(nodes):
        for beyond, node in enumerate(reversed(chain)):
            found[node.point] = last - beyond
    return found


def return_columns(ground: Node | None, between: Sequence[Node], spans: Mapping[str, Span]) -> dict[str, int]:
    """So that in no column two bars overlap: those that reach far near the post, and routes' ends near their device.

    The post itself is column 0, and of ``ground`` alone.
    """
    found: dict[str, int] = {}
    taken: dict[int, list[Reach]] = {}
    nodes = [node for tree in (ground, *between) if tree for node in tree.nodes()]
    reach = {each.point: spans[each.point].reach for each in nodes}
    for node in sorted(nodes, key=lambda each: (each.depth, reach[each.point][0] - reach[each.point][1])):
        column = found[node.parent.point] + 1 if node.parent else int(node is not ground)
        while not _is_free(taken, column, reach[node.point]):
            column += 1
        found[node.point] = column
        taken.setdefault(column, []).append(reach[node.point])
    last = last_column(found, {each.point: each for each in nodes})
    for chain in _ends_of_routes(nodes):
        for beyond, node in enumerate(reversed(chain)):
            column, own = last - beyond, reach[node.point]
            if found[node.point] < column and _is_free(taken, column, own):
                taken[found[node.point]].remove(own)
                taken.setdefault(column, []).append(own)
                found[node.point] = column
            else:
                break
    return found


def last_column(columns: Mapping[str, int], nodes: Mapping[str, Node]) -> int:
    """The column nearest the devices that anything stands in."""
    return max((column + _takes_one_more(nodes[point]) for point, column in columns.items()), default=0)


def _is_free(taken: dict[int, list[Reach]], column: int, reach: Reach) -> bool:
    return all(reach[1] < first or last < reach[0] for first, last in taken.get(column, ()))


def _takes_one_more(node: Node) -> bool:
    """Whether a segment outside the trees hangs there, which is drawn in the next column."""
    return any(isinstance(each, Leaf) and each.outside for each in node.branches)


def _ends_of_routes(nodes: Sequence[Node]) -> list[list[Node]]:
    """Of each route that branches no more: its points from the far end of its first wire on."""
    found = []
    for node in nodes:
        if node.parent is not None and len(node.parent.branches) > 1 and len(node.branches) == 1:
            chain = _chain(node)
            if len(chain[-1].branches) == 1 and not _takes_one_more(chain[-1]):
                wires = [place for place, each in enumerate(chain) if each.via and isinstance(each.via.spec, Wire)]
                found.append(chain[wires[0] :] if wires else [])
    return found


def _chain(node: Node) -> list[Node]:
    chain = [node]
    while len(chain[-1].branches) == 1 and chain[-1].children:
        chain.append(chain[-1].children[0])
    return chain
