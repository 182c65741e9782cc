"""Chooses wires, fuses and contacts for what flows through them."""

__all__ = [
    "advice",
    "ampacity",
    "circuit_advice",
    "contact_loads",
    "ladders",
    "protection_zones",
    "search",
    "wire_ends",
    "wire_size",
]
