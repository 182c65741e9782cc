"""Fuses: the ratings that are made, and the one that carries the load and protects the wire."""

from dataclasses import dataclass
from functools import cache
from typing import Literal

from percorso import tables
from percorso.house_rules import HouseRules

FuseFamily = Literal["blade", "bolt-down", "strip"]


@cache
def fuse_ratings_a(family: FuseFamily | None = None) -> tuple[float, ...]:
    """Standard ratings of a fuse family, or of all of them, A, smallest first."""
    listed = (row for row in tables.rows("fuses") if family in (None, row["family"]))
    return tuple(sorted({float(row["rating_a"]) for row in listed}))


@dataclass(frozen=True)
class FuseChoice:
    """A fuse for a load and its thinnest wire: ``rating_a`` is None when no standard rating does both."""

    rating_a: float | None
    lowest_a: float  # what the load asks for
    highest_a: float  # what the thinnest wire stands
    reason: str


def choose_fuse(
    load_a: float, thinnest_ampacity_a: float, rules: HouseRules, family: FuseFamily | None = None
) -> FuseChoice:
    """The smallest standard fuse that carries ``load_a`` with margin and is within the thinnest wire's ampacity.

    Load side: rating ≥ load ÷ 0.8 (common practice, a house rule). Wire side: rating ≤ ampacity of the thinnest
    conductor behind the fuse. Currents in A.
    """
    lowest = load_a / rules.fuse_load_fraction
    carrying = [rating for rating in fuse_ratings_a(family) if rating >= lowest * (1 - 1e-9)]
    if not carrying:
        reason = f"no standard fuse is made for {load_a:g} A with margin ({lowest:.4g} A)"
        return FuseChoice(None, lowest, thinnest_ampacity_a, reason)
    rating = carrying[0]
    if rating > thinnest_ampacity_a:
        reason = (
            f"no standard fuse does both: the {load_a:g} A load asks for {rating:g} A, "
            f"the thinnest wire stands {thinnest_ampacity_a:.4g} A; take a thicker wire"
        )
        return FuseChoice(None, lowest, thinnest_ampacity_a, reason)
    reason = f"carries {load_a:g} A with margin and protects a wire good for {thinnest_ampacity_a:.4g} A"
    return FuseChoice(rating, lowest, thinnest_ampacity_a, reason)


def opens_within_s(rating_a: float, current_a: float) -> float | None:
    """The longest a blade fuse may take to open, s; None below 135 % of its rating, where it may hold for ever.

    ISO 8820-3, from memory: the gate of the highest listed percentage that ``current_a`` reaches.
    """
    share = 100 * current_a / rating_a
    reached = [row for row in tables.rows("fuse_gates") if float(row["percent_of_rating"]) <= share]
    return min((float(row["opens_within_s"]) for row in reached), default=None)
