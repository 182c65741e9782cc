"""Everything that may be bad in a vehicle, each fault mode as bad as it can be, and how often that is met."""

import math
from collections.abc import Collection, Hashable
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from percorso.arrays import Array, Mask, Numbers
from percorso.faults.at_segments import OPENS
from percorso.faults.library import FaultMode
from percorso.faults.model import Fault
from percorso.kept import cached_property

UNKNOWN_SHARE = 0.01  # of all faults: something that this job does not describe, from memory
SOUND_SHARE = 0.005  # nothing is bad at all, from memory
COMES_AND_GOES = {*OPENS} - {"blown"}
COMES_AND_GOES_SHARE = 0.05  # of breaks that are always there, so many that come and go; from memory
COMES_IN = (0.08, 0.35)  # of all readings: what comes and goes, seldom or often; from memory


@dataclass(frozen=True)
class Hypotheses:
    """Every fault of a vehicle, first that there is none, in the order in which they are solved; then what comes and
    goes, as what is solved for it (``solved``) or nothing at all; ``there`` is how often it is there when one measures.

    ``mode`` is the number of the fault mode of each, -1 of none, ``severity`` how bad it is, NaN where it is or is not.
    """

    modes: tuple[FaultMode, ...]
    mode: Numbers
    severity: Array
    prior: Array  # of each fault, with what is left for what is not described
    solved: Numbers
    there: Array
    unknown: float = UNKNOWN_SHARE  # something that this job does not describe

    @cached_property
    def grids(self) -> "tuple[Grid, ...]":
        """The modes that have more than one severity, those that have the same ones together."""
        places: dict[tuple[float, ...], list[Numbers]] = {}
        starts = np.flatnonzero(np.diff(self.mode, prepend=-2, append=-2))
        for start, end in pairwise(starts.tolist()):
            if end - start > 1 and not np.isnan(self.severity[start]):
                places.setdefault(tuple(self.severity[start:end].tolist()), []).append(np.arange(start, end))
        return tuple(Grid(np.array(each), np.array(severity)) for severity, each in places.items())

    @cached_property
    def faults(self) -> list[Fault | None]:
        """What is solved: sound metal, and each fault as bad as it can be."""
        return [None, *(fault for mode in self.modes if not mode.comes_and_goes for fault in mode.faults)]

    @cached_property
    def named(self) -> tuple[list[str], list[str]]:
        """The part and the fault of each, empty where there is none."""
        modes = [self.modes[each] if each >= 0 else None for each in self.mode.tolist()]
        return [each.part if each else "" for each in modes], [each.fault if each else "" for each in modes]

    @cached_property
    def keys(self) -> list[Hashable]:
        """What tells each from every other, among hypotheses of any modes of the same vehicle."""
        modes = [self.modes[each] if each >= 0 else None for each in self.mode.tolist()]
        return [
            each and (each.part, each.fault, each.other, there, None if math.isnan(bad) else bad)
            for each, there, bad in zip(modes, self.there.tolist(), self.severity.tolist(), strict=True)
        ]

    @property
    def comes_and_goes(self) -> Mask:
        """Which are not there at all times."""
        return np.asarray(self.there < 1)

    @staticmethod
    def of(modes: tuple[FaultMode, ...], whole: float | None = None) -> "Hypotheses":
        """The hypotheses of a library; ``whole`` is the weight of all of it, if these are not all."""
        bad = [each.severities or (np.nan,) for each in modes]
        mode = [-1] + [place for place, each in enumerate(bad) for _ in each]
        severity = [np.nan] + [each for one in bad for each in one]
        weight = [0.0] + [each.weight / len(one) for each, one in zip(modes, bad, strict=True) for _ in one]
        solved, there = list(range(len(mode))), [1.0] * len(mode)
        for place, each in enumerate(modes):
            if each.fault in COMES_AND_GOES:
                rare = replace(each, weight=COMES_AND_GOES_SHARE * each.weight, comes_and_goes=True)
                there += COMES_IN
                solved += [mode.index(place)] * len(COMES_IN)
                mode += [len(modes)] * len(COMES_IN)
                weight += [rare.weight / len(COMES_IN)] * len(COMES_IN)
                severity += [np.nan] * len(COMES_IN)
                modes = (*modes, rare)
        share = np.array(weight) * (1 - UNKNOWN_SHARE - SOUND_SHARE) / max(whole or sum(weight), 1e-300)
        share[0] = SOUND_SHARE
        return Hypotheses(modes, np.array(mode), np.array(severity), share, np.array(solved), np.array(there))

    def only(self, modes: Collection[FaultMode]) -> "Hypotheses":
        """The same with some modes alone: no other is possible."""
        wanted = {(each.part, each.fault, each.other) for each in modes}
        possible = np.array([(each.part, each.fault, each.other) in wanted for each in self.modes] + [True])
        return replace(self, prior=np.where(possible[self.mode], self.prior, 0.0))  # none is the last

    def mixed(self, of_solved: Array, there: float | None = None) -> Array:
        """What is so with each, from what is so with what is solved, shape (hypotheses,).

        ``there``: how often what comes and goes is there, if not as often as while one measures.
        """
        share = self.there if there is None else np.where(self.comes_and_goes, there, 1.0)
        return np.asarray(share * of_solved[self.solved] + (1 - share) * of_solved[0])


@dataclass(frozen=True)
class Grid:
    """Fault modes with the same severities: their places among the hypotheses, shape (modes, severities), and those."""

    places: Numbers
    severity: Array
