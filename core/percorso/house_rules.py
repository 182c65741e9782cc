"""A shop's own defaults: the margins and targets its people agreed to work to."""

from dataclasses import dataclass
from typing import Literal

from percorso.floors import Use, usual_floors
from percorso.targets import Family, Purpose, Target, usual_targets

Joining = Literal["crimped", "crimped and soldered", "soldered"]
RARELY_FULL: tuple[Family, ...] = ("charging", "ground")  # as much flows for seconds, or when everything is on
School = Literal["light", "usual", "generous"]  # how much margin a size has, where practitioners disagree
AmpacityRule = Literal["lower of both", "table", "thermal model"]

COLDEST_C, WARMEST_MORNING_C = -30.0, 25.0  # between which a coldest morning lies
Copper = Literal["own temperature", "zone temperature"]  # how warm copper is taken: by its current, or as in handbooks


@dataclass(frozen=True)
class HouseRules:
    """Margins that rule verdicts; every default is common practice and each shop may change it."""

    fuse_load_fraction: float = 0.8  # a fuse carries at most this share of its rating continuously
    min_test_current_fraction: float = 0.2  # a drop test at less of the design current proves nothing
    close_fraction: float = 0.9  # from this share of the allowance on, within becomes close
    expected_tolerance: float = 0.25  # a reading within this share of the computed drop is as expected
    ampacity_rule: AmpacityRule = "lower of both"  # what says how much a wire may carry
    copper: Copper = "own temperature"
    coldest_morning_c: float = -10.0  # on which an engine must start, common practice
    source_fuse_within_m: float = 0.18  # of wire between a source and its fuse, common practice
    smallest_fuse_a: float = 3.0  # smaller ones are not on the shelf, common practice
    thinnest_wire_mm2: float = 0.5  # thinner ones break in the hand, common practice
    joined: Joining = "crimped"  # how terminals are put on
    slack_fraction: float = 0.05  # of a wire's length, cut longer for its way through the loom
    slack_m: float = 0.1  # and at its ends, for stripping and a second try
    charging_reserve_fraction: float = 0.2  # an alternator makes so much more than is asked, to charge with
    school: School = "usual"  # light: the smallest that meets everything; generous: one size above usual
    wire_load_fraction: float = 0.85  # of what a wire may carry, that it carries for long as usual, common practice
    wire_rise_k: float = 40.0  # of the copper over its surroundings, as usual, common practice
    targets: tuple[tuple[Purpose, Target], ...] = usual_targets()  # of new circuits, by purpose
    floors: tuple[tuple[Use, float], ...] = usual_floors()  # the thinnest wire for each use, mm²

    def target(self, purpose: Purpose) -> Target:
        """What a new circuit of a purpose must meet."""
        return dict(self.targets)[purpose]

    def aimed_fraction(self, family: Family = "feed") -> float:
        """The share of an allowance that a new size may use: all of it when light, else short of close.

        A charge cable is sized for what its alternator is marked with, a ground for cranking: they may use all of it.
        """
        return 1.0 if self.school == "light" or family in RARELY_FULL else self.close_fraction
