"""Contacts: the rating one needs for the load it switches."""

from dataclasses import dataclass
from functools import cache

from percorso import tables

HOUSE_LOAD = "resistive"  # what a contact is taken to switch when nobody says


@cache
def contact_ratings_a() -> tuple[float, ...]:
    """Standard contact ratings, A, smallest first."""
    return tuple(sorted(float(row["value"]) for row in tables.rows("contacts") if row["kind"] == "rating_a"))


@cache
def _shares() -> dict[str, float]:
    return {row["kind"]: float(row["value"]) for row in tables.rows("contacts") if row["kind"] != "rating_a"}


@cache
def switched_share(load_kind: str) -> float:
    """The part of its rating a contact switches for a kind of load; a resistive one's where the kind is not listed."""
    shares = _shares()
    return shares.get(f"share {load_kind}", shares[f"share {HOUSE_LOAD}"])


@dataclass(frozen=True)
class ContactChoice:
    """The contact a load asks for; ``rated_a`` is None where no standard one is made for it."""

    rated_a: float | None
    lowest_a: float
    reason: str


def choose_contact(current_a: float, load_kind: str) -> ContactChoice:
    """The smallest standard contact that switches ``current_a`` (A) of a kind of load."""
    share = switched_share(load_kind)
    named = load_kind if f"share {load_kind}" in _shares() else HOUSE_LOAD
    lowest = current_a / share
    rated = next((rating for rating in contact_ratings_a() if rating >= lowest * (1 - 1e-9)), None)
    why = f"{current_a:.3g} A of {named} load need {lowest:.3g} A"
    if rated is None:
        return ContactChoice(None, lowest, f"{why}: no standard contact is made for it; split the load or use two")
    return ContactChoice(rated, lowest, why)
