"""The metal held against what is computed: what is measured, what one should read, and what came says."""

__all__ = [
    "bench_meter",
    "between",
    "expected",
    "instruments",
    "logged",
    "measurements",
    "measuring",
    "metering",
    "minutes",
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
