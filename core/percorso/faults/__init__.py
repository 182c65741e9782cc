"""What can be bad at a part: each fault a change of the network, and how often it is met."""

__all__ = [
    "at_segments",
    "beyond",
    "changes",
    "cures",
    "library",
    "model",
    "wording",
]
