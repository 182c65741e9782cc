"""Whether something is done in time, on a machine that may be busy with something else meanwhile."""

from collections.abc import Callable
from time import perf_counter
from typing import TypeVar

TRIES = 5
T = TypeVar("T")


def in_time(seconds: float, do: Callable[[], T]) -> T:
    """What the first try gives that is done in time. Raises AssertionError where none of five is."""
    took = list[float]()
    for _ in range(TRIES):
        began = perf_counter()
        given = do()
        took.append(perf_counter() - began)
        if took[-1] < seconds:
            return given
    raise AssertionError(f"took {', '.join(f'{each:.2f}' for each in took)} s, not less than {seconds} s")
