"""The load budget: what consumers draw and when, what the alternator makes of it, and whether the battery lives."""
