"""Everything that may be bad in a vehicle, each way as bad as it can be, and how often that is met."""

import math
from collections.abc import Collection, Hashable
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from percorso.arrays import Array, Mask, Numbers
from percorso.faults.at_segments import OPENS
from percorso.faults.library import Way
from percorso.faults.model import Fault
from percorso.kept import cached_property

UNKNOWN_SHARE = 0.01  # of all faults: something that is not in this description, from memory
SOUND_SHARE = 0.005  # nothing is bad at all, from memory
COMES_AND_GOES = {*OPENS} - {"blown"}
COMES_AND_GOES_SHARE = 0.05  # of breaks that are always there, so many that come and go; from memory
COMES_IN = (0.08, 0.35)  # of all readings: what comes and goes, seldom or often; from memory


@dataclass(frozen=True)
class Hypotheses:
    """Every fault of a vehicle, first that there is none, in the order in which they are solved; then what comes and
    goes, as what is solved for it (``solved``) or nothing at all; ``there`` is how often it is there when one measures.

    ``way`` is the number of the way each is of, -1 of none, ``severity`` how bad it is, NaN where it is or is not.
    """

    ways: tuple[Way, ...]
    way: Numbers
    severity: Array
    prior: Array  # of each fault, with what is left for what is not described
    solved: Numbers
    there: Array
    unknown: float = UNKNOWN_SHARE  # something that is not in this description

    @cached_property
    def grids(self) -> "tuple[Grid, ...]":
        """The ways that have more than one severity, those that have the same ones together."""
        places: dict[tuple[float, ...], list[Numbers]] = {}
        starts = np.flatnonzero(np.diff(self.way, prepend=-2, append=-2))
        for start, end in pairwise(starts.tolist()):
            if end - start > 1 and not np.isnan(self.severity[start]):
                places.setdefault(tuple(self.severity[start:end].tolist()), []).append(np.arange(start, end))
        return tuple(Grid(np.array(each), np.array(severity)) for severity, each in places.items())

    @cached_property
    def faults(self) -> list[Fault | None]:
        """What is solved: sound metal, and each fault as bad as it can be."""
        return [None, *(fault for way in self.ways if not way.comes_and_goes for fault in way.faults)]

    @cached_property
    def named(self) -> tuple[list[str], list[str]]:
        """The part and the fault of each, empty where there is none."""
        ways = [self.ways[each] if each >= 0 else None for each in self.way.tolist()]
        return [each.part if each else "" for each in ways], [each.fault if each else "" for each in ways]

    @cached_property
    def keys(self) -> list[Hashable]:
        """What tells each from every other, among hypotheses of any ways of the same vehicle."""
        ways = [self.ways[each] if each >= 0 else None for each in self.way.tolist()]
        return [
            each and (each.part, each.fault, each.other, there, None if math.isnan(bad) else bad)
            for each, there, bad in zip(ways, self.there.tolist(), self.severity.tolist(), strict=True)
        ]

    @property
    def comes_and_goes(self) -> Mask:
        """Which are not there at all times."""
        return np.asarray(self.there < 1)

    @staticmethod
    def of(ways: tuple[Way, ...], whole: float | None = None) -> "Hypotheses":
        """The hypotheses of a library; ``whole`` is the weight of all of it, if these are not all."""
        bad = [each.severities or (np.nan,) for each in ways]
        way = [-1] + [place for place, each in enumerate(bad) for _ in each]
        severity = [np.nan] + [each for one in bad for each in one]
        weight = [0.0] + [each.weight / len(one) for each, one in zip(ways, bad, strict=True) for _ in one]
        solved, there = list(range(len(way))), [1.0] * len(way)
        for place, each in enumerate(ways):
            if each.fault in COMES_AND_GOES:
                rare = replace(each, weight=COMES_AND_GOES_SHARE * each.weight, comes_and_goes=True)
                there += COMES_IN
                solved += [way.index(place)] * len(COMES_IN)
                way += [len(ways)] * len(COMES_IN)
                weight += [rare.weight / len(COMES_IN)] * len(COMES_IN)
                severity += [np.nan] * len(COMES_IN)
                ways = (*ways, rare)
        share = np.array(weight) * (1 - UNKNOWN_SHARE - SOUND_SHARE) / max(whole or sum(weight), 1e-300)
        share[0] = SOUND_SHARE
        return Hypotheses(ways, np.array(way), np.array(severity), share, np.array(solved), np.array(there))

    def only(self, ways: Collection[Way]) -> "Hypotheses":
        """The same with some ways alone: no other is possible."""
        wanted = {(each.part, each.fault, each.other) for each in ways}
        possible = np.array([(each.part, each.fault, each.other) in wanted for each in self.ways] + [True])
        return replace(self, prior=np.where(possible[self.way], self.prior, 0.0))  # none is the last

    def mixed(self, of_solved: Array, there: float | None = None) -> Array:
        """What is so with each, from what is so with what is solved, shape (hypotheses,).

        ``there``: how often what comes and goes is there, if not as often as while one measures.
        """
        share = self.there if there is None else np.where(self.comes_and_goes, there, 1.0)
        return np.asarray(share * of_solved[self.solved] + (1 - share) * of_solved[0])


@dataclass(frozen=True)
class Grid:
    """Ways that have the same severities: their places among the hypotheses, shape (ways, severities), and those."""

    places: Numbers
    severity: Array
