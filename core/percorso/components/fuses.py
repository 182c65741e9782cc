"""Fuses, breakers and fusible links by themselves: what is made, when each opens, and which one suits."""

import math
from dataclasses import dataclass
from functools import cache
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from percorso import tables
from percorso.components.conductors import ConductorSize, stocked_sizes
from percorso.components.thermal import melting_current_a
from percorso.house_rules import HouseRules

FuseFamily = Literal["blade", "bolt-down", "strip"]
FAMILIES: tuple[FuseFamily, ...] = get_args(FuseFamily)
Guard = Literal["fuse", "breaker"]
CLEARS_WITHIN_S = 5.0  # a dead short at the far end must open its protection within this, IEC 60364-4-41, from memory
LINK_GAUGES_BELOW = 4  # a link is four AWG numbers thinner than the wire it guards, common practice
GAUGE_STEP = 92 ** (2 / 39)  # areas of two neighbouring AWG numbers (ASTM B258)
LONGEST_LINK_M = 0.23  # common practice


@cache
def fuse_ratings_a(family: FuseFamily | None = None) -> tuple[float, ...]:
    """Standard ratings of a fuse family, or of all of them, A, smallest first."""
    listed = (row for row in tables.rows("fuses") if family in (None, row["family"]))
    return tuple(sorted({float(row["rating_a"]) for row in listed}))


@dataclass(frozen=True)
class Opening:
    """Between when a fuse or breaker opens at a current, s; ``latest_s`` is None where it may hold for ever."""

    earliest_s: float
    latest_s: float | None


@cache
def _gates(guard: Guard) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Percent of rating, earliest and latest opening, s; the latest is not a number where it may hold for ever."""
    listed = [row for row in tables.rows("fuse_gates") if row["device"] == guard]
    columns = ("percent_of_rating", "opens_after_s", "opens_within_s")
    percent, after, within = (np.array([float(row[each] or "nan") for row in listed]) for each in columns)
    return percent, after, within


def opens_between_s(rating_a: float, current_a: float, guard: Guard = "fuse") -> Opening:
    """Between when a blade fuse (ISO 8820-3, from memory) or a thermal breaker opens at a current.

    Between two gates of the standard time and current are taken as straight lines on logarithmic scales, which is how
    time-current curves are read; beyond the last gate the earliest falls as the same heat opens it. Larger fuses are
    taken to open as blades do.
    """
    percent, after, within = _gates(guard)
    share = 100 * current_a / rating_a
    if share <= percent[0]:
        return Opening(float(after[0]) if share > 0 else math.inf, None)
    earliest = math.exp(np.interp(math.log(share), np.log(percent), np.log(after)))
    if share > percent[-1]:
        earliest *= (percent[-1] / share) ** 2
    opens = ~np.isnan(within)
    if share < percent[opens][0] * (1 - 1e-9):
        return Opening(earliest, None)
    latest = math.exp(np.interp(math.log(share), np.log(percent[opens]), np.log(within[opens])))
    return Opening(earliest, latest)


def let_through_a2s(rating_a: float, current_a: float, guard: Guard = "fuse") -> float:
    """Heat per ohm that passes before a guard is open at a short-circuit current, A²·s; infinite where it holds.

    Beyond the last gate the same heat opens it, however much flows.
    """
    percent, _, _ = _gates(guard)
    current = min(current_a, percent[-1] / 100 * rating_a)
    latest = opens_between_s(rating_a, current, guard).latest_s
    return math.inf if latest is None else float(current) ** 2 * latest


@cache
def clearing_share(guard: Guard = "fuse", seconds: float = CLEARS_WITHIN_S) -> float:
    """The current, as a share of the rating, that opens a fuse or breaker within ``seconds`` for certain."""
    percent, _, within = _gates(guard)
    opens = ~np.isnan(within)
    share = np.interp(-math.log(seconds), -np.log(within[opens]), np.log(percent[opens]))
    return math.exp(share) / 100


@dataclass(frozen=True)
class Inrush:
    """A starting current by its peak (A) and the time for which the peak would heat a fuse as it does (s)."""

    current_a: float
    equivalent_s: float


@dataclass(frozen=True)
class FuseChoice:
    """A fuse for a load and its thinnest wire: ``rating_a`` is None when no standard rating does both."""

    rating_a: float | None
    load_a: float
    lowest_a: float  # what the load asks for
    highest_a: float  # what the thinnest wire stands
    reason: str


def choose_fuse(
    load_a: float,
    thinnest_ampacity_a: float,
    rules: HouseRules,
    family: FuseFamily | None = None,
    inrush: Inrush | None = None,
    least_a: float = 0.0,
) -> FuseChoice:
    """The smallest standard fuse that carries ``load_a`` and its inrush and is within the thinnest wire's ampacity.

    ``least_a``: none smaller is fitted there.

    Load side: rating ≥ load ÷ 0.8 (common practice, a house rule), and the inrush is over before the earliest it may
    open. Wire side: rating ≤ ampacity of the thinnest conductor behind the fuse. Currents in A.
    """
    lowest = max(lowest_rating_a(load_a, rules), least_a)
    asks = f"the {load_a:.4g} A load needs {lowest:.4g} A"
    if lowest == least_a:
        asks = f"none under {least_a:g} A is fitted there"
    carrying = [rating for rating in fuse_ratings_a(family) if rating >= lowest * (1 - 1e-9)]
    if not carrying:
        reason = f"no standard {family or ''} fuse is made for {load_a:.4g} A with margin ({lowest:.4g} A)"
        return FuseChoice(None, load_a, lowest, thinnest_ampacity_a, " ".join(reason.split()))
    rating = next((each for each in carrying if holds(each, inrush)), None)
    if rating is None:
        most = f"{carrying[-1]:g} A may open in its {inrush.current_a if inrush else 0:.3g} A inrush"
        return FuseChoice(None, load_a, lowest, thinnest_ampacity_a, f"no standard fuse holds the start: even {most}")
    if rating > carrying[0] and inrush:
        asks = f"the inrush of {inrush.current_a:.3g} A needs {rating:g} A"
        lowest = rating
    if rating > thinnest_ampacity_a:
        blocked = f"{asks}, the thinnest wire is good for {thinnest_ampacity_a:.4g} A"
        advice = f"take a wire for {rating:g} A or more, or split the load"
        reason = f"no standard fuse does both: {blocked}; {advice}"
        return FuseChoice(None, load_a, lowest, thinnest_ampacity_a, reason)
    return choice_of(rating, load_a, lowest, thinnest_ampacity_a)


def choice_of(rating_a: float, load_a: float, lowest_a: float, thinnest_ampacity_a: float) -> FuseChoice:
    """A rating that carries its load and protects the wire behind it, if there is one; all in A."""
    behind = f"protects a wire good for {thinnest_ampacity_a:.4g} A"
    if math.isinf(thinnest_ampacity_a):
        behind = "has no wire of its own to protect"
    return FuseChoice(
        rating_a, load_a, lowest_a, thinnest_ampacity_a, f"carries {load_a:.3g} A with margin and {behind}"
    )


def lowest_rating_a(load_a: float, rules: HouseRules) -> float:
    """The rating a load asks for, A: a fuse carries only a share of its rating for long."""
    return load_a / rules.fuse_load_fraction


def holds(rating_a: float, inrush: Inrush | None, guard: Guard = "fuse") -> bool:
    """Whether a fuse or breaker holds a start: it is over before the earliest the guard may open."""
    return inrush is None or opens_between_s(rating_a, inrush.current_a, guard).earliest_s >= inrush.equivalent_s


def link_for(size: ConductorSize) -> ConductorSize | None:
    """The fusible link that guards a wire: four AWG numbers thinner, or the metric size nearest below that area.

    Common practice. None where none that thin is made.
    """
    most_mm2 = size.area_mm2 / GAUGE_STEP**LINK_GAUGES_BELOW
    fitting = [each for each in stocked_sizes(size.series) if each.area_mm2 <= most_mm2 * (1 + 1e-6)]
    return fitting[-1] if fitting else None


def link_clears_at_a(link: ConductorSize, seconds: float = CLEARS_WITHIN_S) -> float:
    """Current that melts a link within ``seconds``, A (Onderdonk, from memory)."""
    return float(melting_current_a(link, seconds))
