"""Measures what Percorso stands, alone on a machine: ``python -m bench.endurance [ROUNDS [MINUTES]]``.

Everything is killed with signal 9 while somebody writes, so many times, and started again; then eight clients ask and
write for so many minutes while the memory of the server's processes is watched.
"""

import os
import signal
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from http import HTTPStatus
from http.client import HTTPException
from multiprocessing import get_context
from multiprocessing.pool import AsyncResult
from pathlib import Path
from uuid import uuid4

from ops.application import Application
from ops.processes.ports import free_port
from ops.processes.web_server import status
from ops.trials.client import Client
from ops.trials.started import end, said_until_served, start

ROUNDS, MINUTES = 100, 10.0
CLIENTS = 8
WRITES_SECONDS = 0.5  # in each round before everything is killed


def main(rounds: int, minutes: float) -> None:
    """Print both."""
    with tempfile.TemporaryDirectory(prefix="percorso-endurance-") as folder:
        application = Application(Path(folder), free_port(), demo=True)
        begun = start("demo", application.state, application.port)
        said_until_served(begun)
        try:
            begun = _rounds(application, begun, rounds)
            _soak(application, begun, minutes)
        finally:
            end(begun)


def _rounds(application: Application, begun: subprocess.Popen[str], rounds: int) -> subprocess.Popen[str]:
    client = Client(application)
    job = client.call("POST", "/jobs", {"name": "Killed", "vehicle": "Van", "id": str(uuid4())})["id"]
    acknowledged: list[str] = []
    outages: list[float] = []
    for number in range(rounds):
        writer = threading.Thread(target=_write, args=(client, job, acknowledged))
        writer.start()
        time.sleep(WRITES_SECONDS)
        killed = time.monotonic()
        for each in (begun.pid, *_children(begun.pid)):
            os.kill(each, signal.SIGKILL)
        begun.wait()
        writer.join()
        begun = start("start", application.state, application.port)
        while status(application.port) != HTTPStatus.OK:
            time.sleep(0.02)
        outages.append(time.monotonic() - killed)
        said_until_served(begun)
        if number % 10 == 9:
            print(f"{number + 1} rounds, {len(acknowledged)} writes acknowledged", flush=True)
    there = [each["name"] for each in client.call("GET", f"/jobs/{job}")["points"]]
    lost = len(set(acknowledged) - set(there))
    print(f"{rounds} times signal 9: {len(acknowledged)} writes acknowledged, {lost} lost, "
          f"{len(there) - len(set(there))} doubled; outage median {statistics.median(outages):.1f} s, "
          f"longest {max(outages):.1f} s")  # fmt: skip
    return begun


def _write(client: Client, job: str, acknowledged: list[str]) -> None:
    try:
        while True:
            name = f"Point {uuid4()}"
            client.call("POST", f"/jobs/{job}/edits", {"edits": [{"do": "add point", "name": name}]})
            acknowledged.append(name)
    except (OSError, HTTPException, ValueError):
        client.connection.close()  # it connects again, and is still signed in


def _children(pid: int) -> list[int]:
    found = subprocess.run(["pgrep", "-P", str(pid)], capture_output=True, text=True, check=False)
    return [int(each) for each in found.stdout.split()]


def _soak(application: Application, begun: subprocess.Popen[str], minutes: float) -> None:
    with get_context("fork").Pool(CLIENTS) as pool:
        asking: list[AsyncResult[int]] = [
            pool.apply_async(_ask, (application.state, application.port, number, 60 * minutes))
            for number in range(CLIENTS)
        ]
        for minute in range(round(minutes)):
            time.sleep(60)
            print(f"minute {minute + 1}: {', '.join(f'{each:.0f}' for each in _megabytes(begun.pid))} MB", flush=True)
        print(f"{sum(each.get() for each in asking)} requests in {minutes:g} minutes")


def _megabytes(pid: int) -> list[float]:
    """What each process of the server holds of memory."""
    found: list[float] = []
    for child in _children(pid):
        if "percorso_server.config.serve" in Path(f"/proc/{child}/cmdline").read_text():
            lines = Path(f"/proc/{child}/status").read_text().splitlines()
            found += [int(line.split()[1]) / 1024 for line in lines if line.startswith("VmRSS")]
    return found


def _ask(state: Path, port: int, number: int, seconds: float) -> int:
    """Every board, circuit, state and budget in turn, and now and then a write; how many requests."""
    client = Client(Application(state, port, demo=True))
    jobs = [each["id"] for each in client.call("GET", "/jobs")]
    count, until = 0, time.monotonic() + seconds
    while time.monotonic() < until:
        job = jobs[(count + number) % len(jobs)]
        lines = client.call("GET", f"/jobs/{job}")["lines"]
        for line in lines[:4]:
            client.answer("GET", f"/circuits/{line['circuit']['id']}")
        client.answer("GET", f"/jobs/{job}/readings")
        client.answer("POST", f"/jobs/{job}/edits", {"edits": [{"do": "add point", "name": f"Point {uuid4()}"}]})
        client.answer("POST", f"/jobs/{job}/undo", {})
        count += 4 + min(len(lines), 4)
    return count


if __name__ == "__main__":
    said = sys.argv[1:]
    main(int(said[0]) if said else ROUNDS, float(said[1]) if said[1:] else MINUTES)
