"""Lays new circuits, from templates or from their ends, and carries out edits."""

__all__ = [
    "apply",
    "templates",
]
