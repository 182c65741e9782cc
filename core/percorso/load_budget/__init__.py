"""The load budget: what consumers draw and when, what the alternator makes of it, and whether the battery lives."""

__all__ = ["advice", "balance", "budget", "drive", "endurance", "ledger", "ledger_csv", "sources", "system"]
