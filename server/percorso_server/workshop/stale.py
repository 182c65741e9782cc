"""What a write meant for an older version is answered with."""

from typing import Any


class StaleError(Exception):
    """A write was meant for an older version of ``row``; ``current`` holds its values as they are now."""

    def __init__(self, what: str, row: str, current: dict[str, Any] | None) -> None:
        super().__init__(f"{what} was changed by someone else meanwhile")
        self.row, self.current = row, current
