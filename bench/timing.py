"""How long something takes."""

import statistics
import time
from collections.abc import Callable


def median_ms(turns: int, work: Callable[[], object]) -> float:
    """The median of some turns of a piece of work, ms."""
    times = []
    for _ in range(turns):
        start = time.perf_counter()
        work()
        times.append((time.perf_counter() - start) * 1000)
    return statistics.median(times)
