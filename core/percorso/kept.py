"""What was computed is kept, within bounds; threads may share it."""

from collections.abc import Callable, Hashable
from threading import Lock
from typing import TypeVar

_Key = TypeVar("_Key", bound=Hashable)
_Value = TypeVar("_Value")

_CHANGING = Lock()


def kept(known: dict[_Key, _Value], key: _Key, compute: Callable[[], _Value], most: int) -> _Value:
    """What is known of a key, or else computed and kept; the oldest is let go of where it becomes too much."""
    found = known.get(key)
    if found is not None:
        return found
    value = compute()
    keep(known, key, value, most)
    return value


def keep(known: dict[_Key, _Value], key: _Key, value: _Value, most: int) -> None:
    """Keep what is known of a key; the oldest is let go of where it becomes too much."""
    with _CHANGING:
        known.pop(key, None)
        while len(known) >= most:
            del known[next(iter(known))]
        known[key] = value
