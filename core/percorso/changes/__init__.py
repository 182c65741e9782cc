"""Edits of a vehicle: each a value that can be tried, kept and undone."""

__all__ = ["edits", "extensions", "labels", "parts", "routes"]
