"""The whole vehicle on one page: battery plus at the left, minus at the right, each device a row between them."""

__all__ = ["drawing", "folding", "layout", "paper", "picture"]
