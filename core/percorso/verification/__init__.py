"""The metal held against what is computed: what is measured, what one should read, and what came says."""

__all__ = [
    "bench_meter",
    "between",
    "expected",
    "faults",
    "instruments",
    "logged",
    "measurements",
    "measuring",
    "metering",
    "naming",
    "offers",
    "outcomes",
    "preparations",
    "readings",
    "renaming",
    "seen",
    "situation",
    "spreads",
    "test_list",
]
