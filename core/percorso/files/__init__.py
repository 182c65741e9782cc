"""Files people write: jobs and house rules."""
