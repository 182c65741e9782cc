"""Faults that end alike in one situation: what each altered, and what is read and flows with each."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from percorso.arrays import Array, Mask, Numbers
from percorso.kept import cached_property
from percorso.network.branches import Branch
from percorso.network.following import InPhase, VariantGroup
from percorso.network.kernel import current_and_slope
from percorso.network.laws import LawOf
from percorso.network.newton import NotSettledError
from percorso.network.nodal import joined
from percorso.network.operating_point import Network
from percorso.network.variation import BranchOverride, Laws, Loading, vary
from percorso.vehicle.devices import DeviceKind
from percorso.vehicle.segments import Breaker, Fuse
from percorso.verification.bench.virtual_bench import BLOWS_TIMES

FAINT_OHM, FAINT_V = 2e5, 0.001  # behind more than the highest resistance of a fault, and still a voltage


@dataclass(frozen=True)
class FaultEffect:
    """A fault as something otherwise: between two points, or of a branch, by its conductance or its law.

    A coil pulls in from ``pull_in_v`` on. ``spec`` is what the device is then, where that tells how it looks;
    ``never_blows`` is a fuse that nothing blows. See Alteration.
    """

    start: str
    end: str
    altered_s: float = 0.0
    owner: str | None = None
    part: str = ""
    held: bool = False
    law: LawOf | None = None
    pull_in_v: float | None = None
    spec: DeviceKind | None = None
    never_blows: str | None = None
    is_broken: bool = False  # nothing goes through it, whatever is across it


@dataclass(frozen=True)
class Settled:
    """Faults that end alike: their places among all, the network they share, and their group in it."""

    places: Numbers
    network: Network
    group: VariantGroup
    altered: BranchOverride
    changes: tuple[FaultEffect, ...]
    potential: Array  # V, shape (faults here, points)
    generated_a: Array  # shape (faults here, alternators)
    blown: frozenset[str]

    def only(self, rows: Numbers) -> "Settled":
        """Some of its faults."""
        return replace(
            self,
            places=self.places[rows],
            altered=self.altered[rows],
            changes=tuple(self.changes[row] for row in rows.tolist()),
            potential=self.potential[rows],
            generated_a=self.generated_a[rows],
        )

    @cached_property
    def rows_of(self) -> dict[str, list[int]]:
        """The faults here that are of each part, by their rows."""
        found: dict[str, list[int]] = {}
        for row, change in enumerate(self.changes):
            if change.owner is not None:
                found.setdefault(change.owner, []).append(row)
        return found

    def current_a(self, owner: str) -> Array:
        """Current of a segment or a load from its first point to its second, A, shape (faults here,)."""
        return self.currents_a([owner])[:, 0]

    def currents_a(self, owners: Sequence[str]) -> Array:
        """The same of some, A, shape (faults here, owners)."""
        branches = np.array([self.network.branch_of(each) for each in owners])
        part = self.group.solved.part
        wiring = part.circuitry
        across = self.potential[:, wiring.start[branches]] - self.potential[:, wiring.end[branches]]
        own = self.altered.branch[:, None] == branches
        current = across * np.where(own, self.altered.altered_s[:, None], part.conductance[branches])
        for column in np.flatnonzero(wiring.has_law[branches]).tolist():
            current[:, column] = self._by_law(int(branches[column]), across[:, column])
        conducts = part.conducting[branches] | (own & self.altered.held[:, None])
        return np.where(conducts, current, 0.0)

    def _by_law(self, branch: int, across: Array) -> Array:
        """Current of an element at the voltage across it, A, shape (faults here,)."""
        wiring, laws = self.group.solved.part.circuitry, self.altered.laws
        at, other = int(np.searchsorted(wiring.elements, branch)), laws.branch == branch
        number = np.where(other, laws.number, wiring.law[at])
        parameters = np.where(other[:, None], laws.parameters, wiring.parameters[at])
        return np.asarray(current_and_slope(number, across, *parameters.T)[0])

    def across(self, first: str, second: str) -> Array:
        """Voltage between two points, V, shape (faults here,)."""
        numbers = self.network.assembly.numbers
        return np.asarray(self.potential[:, numbers[first]] - self.potential[:, numbers[second]])

    def metered(self, pairs: Sequence[tuple[str, str]], load_ohm: float, rows: Numbers) -> tuple[Array, Mask]:
        """Voltages between pairs of points as a meter of some resistance reads them with some of the faults here, V,
        shape (rows, pairs), and which are faint: they stand only behind what a junction leaks, and a meter changes
        them more than this tells.
        """
        numbers = self.network.assembly.numbers
        first, second = np.array([[numbers[each] for each in pair] for pair in pairs]).T
        free = self.potential[np.ix_(rows, first)] - self.potential[np.ix_(rows, second)]
        seen_ohm = np.maximum(self._loading.ohm(first, second, rows), 0.0)
        seen_ohm[self._apart(first, second, rows)] = np.inf
        faint = np.isfinite(seen_ohm) & (seen_ohm > FAINT_OHM) & (np.abs(free) > FAINT_V)
        return free * load_ohm / (load_ohm + seen_ohm), faint

    def loaded(self, pair: tuple[str, str], load_ohm: float) -> Array:
        """The voltage between two points with a meter of some resistance in the circuit, V, shape (faults here,); NaN
        where nothing settles. A meter draws too little to switch anything.
        """
        meter = Branch("", "instrument", *pair, resistance_ohm=load_ohm)
        before = self.group.solved
        network = self.network.with_instrument(meter)
        regulation = tuple(each.mode for each in before.part.regulated)
        try:
            solved = network.regulators.circuitry.ohmic_part(self.group.modes, regulation).solve(before.element_v)
        except NotSettledError:
            return np.full(len(self.places), np.nan)
        variants = vary(solved, self.altered.change_of(solved.part))
        first, second = (network.assembly.numbers[each] for each in pair)
        return np.where(variants.settled, variants.potential[:, first] - variants.potential[:, second], np.nan)

    def _apart(self, first: Numbers, second: Numbers, rows: Numbers) -> Mask:
        """Where nothing but what leaks joins two points, shape (rows, pairs): a meter between them reads nothing."""
        altered, conducting = self.altered[rows], self.group.solved.part.conducting
        joins = (altered.altered_s > 0) & ((altered.branch < 0) | (altered.held & ~conducting[altered.branch]))
        here, there = self._island[altered.start][:, None], self._island[altered.end][:, None]
        ends = [
            np.where(joins[:, None] & (self._island[each] == there), here, self._island[each])
            for each in (first, second)
        ]
        return np.asarray(ends[0] != ends[1])

    @cached_property
    def _island(self) -> Numbers:
        """The island of each point, without what leaks."""
        part = self.group.solved.part
        plus, minus, _ = part.circuitry.posts.T
        return joined(part.wired, plus, minus)

    @cached_property
    def _loading(self) -> Loading:
        solved = self.group.solved
        return Loading(solved, self.altered.change_of(solved.part), self.potential)


def settled_of(
    network: Network,
    phase: InPhase,
    places: Numbers,
    altered: BranchOverride,
    changes: Sequence[FaultEffect],
    blown: frozenset[str],
) -> Settled:
    """The faults of one group, of which ``places`` are the places among all."""
    rows = phase.group.places
    some = tuple(changes[row] for row in rows.tolist())
    return Settled(places[rows], network, phase.group, altered[rows], some, phase.potential, phase.generated_a, blown)


def worst_fuses(here: Settled) -> list[str | None]:
    """The fuse or breaker that carries most beyond what it stands with each fault, if any does."""
    made = here.network.vehicle
    rated = [(each.id, spec.rating_a) for each, spec in made.segments_of(Fuse)]
    rated += [(each.id, spec.rating_a) for each, spec in made.segments_of(Breaker)]
    if not rated:
        return [None] * len(here.places)
    over = np.abs(here.currents_a([each for each, _ in rated])) / np.array([rating for _, rating in rated])
    for row, change in enumerate(here.changes):
        if change.never_blows is not None:
            over[row, [each == change.never_blows for each, _ in rated]] = 0.0
    worst, most = over.argmax(axis=1).tolist(), over.max(axis=1).tolist()
    return [rated[at][0] if share > BLOWS_TIMES else None for at, share in zip(worst, most, strict=True)]


def branch_override_of(network: Network, changes: Sequence[FaultEffect]) -> BranchOverride:
    """What is otherwise in a network; what is of a device that is out changes nothing there."""
    numbers = network.assembly.numbers
    branch = np.array([-1 if each.owner is None else _place_of(network, each) for each in changes], dtype=int)
    out = np.array([each.owner is not None for each in changes]) & (branch < 0)
    return BranchOverride(
        np.array([numbers[each.start] for each in changes], dtype=int),
        np.array([numbers[each.end] for each in changes], dtype=int),
        branch,
        np.where(out, 0.0, [each.altered_s for each in changes]),
        np.array([each.held for each in changes], dtype=bool),
        Laws(
            np.where([each.law is not None for each in changes], branch, -1),
            np.array([each.law.number if each.law else 0 for each in changes], dtype=int),
            np.array([each.law.parameters if each.law else (0.0, 0.0, 0.0) for each in changes]),
        ),
        np.array([np.nan if each.pull_in_v is None else each.pull_in_v for each in changes]),
    )


def _place_of(network: Network, altered: FaultEffect) -> int:
    """The place of its branch, -1 where it is not there."""
    try:
        return network.branch_of(altered.owner or "", altered.part)
    except KeyError:
        return -1
