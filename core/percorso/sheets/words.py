"""What all sheets say in the same words."""

from collections.abc import Iterable

from percorso.vehicle.model import Circuit, Segment


def is_new(segment: Segment) -> bool:
    """Whether a piece is built for the job."""
    return segment.origin == "new" and segment.fate == "kept"


def status(segment: Segment) -> str:
    """Whether a piece is new, existing, or what becomes of it."""
    if segment.fate != "kept":
        return segment.fate
    return "new" if segment.origin == "new" else "existing"


def names(circuits: Iterable[Circuit]) -> str:
    """Circuits by their names."""
    return ", ".join(each.name for each in circuits)
