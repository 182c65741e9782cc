"""What a harness is built from: schedules, charts, labels and lists."""

__all__ = ["fuses", "job_sheets", "labels", "relays", "shopping", "wires"]
