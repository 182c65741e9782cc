"""Solves the network while nothing switches: modified nodal analysis, reduced to the few elements that are not ohmic.

The ohmic part of a network is solved once per set of conducting branches. Seen from its non-ohmic elements (devices,
diodes, batteries; a few dozen) it is an impedance matrix, and Newton's method runs on their voltages alone. Every such
element has a companion conductance in the ohmic part, so that no device hangs in the air, and every island of points
is held at one of them by a tie, through which no current can flow.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array
from percorso.network.branches import Assembly, Generator, Modes
from percorso.network.laws import COLD_FILAMENT_SHARE, LAWS, LawName, limited_junction_v, limited_knee_v

Regulation = Literal["still", "regulating", "at its limit", "cut off"]
Mask = NDArray[np.bool_]
MAX_STEPS = 100
DAMPED_FROM = 30  # Newton steps after which only half of each is taken
SETTLED_V = 1e-11  # element voltages are solved to this
SMALL_STEP_V = 0.01  # no element goes astray within it
TIE_S = 1.0
LEAST_LINK_A = 1e-6  # a junction that carries less does not hold a point
FEEDS_V = 0.5  # nor does one that has less to give: a silicon junction's own forward voltage, from memory


class NotSettledError(ArithmeticError):
    """Newton's method found no solution for one set of modes."""


@dataclass(frozen=True)
class Group:
    """Elements of one law: their places among all elements, and their parameters."""

    law: LawName
    places: slice
    parameters: tuple[Array, Array, Array]


@dataclass(frozen=True)
class Solved:
    """Potentials of all points against the reference (V), generators' currents (A), and every element's current (A)."""

    part: "OhmicPart"
    potential: Array
    generated_a: Array
    element_v: Array
    element_a: Array

    def branch_a(self) -> Array:
        """Current of every branch from its start to its end, A, shape (branches,)."""
        wiring = self.part.circuitry
        ohmic = self.part.conductance * (self.potential[wiring.start] - self.potential[wiring.end])
        ohmic[wiring.elements] = self.element_a
        return np.where(self.part.conducting, ohmic, 0.0)


class Circuitry:
    """An assembly as arrays; its elements, the branches with a law, are sorted by law."""

    def __init__(self, assembly: Assembly) -> None:
        self.assembly = assembly
        self.size = assembly.size
        branches, numbers = assembly.branches, assembly.numbers
        order = {name: rank for rank, name in enumerate(LAWS)}
        ranked = sorted((order[branch.law.name], index) for index, branch in enumerate(branches) if branch.law)
        self.elements = np.array([index for _, index in ranked], dtype=int)
        self.start = np.array([numbers[branch.start] for branch in branches], dtype=int)
        self.end = np.array([numbers[branch.end] for branch in branches], dtype=int)
        self.conductance = np.array(
            [branch.law.companion_s if branch.law else 1 / (branch.resistance_ohm or 1.0) for branch in branches]
        )
        self.blocks = np.array([branch.law is not None and branch.law.blocks for branch in branches], dtype=bool)
        self.junctions = [
            (index, *(ends if branch.law.passes == "along" else ends[::-1]))
            for index, branch in enumerate(branches)
            if branch.law is not None and branch.law.blocks and (ends := (numbers[branch.start], numbers[branch.end]))
        ]  # place, and the points that current enters and leaves by
        self.gated = [(index, branch.when) for index, branch in enumerate(branches) if branch.when]
        self.standing = ~self.blocks  # branches that always hold their two points together
        self.standing[[index for index, _ in self.gated]] = False
        links = zip(self.start[self.standing].tolist(), self.end[self.standing].tolist(), strict=True)
        self.together = joined(np.arange(self.size), links)
        self.groups = self._groups()
        self._parts: dict[tuple[bytes, tuple[tuple[Regulation, float], ...]], OhmicPart] = {}

    def _groups(self) -> list[Group]:
        laws = [law for index in self.elements if (law := self.assembly.branches[index].law)]
        groups = []
        for name in LAWS:
            places = [place for place, law in enumerate(laws) if law.name == name]
            if places:
                of_name = slice(places[0], places[-1] + 1)
                first, second, third = np.array([law.parameters for law in laws[of_name]]).T
                groups.append(Group(name, of_name, (first, second, third)))
        return groups

    def conducting(self, modes: Modes) -> Mask:
        """Which branches conduct, shape (branches,)."""
        mask = np.ones(len(self.assembly.branches), dtype=bool)
        for index, when in self.gated:
            mask[index] = when(modes)
        return mask

    def ohmic_part(self, modes: Modes, regulation: tuple[Regulation, ...], share: float = 1.0) -> "OhmicPart":
        """The ohmic part for these modes, solved once and kept. Raises NotSettledError when it contradicts itself.

        ``share``: of what the alternators can give at most.
        """
        mask = self.conducting(modes)
        limits = (share * generator.limit_a.get(modes.engine, 0.0) for generator in self.assembly.generators)
        regulated = tuple(zip(regulation, limits, strict=True))
        key = mask.tobytes(), regulated
        if key not in self._parts:
            self._parts[key] = OhmicPart(self, mask, regulated)
        return self._parts[key]

    def currents(self, voltage: Array) -> tuple[Array, Array]:
        """Current and slope of every element at the voltage across it, each of shape (…, elements)."""
        current, slope = np.empty_like(voltage), np.empty_like(voltage)
        for group in self.groups:
            here = ..., group.places
            current[here], slope[here] = LAWS[group.law](voltage[here], *group.parameters)
        return current, slope

    def limited(self, wanted: Array, before: Array) -> Array:
        """Element voltages for the next step: none may jump to where its slope says nothing."""
        for group in self.groups:
            here, (first, second, _) = group.places, group.parameters
            if group.law == "diode":
                wanted[here] = limited_junction_v(wanted[here], before[here], first, second)
            elif group.law in ("saturating", "filament"):
                knee = first if group.law == "saturating" else COLD_FILAMENT_SHARE * first
                wanted[here] = limited_knee_v(wanted[here], before[here], knee, falling=False)
            elif group.law == "constant power":
                wanted[here] = limited_knee_v(wanted[here], before[here], second, falling=True)
        return wanted


class OhmicPart:
    """The ohmic part of a network for one set of conducting branches, seen from its points and elements."""

    def __init__(self, circuitry: Circuitry, conducting: Mask, regulated: tuple[tuple[Regulation, float], ...]) -> None:
        self.circuitry, self.conducting, self.regulated = circuitry, conducting, regulated
        self.conductance = circuitry.conductance
        self.island = self._islands(conducting)
        self.active = np.flatnonzero(conducting[circuitry.elements])
        ports = circuitry.elements[self.active]
        self.start, self.end = circuitry.start[ports], circuitry.end[ports]
        self.companion = circuitry.conductance[ports]
        matrix, driven = self._matrix()
        unit = np.zeros((len(matrix), len(ports)))  # 1 A through each active element
        unit[self.start, np.arange(len(ports))] += 1
        unit[self.end, np.arange(len(ports))] -= 1
        try:
            seen = np.linalg.solve(matrix, np.column_stack([unit, driven]))
        except np.linalg.LinAlgError as error:
            raise NotSettledError from error
        self.reach, self.base = seen[:, :-1], seen[:, -1]  # (unknowns, active elements), (unknowns,)
        self.impedance = self.reach[self.start] - self.reach[self.end]

    @cached_property
    def inverse(self) -> Array:
        """The inverse of the whole matrix, shape (unknowns, unknowns)."""
        return np.asarray(np.linalg.inv(self._matrix()[0]), dtype=np.float64)

    def _islands(self, held: Mask) -> NDArray[np.int_]:
        """The island of each point where branches hold points together, and alternators that regulate their posts."""
        wiring = self.circuitry
        more = held & ~wiring.standing
        pairs = list(zip(wiring.start[more].tolist(), wiring.end[more].tolist(), strict=True))
        numbers = wiring.assembly.numbers
        for generator, (mode, _) in zip(wiring.assembly.generators, self.regulated, strict=True):
            if mode == "regulating":
                pairs.append((numbers[generator.plus], numbers[generator.minus]))
        return joined(wiring.together, pairs)

    def _matrix(self) -> tuple[Array, Array]:
        """Conductance matrix with the generators' rows and columns, and what drives it."""
        wiring, size = self.circuitry, self.circuitry.size
        generators = wiring.assembly.generators
        matrix = np.zeros((size + len(generators),) * 2)
        driven = np.zeros(len(matrix))
        active = np.flatnonzero(self.conducting)
        branches = wiring.start[active], wiring.end[active], wiring.conductance[active]
        matrix[:size, :size] = conductance_matrix(size, *branches)
        for held in self._held_points():
            matrix[held, held] += TIE_S
        for row, (generator, (mode, limit)) in enumerate(zip(generators, self.regulated, strict=True), start=size):
            plus, minus = wiring.assembly.numbers[generator.plus], wiring.assembly.numbers[generator.minus]
            matrix[plus, row], matrix[minus, row] = -1, 1  # what it gives enters at its post and leaves at its case
            if mode == "regulating":
                matrix[row, self.sensed(generator)], matrix[row, minus] = 1, -1
                driven[row] = generator.setpoint_v
            else:
                matrix[row, row] = 1
                driven[row] = limit if mode == "at its limit" else 0.0
        return matrix, driven

    def sensed(self, generator: Generator) -> int:
        """The point its regulator really sees: its own post where the sense lead leads nowhere."""
        plus, sense = (self.circuitry.assembly.numbers[point] for point in (generator.plus, generator.sense))
        return sense if self.island[sense] == self.island[plus] else plus

    def _held_points(self) -> list[int]:
        """One point of each island, the reference for its own."""
        reference = self.circuitry.assembly.reference_number
        first = {island: island for island in self.island.tolist()}
        return list((first | {int(self.island[reference]): reference}).values())

    def solve(self, guess: Array | None = None) -> Solved:
        """Newton's method on the voltages of the elements. Raises NotSettledError."""
        wiring = self.circuitry
        voltage = np.zeros(len(wiring.elements))
        bias = self.base[self.start] - self.base[self.end]
        start = bias if guess is None else guess[self.active]
        voltage[self.active] = start
        if guess is None:
            voltage = wiring.limited(voltage, np.zeros_like(voltage))
        identity = np.eye(len(self.active))
        for step in range(MAX_STEPS):
            current, slope = wiring.currents(voltage)
            here = voltage[self.active]
            excess = current[self.active] - self.companion * here
            error = here - bias + self.impedance @ excess
            if np.abs(error).max(initial=0.0) < SETTLED_V:
                return self._solved(excess)
            jacobian = identity + self.impedance * (slope[self.active] - self.companion)
            try:
                change = -np.linalg.solve(jacobian, error)
            except np.linalg.LinAlgError as failure:
                raise NotSettledError from failure
            wanted = voltage.copy()
            wanted[self.active] += change if step < DAMPED_FROM else change / 2
            voltage = wanted if np.abs(change).max() < SMALL_STEP_V else wiring.limited(wanted, voltage)
        raise NotSettledError

    def _solved(self, excess: Array) -> Solved:
        wiring, size = self.circuitry, self.circuitry.size
        unknowns = self.base - self.reach @ excess
        potential = unknowns[:size] - unknowns[wiring.assembly.reference_number]
        element_v = potential[wiring.start[wiring.elements]] - potential[wiring.end[wiring.elements]]
        return Solved(self, potential, unknowns[size:], element_v, wiring.currents(element_v)[0])

    def floating(self, solved: Solved) -> Mask:
        """Which points nothing holds: no conductor joins them to the reference, and no junction carries or feeds them.

        A junction feeds the point it leads to when what is held on its other side stands above the reference, or below
        it the other way round: a meter there reads a voltage, though nothing flows yet.
        """
        wiring, reference = self.circuitry, self.circuitry.assembly.reference_number
        held = self.conducting & (~wiring.blocks | (np.abs(solved.branch_a()) > LEAST_LINK_A))
        island = self._islands(held)
        waiting = [each for each in wiring.junctions if self.conducting[each[0]]]
        while True:
            home = island[reference]
            feeding = [
                (enters, leaves)
                for _, enters, leaves in waiting
                if (island[enters] == home and island[leaves] != home and solved.potential[enters] > FEEDS_V)
                or (island[leaves] == home and island[enters] != home and solved.potential[leaves] < -FEEDS_V)
            ]
            if not feeding:
                return np.asarray(island != home)
            island = joined(island, feeding)


def conductance_matrix(size: int, start: NDArray[np.int_], end: NDArray[np.int_], conductance: Array) -> Array:
    """Nodal conductance matrix of branches between numbered points, S, shape (size, size)."""
    matrix = np.zeros((size, size))
    for rows, columns, values in (
        (start, start, conductance),
        (end, end, conductance),
        (start, end, -conductance),
        (end, start, -conductance),
    ):
        np.add.at(matrix, (rows, columns), values)
    return matrix


def joined(island: NDArray[np.int_], links: Iterable[tuple[int, int]]) -> NDArray[np.int_]:
    """Islands after more pairs of points are linked, shape (points,); each is named after its first point."""
    island = island.copy()
    for one, other in links:
        low, high = sorted((island[one], island[other]))
        if low != high:
            island[island == high] = low
    return island
