"""Solves the whole vehicle as one electrical network in an operating state."""
