"""The metal held against what is computed: what is measured, what one should read, and what came says."""

__all__ = ["bench", "checks", "judging", "measured"]
