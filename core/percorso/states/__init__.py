"""What is live when, and should it be: matrix and its why, the proof, what pulling a part does, the time line."""

__all__ = [
    "cold_start",
    "cures",
    "exploration",
    "forbidden",
    "matrix",
    "paths",
    "proof",
    "pulling",
    "time_line",
    "words",
]
