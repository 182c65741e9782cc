"""Measures how a running Percorso answers, alone and eight at once: ``python -m bench.load``.

Each client is a process and a person of their own in the demo's shop, and asks the same things in turn.
"""

import os
import statistics
import time
from collections.abc import Callable
from multiprocessing import get_context
from pathlib import Path
from typing import Any
from uuid import uuid4

from ops.__main__ import PORT, STATE
from ops.application import Application
from ops.trials.client import Client

SECONDS = 60.0
CLIENTS = (1, 8)
SEARCHES = ("pump", "w1+heater", "corroded+lorry", "blower+99", "nothing+of+it", "tractor+cold+box")
OWN = "Own van of"
PASSWORD = "eight at once"
ADD_PEOPLE = f"""
from percorso_server.workshop.models import Person
shop = Person.objects.get(username="valbruna").shop
for number in range({max(CLIENTS)}):
    if not Person.objects.filter(username=f"bench-{{number}}").exists():
        Person.objects.create_user(f"bench-{{number}}", password="{PASSWORD}", shop=shop)
"""
Asked = tuple[str, str, Any]  # method, path, body


def main(application: Application) -> None:
    """Print the median and the 95th percentile of each thing asked, in ms."""
    application.manage("shell", "--verbosity=0", "-c", ADD_PEOPLE)
    for clients in CLIENTS:
        with get_context("fork").Pool(clients) as pool:
            times = pool.starmap(_ask, [(application.state, application.port, number) for number in range(clients)])
        for what in times[0]:
            taken = sorted(each for one in times for each in one[what])
            p95 = taken[int(0.95 * len(taken))]
            median = statistics.median(taken)
            print(f"{what}, {clients} at once, {len(taken)} times: median {median:.0f} ms, p95 {p95:.0f} ms")


def _ask(state: Path, port: int, number: int) -> dict[str, list[float]]:
    """What one asks in turn; each works on a van of their own."""
    client = Client(Application(state, port, demo=True), {"username": f"bench-{number}", "password": PASSWORD})
    jobs = [each for each in client.call("GET", "/jobs") if not each["name"].startswith(OWN)]
    van = _own_van(client)
    circuits = [each["circuit"]["id"] for each in client.call("GET", f"/jobs/{van}")["lines"]]
    segments = client.call("GET", f"/circuits/{circuits[0]}")["segments"]
    wire = next(each["id"] for each in segments if each["designation"].startswith("W"))

    def changed(turn: int) -> dict[str, Any]:
        return {"do": "change segment", "segment_id": wire, "change": {"length_m": 3 + (turn % 1000) / 1000}}

    asked: dict[str, Callable[[int], Asked]] = {
        "list": lambda turn: ("GET", f"/jobs?page={1 + (turn + number) % 20}", None),
        "search": lambda turn: ("GET", f"/jobs?search={SEARCHES[(turn + number) % len(SEARCHES)]}", None),
        "board of another job": lambda turn: ("GET", f"/jobs/{jobs[(turn + 7 * number) % len(jobs)]['id']}", None),
        "what-if": lambda turn: ("POST", f"/circuits/{circuits[0]}/what-if", {"edits": [changed(2 * turn)]}),
        "save": lambda turn: ("POST", f"/jobs/{van}/edits", {"edits": [changed(2 * turn + 1)]}),
        "board of the van": lambda _: ("GET", f"/jobs/{van}", None),
        "circuit": lambda turn: ("GET", f"/circuits/{circuits[(turn + number) % len(circuits)]}", None),
        "tests": lambda _: ("GET", f"/jobs/{van}/tests", None),
        "trace": lambda _: ("POST", f"/jobs/{van}/trace", {"said": [{"symptom": "cranks slowly"}]}),
    }
    times: dict[str, list[float]] = {what: [] for what in asked}
    end, turn = time.monotonic() + SECONDS, 0
    while time.monotonic() < end:
        for what, ask in asked.items():
            start = time.perf_counter()
            client.answer(*ask(turn))
            times[what].append((time.perf_counter() - start) * 1000)
        turn += 1
    _put_away(client, van)
    return times


def _own_van(client: Client) -> str:
    van = next(each["id"] for each in client.call("GET", "/jobs?search=market+van"))
    copy = {"id": str(uuid4()), "name": f"{OWN} {os.getpid()}", "vehicle": "Van"}
    return str(client.call("POST", f"/jobs/{van}/duplicate", copy)["id"])


def _put_away(client: Client, van: str) -> None:
    """Archive what one worked on, so that the list is as it was for the next measurement."""
    version = client.call("GET", f"/jobs/{van}")["job"]["version"]
    client.call("PATCH", f"/jobs/{van}", {"version": version, "archived": True})


if __name__ == "__main__":
    main(Application(STATE, PORT, demo=True))
