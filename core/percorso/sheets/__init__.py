"""What a harness is built from: schedules, charts, labels and lists."""
