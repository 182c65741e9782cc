"""What a harness is built from: schedules, charts, labels and lists."""

__all__ = ["job_sheets", "sheet"]
