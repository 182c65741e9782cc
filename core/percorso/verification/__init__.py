"""Readings held against what is computed."""

__all__ = ["readings"]
