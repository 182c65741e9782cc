"""Why not? Which faults explain what was read, and which measurement tells most for its minutes."""

__all__ = [
    "answer",
    "batch",
    "ending",
    "left_out",
    "mending",
    "next_check",
    "proof",
    "situations",
    "speaking",
    "symptoms",
    "trace",
    "wording",
]
