"""Gives everything that a tree of the map ends in its row."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from percorso.map.trees import Forest, Leaf, Node, leaves_of
from percorso.vehicle.model import Vehicle


@dataclass(eq=False)
class MapRow:
    """One row: what a tree ends in at the left and at the right of it. ``is_main``: the device stands in it."""

    left: Leaf | None = None
    right: Leaf | None = None
    device: str | None = None
    is_main: bool = False

    @property
    def ends(self) -> list[Leaf]:
        """What is there of the two."""
        return [each for each in (self.left, self.right) if each is not None]


def rows_of(vehicle: Vehicle, forest: Forest) -> list[MapRow]:
    """Every row, from the top: supply in the order of its tree, so that it crosses nowhere, and each device's other
    terminals beneath it.
    """
    placed = _Placing(vehicle, forest)
    rows = list(placed.in_order())
    for leaf in placed.left_over():
        rows.insert(_near(rows, leaf), MapRow(right=leaf))
    for number, row in enumerate(rows):
        for end in row.ends:
            end.row = number
    return rows


class _Placing:
    """Which leaves have a row already, while rows are made one after the other."""

    def __init__(self, vehicle: Vehicle, forest: Forest) -> None:
        self._vehicle, self._forest = vehicle, forest
        self._at_left = leaves_of([forest.supply])
        self._at_right = leaves_of(forest.right)
        self._left, self._right = _by_device(vehicle, self._at_left), _by_device(vehicle, self._at_right)
        self._tree = {id(leaf): tree for tree in forest.right for leaf in tree.leaves()}
        self._host = self._hosts()
        self._placed = set[int]()
        self._done = set[str]()

    def in_order(self) -> Iterator[MapRow]:
        across = {each.outside.id: each for each in self._at_right if each.outside}
        for leaf in self._at_left:
            if leaf.terminal is None:
                other = across.get(leaf.outside.id) if leaf.outside else None
                self._placed |= {id(other)} if other else set()
                yield MapRow(leaf, other)
            elif leaf is self._left[leaf.terminal[0]][0]:
                yield from self._device(leaf.terminal[0], leaf)
            else:
                yield MapRow(leaf, device=leaf.terminal[0])
        for device in self._vehicle.devices:
            if device not in self._done and device in self._right:
                yield from self._device(device, None)

    def left_over(self) -> Iterator[Leaf]:
        """Loose ends and loops at the right."""
        return (each for each in self._at_right if id(each) not in self._placed)

    def _device(self, device: str, left: Leaf | None) -> Iterator[MapRow]:
        self._done.add(device)
        leaves = self._right.get(device, [])
        self._placed |= {id(leaf) for leaf in leaves[:1]}
        yield MapRow(left, leaves[0] if leaves else None, device, is_main=True)
        for leaf in leaves[1:]:
            if self._host.get(id(self._tree[id(leaf)]), device) == device:
                yield from self._terminal(leaf)
        for tree in self._forest.between:
            if self._host.get(id(tree)) == device:
                for leaf in tree.leaves():
                    yield from self._terminal(leaf)

    def _terminal(self, leaf: Leaf) -> Iterator[MapRow]:
        if leaf.terminal is None or id(leaf) in self._placed or self._is_beside_its_device(leaf):
            return
        device = leaf.terminal[0]
        if device not in self._left and device not in self._done:
            yield from self._device(device, None)
        else:
            self._placed.add(id(leaf))
            yield MapRow(right=leaf, device=device)

    def _is_beside_its_device(self, leaf: Leaf) -> bool:
        device = leaf.terminal[0] if leaf.terminal else ""
        return device in self._left and self._right[device][0] is leaf

    def _hosts(self) -> dict[int, str]:
        """Beneath which device the rows of a tree between devices stand: the first that feeds it over its own row."""
        found: dict[int, str] = {}
        for device in (each.terminal[0] for each in self._at_left if each.terminal):
            for leaf in self._right.get(device, ())[:1]:
                tree = self._tree[id(leaf)]
                if tree is not self._forest.ground:
                    found.setdefault(id(tree), device)
        return found


def _by_device(vehicle: Vehicle, leaves: Sequence[Leaf]) -> dict[str, list[Leaf]]:
    """The terminals among leaves, by device; of each the two between which its voltage is come first."""
    found: dict[str, list[Leaf]] = {}
    for leaf in leaves:
        if leaf.terminal:
            found.setdefault(leaf.terminal[0], []).append(leaf)
    for device, terminals in found.items():
        first = vehicle.devices[device].spec.TERMINALS
        terminals.sort(key=lambda leaf: leaf.terminal is not None and leaf.terminal[1] not in first)
    return found


def _near(rows: list[MapRow], leaf: Leaf) -> int:
    """The place beneath the last row that has to do with the point of a leaf, or else with the point before it."""
    node: Node | None = leaf.node
    numbers = {id(row.right): number for number, row in enumerate(rows) if row.right}
    while node is not None:
        beneath = [numbers[id(each)] for each in node.leaves() if id(each) in numbers]
        if beneath:
            return max(beneath) + 1
        node = node.parent
    return len(rows)
