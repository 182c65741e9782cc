"""What pulls in and drops out: relay coils and starter solenoids, by the voltage across them."""

import numpy as np
from numpy.typing import NDArray

from percorso.arrays import Array, Numbers
from percorso.kept import cached_property
from percorso.network.branches import NEVER, Assembly
from percorso.network.modes import Modes
from percorso.network.newton import Circuitry
from percorso.network.nodal import joined
from percorso.vehicle.devices import RelayCoil, Starter


class Coils:
    """The coils of an assembly."""

    def __init__(self, assembly: Assembly, circuitry: Circuitry) -> None:
        self._circuitry = circuitry
        coils = [(place, each) for place, each in enumerate(assembly.branches) if each.part == "coil"]
        self._branches = {each.owner: place for place, each in coils if each.when != NEVER}  # without their diodes
        self._places = np.array(list(self._branches.values()), dtype=np.int64)
        self._first, self._second = circuitry.start[self._places], circuitry.end[self._places]
        specs = [assembly.vehicle.devices[each].spec for each in self._branches]
        limits = [(each.pull_in_v, each.drop_out_v) for each in specs if isinstance(each, RelayCoil | Starter)]
        self._pull_in_v, self._drop_out_v = np.array(limits, dtype=float).reshape(-1, 2).T
        self._owned: dict[str, list[int]] = {each: [] for each in self._branches}
        for place, each in enumerate(assembly.branches):
            if each.owner in self._owned:
                self._owned[each.owner].append(place)

    @cached_property
    def _ways(self) -> dict[str, tuple[int, int]]:
        """The gates that lead to each coil, where its ends do not hang together anyway."""
        return {each: ways for each in self._branches if (ways := self._ways_to(each))}

    def _ways_to(self, coil: str) -> tuple[int, int] | None:
        """For each end of a coil the gates that can bring current there; None where its ends hang together anyway.

        What always conducts counts as one with the end, other than the coil itself.
        """
        wiring, owned = self._circuitry, self._owned[coil]
        standing = wiring.standing.copy()
        standing[owned] = False
        plus, minus, _ = wiring.posts.T
        island = joined(np.arange(wiring.size), wiring.start[standing], wiring.end[standing])
        island = joined(island, plus, minus)
        place = self._branches[coil]
        first, second = island[wiring.start[place]], island[wiring.end[place]]
        if first == second:
            return None
        others = ~standing
        others[owned] = False
        starts, ends = island[wiring.start], island[wiring.end]
        touching = [np.flatnonzero(others & ((starts == end) | (ends == end))).tolist() for end in (first, second)]
        gated = set(wiring.gates.branches.tolist())
        # where a junction leads, every gate counts as closed
        ways = [wiring.gates.bits_of(way) if gated.issuperset(way) else -1 for way in touching]
        return ways[0], ways[1]

    @property
    def points(self) -> Numbers:
        """The points of all coils."""
        return np.concatenate([self._first, self._second])

    def bands(self, potential: Array) -> NDArray[np.int_]:
        """For each coil 2 where it pulls in, 1 where it holds, 0 where it drops out, shape (…, coils)."""
        coil_v = np.abs(potential[..., self._first] - potential[..., self._second])
        return (coil_v >= self._pull_in_v).astype(int) + (coil_v > self._drop_out_v)

    def bands_with(self, potential: Array, branches: Numbers, pull_in_v: Array) -> NDArray[np.int_]:
        """The same, shape (rows, coils), where in each row one branch may be a coil that needs other voltages to pull
        in; NaN where it does not. What never pulls in holds nothing either.
        """
        bands = self.bands(potential)
        rows, coils = np.nonzero((branches[:, None] == self._places) & ~np.isnan(pull_in_v)[:, None])
        coil_v = np.abs(potential[rows, self._first[coils]] - potential[rows, self._second[coils]])
        holds = np.isfinite(pull_in_v[rows]) & (coil_v > self._drop_out_v[coils])
        bands[rows, coils] = (coil_v >= pull_in_v[rows]).astype(int) + holds
        return bands

    def pulled_in(self, modes: Modes, potential: Array) -> frozenset[str]:
        """The coils that are pulled in at these voltages, after those that were."""
        return self.after(modes, self.bands(potential))

    def after(self, modes: Modes, bands: NDArray[np.int_]) -> frozenset[str]:
        """The coils that are pulled in where each is in one of its bands, shape (coils,), after those that were."""
        each_band = zip(self._branches, bands.tolist(), strict=True)
        return frozenset(each for each, band in each_band if band == 2 or (band == 1 and each in modes.pulled_in))

    def without_cut_off(self, modes: Modes) -> Modes:
        """A coil that no closed contact leads to drops out before anything else changes, and so on from there."""
        while modes.pulled_in:
            closed = self._circuitry.gates.closed(modes)
            cut_off = [each for each in modes.pulled_in if self.is_cut_off(each, closed)]
            if not cut_off:
                break
            modes = Modes(modes.positions, modes.engine, modes.pulled_in.difference(cut_off), modes.excited)
        return modes

    def is_cut_off(self, coil: str, closed: int) -> bool:
        """Whether of the gates that lead to a coil at one of its ends none is among the closed ones."""
        return any(way >= 0 and not closed & way for way in self._ways.get(coil, ()))
