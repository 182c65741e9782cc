"""Readings held against what is computed."""
