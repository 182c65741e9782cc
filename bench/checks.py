"""Measures what the design promises about tests: the list with what one should read, judging, the log, the meter."""

import statistics
import time
from collections.abc import Callable
from functools import partial
from typing import Any

from bench.timing import median_ms
from core.tests.support.demo import DEMO, demo
from percorso.files.reading import read_job_file
from percorso.house_rules import HouseRules
from percorso.study import Study
from percorso.vehicle.model import Vehicle
from percorso.verification.judging.logged import Logged

TURNS, CALLS = 5, 60
Call = Callable[..., Any]


def main() -> None:
    """Print the figures of the core alone."""
    van = demo("market-van")
    study = listed(van)
    ours = median_ms(TURNS, lambda: listed(van))
    count, asked = len(van.segments), len(study.checks("planned"))
    print(f"{asked} tests of {count} segments with what one should read: {ours:.0f} ms (aim: 400 for 60)")
    one = read_job_file((DEMO / "market-van.json").read_text()).readings[-1]
    print(f"one measurement judged, known vehicle: {median_ms(20, lambda: study.judge.judged(Logged(one))):.1f} ms")


def listed(vehicle: Vehicle) -> Study:
    """A vehicle studied from nothing, with its tests and what one should read of each."""
    study = Study(vehicle, HouseRules())
    study.judge.expected([each.measurement for each in study.checks("planned")])
    return study


def over_http(call: Call, answer: Call) -> None:
    """Print the figures of a running server: a measurement logged, and a thousand listed until all has arrived."""
    job = next(each["id"] for each in call("GET", "/jobs") if "van" in each["vehicle"].lower())
    test = next(each for each in call("GET", f"/jobs/{job}/tests")["tests"] if each["title"].endswith("supply drop"))
    path = f"/jobs/{job}/readings"
    body = {"measurement": test["measurement"] | {"value": 0.4}, "circuit_id": test["circuit_id"]}
    logging = [_timed(lambda: call("POST", path, body)) for _ in range(1000)]
    print(f"one measurement logged and judged: p50 {statistics.median(logging):.1f} ms (aim: 30)")
    listing = sorted(_timed(lambda: answer("GET", path)) for _ in range(CALLS))
    p95 = listing[int(0.95 * CALLS)]
    count, p50 = len(call("GET", path)), statistics.median(listing)
    print(f"{count} measurements listed: p50 {p50:.0f}, p95 {p95:.0f} ms (aim: 100)")
    names = [each["name"] for each in call("GET", "/instruments")]
    moved = [_timed(partial(_read, call, job, names[0], each)) for each in _places(call, job)]
    median, worst = statistics.median(moved), max(moved)
    print(f"meter after its probes are moved: median {median:.0f}, worst {worst:.0f} ms (aim: 200)")


def _places(call: Call, job: str) -> list[Any]:
    tests = call("GET", f"/jobs/{job}/tests")["tests"]
    return [each["measurement"] for each in tests if each["measurement"]["quantity"] == "voltage"][:30]


def _read(call: Call, job: str, name: str, measurement: Any) -> None:
    call("POST", f"/jobs/{job}/instruments/read", {"name": name, "measurement": measurement})


def _timed(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return (time.perf_counter() - start) * 1000
