"""Measures how long answers of tracing take: every fault of a situation, and each answer from what is said first on."""

import random
import statistics
import time
from functools import partial

import numpy as np

from bench.planning import laid_job
from bench.timing import median_ms
from bench.tracing import showing
from core.tests.support.demo import demo
from percorso.faults.library import library
from percorso.faults.model import Fault
from percorso.tracing.batch import Batch
from percorso.tracing.trace import Tracer
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import State
from percorso.verification.bench.virtual_bench import measure
from percorso.verification.measured.measurements import Measurement, Situation

STAGE: Stage = "planned"
STATES: tuple[State, ...] = ("on", "idle")
POINTS = 144  # at least, of a vehicle that the starters lay
TURNS = 3
TRACES = 8  # each of a vehicle of which nothing was computed yet
MOST_TESTS = 20


def main() -> None:
    """Print every figure."""
    for name, whole in (("van", demo("market-van")), ("laid", laid_job(lambda each: len(each.points) >= POINTS))):
        vehicle = vehicle_at(whole, STAGE)
        faults: list[Fault | None] = [None, *(fault for way in library(vehicle) for fault in way.faults)]
        print(f"{name}: {len(faults)} faults of {len(vehicle.points)} points")
        for state in STATES:
            took = median_ms(TURNS, partial(_every, vehicle, state, faults))
            print(f"  each of them, {state}: {took:.0f} ms (aim: 60 for 150 points)")
        _answers(whole)


def _every(vehicle: Vehicle, state: State, faults: list[Fault | None]) -> None:
    Batch(vehicle, Situation(stage=STAGE, state=state), faults).solve(np.arange(len(faults)))


def _answers(whole: Vehicle) -> None:
    """Traces as people make them: while they measure, what comes next is computed."""
    chance = random.Random(1)
    shown = showing(whole, vehicle_at(whole, STAGE), STAGE, chance)
    opening, cold, said, every = list[float](), list[float](), list[float](), list[float]()
    for _ in range(TRACES):
        hidden = next(shown)
        known = [chance.choice(hidden.differ)]
        start = time.perf_counter()
        Tracer(whole, STAGE).trace(known)
        cold.append((time.perf_counter() - start) * 1000)
        tracer = Tracer(whole, STAGE)
        opening.append(_answer_ms(tracer, []))
        took = [_answer_ms(tracer, known)]
        said.append(took[0])
        while (found := tracer.trace(known)).next and len(known) < MOST_TESTS:
            [one] = measure(hidden.metal, [found.next[0].measurement], [hidden.fault], noise=chance.randrange(10**6))
            if one.value is None and one.outcome is None:
                break
            known.append(one)
            took.append(_answer_ms(tracer, known))
        every += took
    every.sort()
    print(
        f"  first answer, nothing known: {_mid(opening)} ms; something said and nothing computed yet: {_mid(cold)} ms"
    )
    print(f"  something said: {_mid(said)} ms; every answer from there on: {_mid(every)} ms, ", end="")
    print(f"p95 {every[int(0.95 * len(every))]:.0f} ms (aims: 250 for the van, p95 500 for 150 points)")


def _answer_ms(tracer: Tracer, known: list[Measurement]) -> float:
    """How long an answer takes; what comes after it is computed then."""
    start = time.perf_counter()
    found = tracer.trace(known)
    took = (time.perf_counter() - start) * 1000
    for _ in tracer.ahead(found):
        pass
    return took


def _mid(times: list[float]) -> str:
    return f"{statistics.median(times):.0f}"


if __name__ == "__main__":
    main()
