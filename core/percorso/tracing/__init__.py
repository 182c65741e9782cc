"""Why not? Which faults explain what was read, and which measurement tells most for its minutes."""

__all__ = [
    "answer",
    "complaints",
    "left_out",
    "mending",
    "next_test",
    "proof",
    "situations",
    "speaking",
    "symptoms",
    "trace",
]
