"""What one should read on sound metal, and what a reading that came says of it."""

__all__ = [
    "expected",
    "judge",
    "logged",
    "outcomes",
    "pinned",
    "readings",
    "spreads",
]
