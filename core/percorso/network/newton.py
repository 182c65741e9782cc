"""Solves the network while nothing switches: modified nodal analysis, reduced to the few elements that are not ohmic.

The ohmic part of a network is solved once per set of conducting branches. Seen from its non-ohmic elements (devices,
diodes, batteries; a few dozen) it is an impedance matrix, and Newton's method runs on their voltages alone. Every such
element has a companion conductance in the ohmic part, so that no device hangs in the air, and every island of points
is held at one of them by a tie, through which no current can flow.
"""

from copy import copy
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Mask, Numbers
from percorso.kept import cached_property, kept
from percorso.network.branches import Assembly, Generator, Modes
from percorso.network.elimination import add_conductances, join, solve_network
from percorso.network.gates import Gates
from percorso.network.kernel import current_and_slope, limited_v, newton

Regulation = Literal["still", "regulating", "at its limit", "cut off", "running away"]
HOLDS: tuple[Regulation, ...] = ("regulating", "running away")  # a voltage: that it is set to, or all its rotor induces
SETTLED_V = 1e-11  # element voltages are solved to this
TIE_S = 1.0
FEW_COLUMNS = 12  # that are solved for alone; with more the inverse costs less
NOTHING = 1e-9  # A or V: a contact with no more than that may open or close, and nothing changes
MOST_PARTS = 64  # ohmic parts that are kept: each is as big as points times elements


class Regulated(NamedTuple):
    """What an alternator is taken to do, the most it can give (A), and what its rotor induces (V)."""

    mode: Regulation
    limit_a: float
    most_v: float


class NotSettledError(ArithmeticError):
    """Newton's method found no solution for one set of modes."""


@dataclass(frozen=True)
class Solved:
    """Potentials of all points against the reference (V), generators' currents (A), and every element's current (A)."""

    part: "OhmicPart"
    potential: Array
    generated_a: Array
    element_v: Array
    element_a: Array

    @cached_property
    def branch_a(self) -> Array:
        """Current of every branch from its start to its end, A, shape (branches,)."""
        wiring = self.part.circuitry
        ohmic = self.part.conductance * (self.potential[wiring.start] - self.potential[wiring.end])
        ohmic[wiring.elements] = self.element_a
        return np.where(self.part.conducting, ohmic, 0.0)

    def alone(self) -> "Solved":
        """The same without what was computed on the way to it, which is much more."""
        return self._with_contacts(self.part.conducting)

    def _with_contacts(self, conducting: Mask) -> "Solved":
        part = OhmicPart(self.part.circuitry, conducting, self.part.regulated)
        return Solved(part, self.potential, self.generated_a, self.element_v, self.element_a)

    def with_contacts(self, conducting: Mask) -> "Solved | None":
        """The same with other branches conducting, where none of those carries anything or has anything across it.

        None where one does: then it must be solved.
        """
        wiring, changed = self.part.circuitry, self.part.conducting != conducting
        across = self.potential[wiring.start[changed]] - self.potential[wiring.end[changed]]
        if np.abs(across).max(initial=0.0) > NOTHING or np.abs(self.branch_a[changed]).max(initial=0.0) > NOTHING:
            return None
        return self._with_contacts(conducting)


class Circuitry:
    """An assembly as arrays; its elements are the branches with a law."""

    def __init__(self, assembly: Assembly) -> None:
        self.assembly = assembly
        self.size = assembly.size
        branches, numbers = assembly.branches, assembly.numbers
        laws = [(index, branch.law) for index, branch in enumerate(branches) if branch.law]
        self.elements = np.array([index for index, _ in laws], dtype=np.int64)
        self.has_law = np.array([branch.law is not None for branch in branches], dtype=bool)
        self.law = np.array([law.number for _, law in laws], dtype=np.int64)
        self.parameters = np.array([law.parameters for _, law in laws]).reshape(-1, 3)
        self.start = np.array([numbers[branch.start] for branch in branches], dtype=np.int64)
        self.end = np.array([numbers[branch.end] for branch in branches], dtype=np.int64)
        self.conductance = np.array(
            [branch.law.companion_s if branch.law else 1 / (branch.resistance_ohm or 1.0) for branch in branches]
        )
        self.blocks = np.array([branch.law is not None and branch.law.blocks for branch in branches], dtype=bool)
        self.junctions = [
            (index, *(ends if law.passes == "along" else ends[::-1]))
            for index, law in laws
            if law.blocks and (ends := (numbers[branches[index].start], numbers[branches[index].end]))
        ]  # place, and the points that current enters and leaves by
        self.leaks = np.array([branch.part == "leak" for branch in branches], dtype=bool)
        self.gates = Gates([(index, branch.when) for index, branch in enumerate(branches) if branch.when])
        self.standing = ~self.blocks  # branches that always hold their two points together
        self.standing[self.gates.branches] = False
        self.together = joined(np.arange(self.size), self.start[self.standing], self.end[self.standing])
        posts = [(numbers[each.plus], numbers[each.minus], numbers[each.sense]) for each in assembly.generators]
        self.posts = np.array(posts, dtype=np.int64).reshape(-1, 3)
        self._ports: dict[bytes, Ports] = {}
        self._parts: dict[tuple[int, tuple[Regulated, ...]], OhmicPart] = {}

    def with_resistance(self, branches: Numbers, added_ohm: Array) -> "Circuitry":
        """The same where some plain branches have so much more resistance, Ω."""
        other = copy(self)
        other.conductance, other._parts = self.conductance.copy(), {}
        other.conductance[branches] = 1 / (1 / self.conductance[branches] + added_ohm)
        return other

    def conducting(self, closed: int) -> Mask:
        """Which branches conduct with these gates closed, shape (branches,)."""
        mask = np.ones(len(self.assembly.branches), dtype=bool)
        mask[self.gates.open_branches(closed)] = False
        return mask

    @cached_property
    def last(self) -> NDArray[np.uint8]:
        """The unknowns that are eliminated last: what alternators give, and the points they stand at."""
        last = np.zeros(self.size + len(self.posts), dtype=np.uint8)
        last[self.size :] = True
        last[self.posts] = True
        return last

    def ports(self, conducting: Mask) -> "Ports":
        """The elements that conduct, kept: few of them are ever switched as a whole."""
        which = conducting[self.elements]
        return kept(self._ports, which.tobytes(), lambda: self._ports_of(np.flatnonzero(which)), MOST_PARTS)

    def _ports_of(self, active: Numbers) -> "Ports":
        branches, every = self.elements[active], np.arange(len(active))
        start, end = self.start[branches], self.end[branches]
        injected = np.zeros((self.size + len(self.posts), len(active) + 1))
        injected[start, every] += 1
        injected[end, every] -= 1
        companion, law, parameters = self.conductance[branches], self.law[active], self.parameters[active]
        return Ports(active, start, end, companion, law, parameters, injected)

    def ohmic_part(self, modes: Modes, regulation: tuple[Regulation, ...]) -> "OhmicPart":
        """The ohmic part for these modes, kept."""
        closed = self.gates.closed(modes)
        regulated = tuple(map(Regulated, regulation, self.limits_a(modes), self.most_v(modes)))
        key = closed, regulated
        return kept(self._parts, key, lambda: OhmicPart(self, self.conducting(closed), regulated), MOST_PARTS)

    def limits_a(self, modes: Modes) -> tuple[float, ...]:
        """What each alternator can give, A."""
        return tuple(generator.limit_a.get(modes.engine, 0.0) for generator in self.assembly.generators)

    def most_v(self, modes: Modes) -> tuple[float, ...]:
        """What the rotor of each alternator induces, V."""
        return tuple(generator.most_v.get(modes.engine, 0.0) for generator in self.assembly.generators)

    def currents(self, voltage: Array) -> tuple[Array, Array]:
        """Current and slope of every element at the voltage across it, each of shape (…, elements)."""
        return current_and_slope(self.law, voltage, *self.parameters.T)


@dataclass(frozen=True)
class Ports:
    """The elements that conduct, by their places: between which points, with which companion (S) and law.

    ``injected`` is 1 A through each of them, a column each, and a column for what drives the whole.
    """

    active: Numbers
    start: Numbers
    end: Numbers
    companion: Array
    law: Numbers
    parameters: Array
    injected: Array


class OhmicPart:
    """The ohmic part of a network for one set of conducting branches, seen from its points and elements.

    It is solved when first asked for.
    """

    def __init__(self, circuitry: Circuitry, conducting: Mask, regulated: tuple[Regulated, ...]) -> None:
        self.circuitry, self.conducting, self.regulated = circuitry, conducting, regulated

    @property
    def conductance(self) -> Array:
        """Of every branch, S."""
        return self.circuitry.conductance

    @cached_property
    def island(self) -> Numbers:
        """The island of each point, shape (points,)."""
        return self.islands(self.conducting)

    @cached_property
    def ports(self) -> "Ports":
        """The elements that conduct."""
        return self.circuitry.ports(self.conducting)

    @cached_property
    def _seen(self) -> Array:
        """Unknowns for 1 A through each active element, and for what drives the whole. Raises NotSettledError."""
        matrix, driven = self.equations()
        seen = self.ports.injected.copy()
        seen[:, -1] = driven
        if not solve_network(matrix, seen, self.circuitry.last):
            raise NotSettledError
        return seen

    @property
    def reach(self) -> Array:
        """What 1 A through each active element does to the unknowns, shape (unknowns, active elements)."""
        return self._seen[:, :-1]

    @property
    def base(self) -> Array:
        """The unknowns while no element draws more than its companion, shape (unknowns,)."""
        return self._seen[:, -1]

    @cached_property
    def impedance(self) -> Array:
        """What the elements see of one another, Ω, shape (active elements, active elements)."""
        return np.asarray(self.reach[self.ports.start] - self.reach[self.ports.end])

    @cached_property
    def inverse(self) -> Array:
        """The inverse of the whole matrix, shape (unknowns, unknowns). Raises NotSettledError."""
        return self._solved_for(np.eye(self.circuitry.size + len(self.regulated)))

    def columns(self, start: Numbers, end: Numbers) -> Array:
        """Unknowns for 1 A through each of some pairs of points, shape (pairs, unknowns). Raises NotSettledError."""
        count = len(start)
        if "inverse" in self.__dict__ or count > FEW_COLUMNS:
            across = self.inverse.T
            return np.ascontiguousarray(across[start] - across[end])
        injected, every = np.zeros((self.circuitry.size + len(self.regulated), count)), np.arange(count)
        np.add.at(injected, (start, every), 1.0)
        np.add.at(injected, (end, every), -1.0)
        return np.ascontiguousarray(self._solved_for(injected).T)

    def _solved_for(self, right: Array) -> Array:
        """The unknowns for what is injected, a column each, in place. Raises NotSettledError."""
        if not solve_network(self.equations()[0], right, self.circuitry.last):
            raise NotSettledError
        return right

    def islands(self, held: Mask) -> Numbers:
        """The island of each point where branches hold points together, and alternators that regulate their posts."""
        wiring = self.circuitry
        more = held & ~wiring.standing
        return self._with_posts(joined(wiring.together, wiring.start[more], wiring.end[more]))

    def _with_posts(self, island: Numbers) -> Numbers:
        regulating = [each.mode in HOLDS for each in self.regulated]
        if not any(regulating):
            return island
        plus, minus, _ = self.circuitry.posts[regulating].T
        return joined(island, plus, minus)

    def equations(self) -> tuple[Array, Array]:
        """Conductance matrix with the generators' rows and columns, and what drives it."""
        wiring, size = self.circuitry, self.circuitry.size
        closed = np.flatnonzero(self.conducting)
        unknowns = size + len(self.regulated)
        matrix = conductance_matrix(unknowns, wiring.start[closed], wiring.end[closed], wiring.conductance[closed])
        driven = np.zeros(unknowns)
        held = self._held_points()
        matrix[held, held] += TIE_S
        for row, (generator, (mode, limit, most_v)) in enumerate(
            zip(wiring.assembly.generators, self.regulated, strict=True), start=size
        ):
            plus, minus, _ = wiring.posts[row - size]
            matrix[plus, row], matrix[minus, row] = -1, 1  # what it gives enters at its post and leaves at its case
            sensed = self.sensed(generator) if mode == "regulating" else None
            if mode in HOLDS:
                matrix[row, plus if sensed is None else sensed], matrix[row, minus] = 1, -1
                driven[row] = most_v if sensed is None else generator.setpoint_v
            else:
                matrix[row, row] = 1
                driven[row] = limit if mode == "at its limit" else 0.0
        return matrix, driven

    def sensed(self, generator: Generator) -> int | None:
        """The point its regulator really sees; where the sense lead leads nowhere its own post, or None."""
        plus, sense = (self.circuitry.assembly.numbers[point] for point in (generator.plus, generator.sense))
        if plus == sense or self.wired[sense] == self.wired[plus]:
            return sense
        return plus if generator.senses_own_post else None

    @cached_property
    def wired(self) -> Numbers:
        """The island of each point where what leaks joins nothing, shape (points,)."""
        return self.wired_without(np.zeros(len(self.conducting), dtype=bool))

    def wired_without(self, branches: Mask) -> Numbers:
        """The same with breaks in some branches."""
        wiring = self.circuitry
        real = self.conducting & ~wiring.leaks & ~branches
        return self._with_posts(joined(np.arange(wiring.size), wiring.start[real], wiring.end[real]))

    def _held_points(self) -> Numbers:
        """One point of each island, the reference for its own."""
        reference = self.circuitry.assembly.reference_number
        first = np.flatnonzero(self.island == np.arange(len(self.island)))
        first[first == self.island[reference]] = reference
        return first

    def solve(self, guess: Array | None = None) -> Solved:
        """Newton's method on the voltages of the elements. Raises NotSettledError."""
        ports = self.ports
        bias = self.base[ports.start] - self.base[ports.end]
        nothing = limited_v(ports.law, bias, 0.0, ports.parameters[:, 0], ports.parameters[:, 1])
        voltage = nothing if guess is None else guess[ports.active]
        if not newton(ports.law, ports.parameters, self.impedance, bias, ports.companion, voltage, SETTLED_V):
            raise NotSettledError
        current, _ = current_and_slope(ports.law, voltage, *ports.parameters.T)
        return self._solved(current - ports.companion * voltage)

    def _solved(self, excess: Array) -> Solved:
        wiring, size = self.circuitry, self.circuitry.size
        unknowns = self.base - self.reach @ excess
        potential = unknowns[:size] - unknowns[wiring.assembly.reference_number]
        element_v = potential[wiring.start[wiring.elements]] - potential[wiring.end[wiring.elements]]
        return Solved(self, potential, unknowns[size:], element_v, wiring.currents(element_v)[0])


def conductance_matrix(size: int, start: Numbers, end: Numbers, conductance: Array) -> Array:
    """Nodal conductance matrix of branches between numbered points, S, shape (size, size)."""
    matrix = np.zeros((size, size))
    add_conductances(matrix, start, end, conductance)
    return matrix


def joined(island: Numbers, start: Numbers, end: Numbers) -> Numbers:
    """Islands after more pairs of points are linked, shape (points,); each is named after its first point."""
    island = island.copy()
    join(island, start, end)
    return island
