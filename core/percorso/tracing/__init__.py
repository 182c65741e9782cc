"""Why not? Which faults explain what was read, and which measurement tells most for its minutes."""

__all__ = ["answer", "complaints", "mending", "next_test", "proof", "situations", "symptoms", "trace"]
