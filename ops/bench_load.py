"""Measures how a running Percorso answers, alone and eight at once: ``python -m ops.bench_load``, after ``ops grow``.

Each client is a process of its own, signs in as the demo, and asks the same things in turn.
"""

import statistics
import time
from collections.abc import Callable
from multiprocessing import get_context

from ops.__main__ import PORT, STATE
from ops.application import Application
from ops.bench import Client

SECONDS = 10.0
CLIENTS = (1, 8)
SEARCHES = ("pump", "w1 heater", "corroded lorry", "blower 99", "nothing of it", "tractor cold box")


def main() -> None:
    """Print the median and the 95th percentile of each thing asked, in ms."""
    for clients in CLIENTS:
        with get_context("fork").Pool(clients) as pool:
            times = pool.map(_ask, range(clients))
        for what in times[0]:
            taken = sorted(each for one in times for each in one[what])
            p95 = taken[int(0.95 * len(taken))]
            median = statistics.median(taken)
            print(f"{what}, {clients} at once, {len(taken)} times: median {median:.0f} ms, p95 {p95:.0f} ms")


def _ask(number: int) -> dict[str, list[float]]:
    client = Client(Application(STATE, PORT, demo=True))
    jobs = client.call("GET", "/jobs")
    van = next(each["id"] for each in client.call("GET", "/jobs?search=market+van"))
    circuits = [each["circuit"]["id"] for each in client.call("GET", f"/jobs/{van}")["lines"]]
    asked: dict[str, Callable[[int], str]] = {
        "list": lambda turn: f"/jobs?page={1 + (turn + number) % 20}",
        "search": lambda turn: f"/jobs?search={SEARCHES[(turn + number) % len(SEARCHES)].replace(' ', '+')}",
        "board of a small job": lambda turn: f"/jobs/{jobs[(turn + 7 * number) % len(jobs)]['id']}",
        "board of the van": lambda _: f"/jobs/{van}",
        "circuit": lambda turn: f"/circuits/{circuits[(turn + number) % len(circuits)]}",
    }
    times: dict[str, list[float]] = {what: [] for what in asked}
    end, turn = time.monotonic() + SECONDS, 0
    while time.monotonic() < end:
        for what, path in asked.items():
            start = time.perf_counter()
            client.answer("GET", path(turn))
            times[what].append((time.perf_counter() - start) * 1000)
        turn += 1
    return times


if __name__ == "__main__":
    main()
