"""Solves the whole vehicle as one electrical network in an operating state."""

__all__ = [
    "branches",
    "device_results",
    "following",
    "laws",
    "modes",
    "mornings",
    "newton",
    "nodal",
    "operating_point",
    "results",
    "sensitivity",
    "spice",
    "variation",
]
