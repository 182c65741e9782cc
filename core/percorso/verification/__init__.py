"""The metal held against what is computed: what is measured, what one should read, and what came says."""

__all__ = [
    "appearance",
    "bench_meter",
    "between",
    "expected",
    "instrument_model",
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
    "situation",
    "spreads",
    "test_list",
]
