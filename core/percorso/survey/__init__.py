"""What a vehicle that came in may be besides what was assumed: its open questions, and tracing over all of them."""

__all__ = ["mixture", "wirings"]
