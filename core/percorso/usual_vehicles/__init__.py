"""The usual vehicle of its kind, as it comes in: laid from the answers to a few questions."""

__all__ = ["laying", "questions"]
