"""The tests that a job asks for, from its circuits, devices and plugs."""

__all__ = ["asked", "before_power", "build", "contacts", "feeds", "live", "pins", "sources", "wording"]
