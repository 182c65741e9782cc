"""Single parts by themselves: conductors, insulation, fuses, contacts, batteries, and the heat in a wire."""

__all__ = [
    "batteries",
    "conductors",
    "contacts",
    "fuses",
    "insulation",
    "published_ampacity",
    "stiffness",
    "thermal",
    "warm_copper",
]
