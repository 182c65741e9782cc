"""Chooses wires, fuses and contacts for what flows through them."""
