"""The metal held against what is computed: what is prepared for a test, and what a reading proves."""

__all__ = ["offers", "preparations", "readings", "situation"]
