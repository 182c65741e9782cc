"""The tests that a job asks for, from its circuits, devices and plugs: in code checks."""

__all__ = [
    "asked",
    "build",
    "minutes",
    "offers",
    "wording",
]
