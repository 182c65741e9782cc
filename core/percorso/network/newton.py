"""Solves the network while nothing switches: modified nodal analysis, with Newton's method on what is not ohmic.

Each step takes every non-ohmic element (devices, diodes, batteries; a few dozen) for the tangent of its law and
eliminates the wiring point by point. Every island of points is held at one of them by a tie, through which no current
can flow. For many changes of one network at once (``variation``) its ohmic part is seen from the elements, as an
impedance matrix, in which each of them has a companion conductance, so that no device hangs in the air.
"""

from copy import copy
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np

from percorso.arrays import Array, Mask, Numbers
from percorso.kept import BoundedCache, cached_property
from percorso.network.branches import Assembly, Generator
from percorso.network.elimination import solve_network
from percorso.network.gates import Gates
from percorso.network.kernel import current_and_slope, newton
from percorso.network.modes import Modes
from percorso.network.nodal import NOTHING, joined, star_mesh

Regulation = Literal["still", "regulating", "at its limit", "cut off", "running away"]
HOLDS: tuple[Regulation, ...] = ("regulating", "running away")  # a voltage: that it is set to, or all its rotor induces
SETTLED_V = 1e-11  # element voltages are solved to this
TIE_S = 1.0
FEW_COLUMNS = 12  # that are solved for alone; with more the inverse costs less
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

        None where one does, or a regulator sees another point by it: then it must be solved.
        """
        wiring, changed = self.part.circuitry, self.part.conducting != conducting
        across = self.potential[wiring.start[changed]] - self.potential[wiring.end[changed]]
        if np.abs(across).max(initial=0.0) > NOTHING or np.abs(self.branch_a[changed]).max(initial=0.0) > NOTHING:
            return None
        other, generators = self._with_contacts(conducting), wiring.assembly.generators
        return other if all(other.part.sensed(each) == self.part.sensed(each) for each in generators) else None

    def without(self, branches: Numbers) -> "Solved | None":
        """The same with some branches open, where nothing passes them."""
        conducting = self.part.conducting.copy()
        conducting[branches] = False
        return self.with_contacts(conducting)


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
        self.in_block = np.unique(self.posts)  # points at which the equations are not those of branches alone
        self.mesh = star_mesh(self.size, self.start, self.end, self.posts)
        self._ports = BoundedCache[bytes, Ports](MOST_PARTS)
        self._parts = BoundedCache[tuple[int, tuple[Regulated, ...]], OhmicPart](MOST_PARTS)

    def with_resistance(self, branches: Numbers, added_ohm: Array) -> "Circuitry":
        """The same where some plain branches have so much more resistance, Ω."""
        other = copy(self)
        other.conductance, other._parts = self.conductance.copy(), BoundedCache(MOST_PARTS)
        other.conductance[branches] = 1 / (1 / self.conductance[branches] + added_ohm)
        return other

    def conducting(self, closed: int) -> Mask:
        """Which branches conduct with these gates closed, shape (branches,)."""
        mask = np.ones(len(self.assembly.branches), dtype=bool)
        mask[self.gates.open_branches(closed)] = False
        return mask

    def ports(self, conducting: Mask) -> "Ports":
        """The elements that conduct, kept: few of them are ever switched as a whole."""
        which = conducting[self.elements]
        return self._ports.get_or(which.tobytes(), lambda: self._ports_of(np.flatnonzero(which)))

    def _ports_of(self, active: Numbers) -> "Ports":
        branches = self.elements[active]
        companion, law, parameters = self.conductance[branches], self.law[active], self.parameters[active]
        return Ports(
            active, self.start[branches], self.end[branches], self.mesh.slot[branches], companion, law, parameters
        )

    def ohmic_part(self, modes: Modes, regulation: tuple[Regulation, ...]) -> "OhmicPart":
        """The ohmic part for these modes, kept."""
        closed = self.gates.closed(modes)
        regulated = tuple(map(Regulated, regulation, self.limits_a(modes), self.most_v(modes)))
        key = closed, regulated
        return self._parts.get_or(key, lambda: OhmicPart(self, self.conducting(closed), regulated))

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
    """The elements that conduct, by their places: between which points, in which slot, with which companion (S)."""

    active: Numbers
    start: Numbers
    end: Numbers
    slot: Numbers
    companion: Array
    law: Numbers
    parameters: Array


@dataclass(frozen=True)
class Equations:
    """What ``StarMesh`` solves for: conductances by slot (S), ties, what generators add, and what they inject."""

    conductance: Array
    ground: Array
    block: Array
    driven: Array


class OhmicPart:
    """The ohmic part of a network for one set of conducting branches, seen from its points and elements."""

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
        ports = self.ports
        injected = np.zeros((len(self.equations.driven), len(ports.active) + 1))
        injected[:, :-1] = self._through(ports.start, ports.end)
        injected[:, -1] = self.equations.driven
        return self._solved_for(injected)

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
        return np.ascontiguousarray(self._solved_for(self._through(start, end)).T)

    def _through(self, start: Numbers, end: Numbers) -> Array:
        """1 A through each of some pairs of points, shape (unknowns, pairs)."""
        injected, every = np.zeros((len(self.equations.driven), len(start))), np.arange(len(start))
        injected[start, every] += 1
        injected[end, every] -= 1
        return injected

    def _solved_for(self, right: Array) -> Array:
        """The unknowns for what is injected beside what elements take by their companions, a column each, in place.

        Raises NotSettledError.
        """
        return self._solved(right, self.ports.companion, self.equations.block)

    def adjoint(self, measured: Array, slope_s: Array) -> Array:
        """The transposed equations solved for weights of the unknowns, a column each, in place.

        ``slope_s`` is of the active elements. Raises NotSettledError.
        """
        return self._solved(measured, slope_s, self.equations.block.T.copy())

    def _solved(self, right: Array, element_s: Array, block: Array) -> Array:
        equations, mesh = self.equations, self.circuitry.mesh
        conductance = equations.conductance + mesh.summed(self.ports.slot, element_s)
        if not solve_network(mesh, conductance, equations.ground.copy(), block, right):
            raise NotSettledError
        return right

    def islands(self, held: Mask) -> Numbers:
        """The island of each point where branches hold points together, and alternators that regulate their posts."""
        wiring = self.circuitry
        is_whole = self.conducting[wiring.standing].all()  # nothing that always conducts was taken out
        known, more = (wiring.together, held & ~wiring.standing) if is_whole else (np.arange(wiring.size), held)
        return self._with_posts(joined(known, wiring.start[more], wiring.end[more]))

    def _with_posts(self, island: Numbers) -> Numbers:
        regulating = [each.mode in HOLDS for each in self.regulated]
        if not any(regulating):
            return island
        plus, minus, _ = self.circuitry.posts[regulating].T
        return joined(island, plus, minus)

    @cached_property
    def equations(self) -> Equations:
        """The equations of all that is no element."""
        wiring, generators, posts = self.circuitry, self.circuitry.assembly.generators, self.circuitry.in_block
        plain = self.conducting & ~wiring.has_law
        conductance = wiring.mesh.summed(wiring.mesh.slot[plain], wiring.conductance[plain])
        ground, driven = np.zeros(wiring.size), np.zeros(wiring.size + len(generators))
        ground[self._held_points()] = TIE_S
        block = np.zeros((len(posts) + len(generators),) * 2)
        for place, (generator, (mode, limit, most_v)) in enumerate(zip(generators, self.regulated, strict=True)):
            row, (plus, minus) = len(posts) + place, np.searchsorted(posts, wiring.posts[place, :2])
            block[plus, row], block[minus, row] = -1, 1  # what it gives enters at its post and leaves at its case
            sensed = self.sensed(generator) if mode == "regulating" else None
            if mode in HOLDS:
                block[row, plus if sensed is None else np.searchsorted(posts, sensed)], block[row, minus] = 1, -1
                driven[wiring.size + place] = most_v if sensed is None else generator.setpoint_v
            else:
                block[row, row] = 1
                driven[wiring.size + place] = limit if mode == "at its limit" else 0.0
        return Equations(conductance, ground, block, driven)

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
        ports, equations, wiring = self.ports, self.equations, self.circuitry
        voltage = np.zeros(len(ports.active)) if guess is None else guess[ports.active]
        known = equations.conductance, equations.ground, equations.block, equations.driven
        laws = ports.law, ports.parameters, ports.companion
        ends = ports.start, ports.end, ports.slot
        unknowns = newton(wiring.mesh, *known, *laws, *ends, voltage, guess is not None, SETTLED_V)
        if unknowns is None:
            raise NotSettledError
        potential = unknowns[: wiring.size] - unknowns[wiring.assembly.reference_number]
        element_v = potential[wiring.start[wiring.elements]] - potential[wiring.end[wiring.elements]]
        return Solved(self, potential, unknowns[wiring.size :], element_v, wiring.currents(element_v)[0])
