"""The tests that a job asks for, from its circuits, devices and plugs: in code checks."""

__all__ = [
    "asked",
    "between",
    "build",
    "minutes",
    "offers",
    "wording",
]
