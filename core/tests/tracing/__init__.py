"""Tests of tracing faults."""
