"""Files people write: jobs and house rules."""

__all__ = [
    "house_rules",
    "job_file",
    "measurements_csv",
    "reading",
]
