"""Measures what the design promises about tracing: speed, how often the right part is found, and whether it says so.

``python -m ops.bench_tracing 100`` hides so many faults in each vehicle, draws them by their weights, and follows the
best test each time with noisy instruments, from one thing that is seen.
"""

import random
import statistics
import sys
import time
from dataclasses import dataclass, field

from core.tests.support.demo import demo
from percorso.faults.library import Way, library
from percorso.faults.model import Fault
from percorso.tracing.batch import Batch
from percorso.tracing.trace import Trace, Tracer
from percorso.vehicle.model import STAGES, Stage, Vehicle
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import State
from percorso.verification.measurements import Measurement, Situation
from percorso.verification.measuring import measure

JOBS = ("market-van", "vineyard-tractor", "school-minibus")
LOOKED_AT: tuple[State, ...] = ("on", "cranking", "idle")
MOST_TESTS = 20
FEW = 5  # faults of each vehicle in a run of all figures
BINS = 10


@dataclass
class Tally:
    """What came of all traces: parts said with a probability, and those that were right, by tenths of it."""

    right: int = 0
    tests: list[int] = field(default_factory=list)
    minutes: list[float] = field(default_factory=list)
    steps_s: list[float] = field(default_factory=list)
    said: list[list[tuple[float, bool]]] = field(default_factory=lambda: [[] for _ in range(BINS)])

    def count(self, found: Trace, part: str) -> None:
        """Count every part that is suspected in one answer."""
        parts: dict[str, float] = {}
        for suspect in found.suspects:
            parts[suspect.part] = parts.get(suspect.part, 0.0) + suspect.probability
        for each, probability in parts.items():
            self.said[min(int(probability * BINS), BINS - 1)].append((probability, each == part))


def main(count: int = FEW) -> None:
    """Print the figures; ``count`` faults are hidden in each vehicle at each stage."""
    van = vehicle_at(demo("market-van"), "planned")
    faults: list[Fault | None] = [None, *(fault for way in library(van) for fault in way.faults)]
    start = time.perf_counter()
    Batch(van, Situation(state="on"), faults)
    took = (time.perf_counter() - start) * 1000
    print(f"{len(faults)} faults of {len(van.points)} points in one situation: {took:.0f} ms (aim: 60 for 150 points)")
    tally = Tally()
    for name in JOBS:
        for stage in STAGES:
            _trace_hidden(demo(name), stage, count, tally)
    _print(tally)


def _print(tally: Tally) -> None:
    whole = len(tally.tests)
    print(f"hidden faults found: {tally.right} of {whole} ({tally.right / whole:.1%}; aim: 97 %)")
    print(f"median tests {statistics.median(tally.tests):.0f} (aim: 5), minutes {statistics.median(tally.minutes):.1f}")
    steps = sorted(tally.steps_s)
    print(f"one more outcome: median {1000 * steps[len(steps) // 2]:.0f} ms (aim: 100)")
    for tenth, said in enumerate(tally.said):
        if said:
            mean, right = statistics.mean(each for each, _ in said), statistics.mean(right for _, right in said)
            print(f"said {tenth * 10:3d} to {tenth * 10 + 10} %, {len(said)} times: {mean:.1%}, right {right:.1%}")


def _trace_hidden(whole: Vehicle, stage: Stage, count: int, tally: Tally) -> None:
    tracer, chance = Tracer(whole, stage), random.Random(1)
    ways = library(tracer.vehicle)
    looks = [
        Measurement(quantity="seen", device=each, situation=Situation(stage=stage, state=state))
        for each in tracer.vehicle.devices
        for state in LOOKED_AT
    ]
    sound = measure(whole, looks)
    done = 0
    while done < count:
        fault = _drawn(ways, chance)
        differ = [
            after
            for before, after in zip(sound, measure(whole, looks, [fault]), strict=True)
            if after.outcome and before.outcome != after.outcome
        ]
        if differ:
            done += 1
            _follow(tracer, whole, fault, chance.choice(differ), chance, tally)


def _drawn(ways: tuple[Way, ...], chance: random.Random) -> Fault:
    [way] = chance.choices(ways, [each.weight for each in ways])
    return chance.choice(way.faults)


def _follow(
    tracer: Tracer, whole: Vehicle, fault: Fault, symptom: Measurement, chance: random.Random, tally: Tally
) -> None:
    """Trace one fault from one symptom, the best test each time."""
    readings, minutes = [symptom], 0.0
    for _ in range(MOST_TESTS):
        start = time.perf_counter()
        found = tracer.trace(readings)
        tally.steps_s.append(time.perf_counter() - start)
        tally.count(found, fault.part)
        if found.stop or not found.next:
            break
        [read] = measure(whole, [found.next[0].measurement], [fault], noise=chance.randrange(10**6))
        if read.value is None and read.outcome is None:
            break
        minutes += found.next[0].minutes
        readings.append(read)
    tally.right += bool(found.suspects) and found.suspects[0].part == fault.part
    tally.tests.append(len(readings) - 1)
    tally.minutes.append(minutes)


if __name__ == "__main__":
    main(*map(int, sys.argv[1:2]))
