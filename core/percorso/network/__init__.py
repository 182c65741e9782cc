"""Solves the whole vehicle as one electrical network in an operating state."""

__all__ = [
    "branches",
    "coils",
    "device_results",
    "elimination",
    "following",
    "gates",
    "kernel",
    "laws",
    "mornings",
    "newton",
    "nodal",
    "operating_point",
    "regulation",
    "results",
    "sensitivity",
    "spice",
    "variation",
]
