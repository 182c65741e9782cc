"""What was computed is kept, within bounds."""

from collections.abc import Hashable
from typing import TypeVar

_Key = TypeVar("_Key", bound=Hashable)
_Value = TypeVar("_Value")


def keep(known: dict[_Key, _Value], key: _Key, value: _Value, most: int) -> None:
    """Keep what was computed, and let go of the oldest where it becomes too much."""
    while len(known) >= most:
        del known[next(iter(known))]
    known[key] = value
