"""What was measured, as data: the quantity, the points, the situation with its preparations, and the instrument."""

__all__ = [
    "instruments",
    "measurements",
    "preparations",
    "renaming",
]
