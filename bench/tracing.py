"""Measures what the design promises about tracing: how often the right part is found, and whether it says so.

``python -m bench.tracing 100`` hides so many faults in each vehicle, draws them by their weights, and follows the
best test each time with noisy instruments, from one thing that is seen, each in metal that is not quite as described.
Beside it go half-splitting by the book and swapping parts, the likeliest first, or both; then the same with two wrong
readings in ten, and with two faults at once until both are mended.
"""

import random
import statistics
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from multiprocessing import get_context

from bench.bisection import Bisection
from bench.perturbed_vehicle import perturbed
from core.tests.support.demo import demo
from core.tests.support.generated import generated_vehicle
from percorso.faults.cures import cures_of
from percorso.faults.library import library, unit_called
from percorso.faults.model import Fault
from percorso.tracing.answer import Trace
from percorso.tracing.mending import Evidence, Mended
from percorso.tracing.trace import Tracer
from percorso.vehicle.model import STAGES, Stage, Vehicle
from percorso.vehicle.states import State
from percorso.verification.bench.virtual_bench import measure
from percorso.verification.measured.measurements import WORDS, Measurement, Situation

JOBS = ("market-van", "vineyard-tractor", "school-minibus")
MADE_UP = (3, 4, 5, 6)  # seeds of vehicles of 60 points, by which and by the jobs the doubts of tracing were chosen
HELD_OUT = tuple(range(11, 21))  # and of others, which nobody looked at before
LOOKED_AT: tuple[State, ...] = ("on", "cranking", "idle")
MOST_TESTS = 20
MOST_STEPS = 40  # of a whole repair
FEW = 5  # faults of each vehicle in a run of all figures
BINS = 10
WRONG = 0.2  # of readings, where people read wrongly


@dataclass
class Tally:
    """What came of all traces: parts said with a probability, and those that were right, by tenths of it."""

    right: int = 0
    to_the_part: int = 0
    tests: list[int] = field(default_factory=list)
    minutes: list[float] = field(default_factory=list)
    split_min: list[float] = field(default_factory=list)
    beside_split_min: list[float] = field(default_factory=list)
    book_min: list[float] = field(default_factory=list)
    swapped_min: list[float] = field(default_factory=list)
    steps_s: list[float] = field(default_factory=list)
    said: list[list[tuple[float, bool]]] = field(default_factory=lambda: [[] for _ in range(BINS)])
    misread: int = 0
    right_with_wrong: int = 0
    pairs: int = 0
    pairs_at_once: int = 0
    pairs_mended: int = 0

    def count(self, found: Trace, unit: str) -> None:
        """Count every part that is suspected in one answer."""
        for each, probability in found.of_units().items():
            self.said[min(int(probability * BINS), BINS - 1)].append((probability, each == unit))

    def add(self, other: "Tally") -> None:
        """Count what another tally has."""
        for name in ("right", "to_the_part", "misread", "right_with_wrong", "pairs", "pairs_at_once", "pairs_mended"):
            setattr(self, name, getattr(self, name) + getattr(other, name))
        for name in ("tests", "minutes", "split_min", "beside_split_min", "book_min", "swapped_min", "steps_s"):
            getattr(self, name).extend(getattr(other, name))
        for mine, theirs in zip(self.said, other.said, strict=True):
            mine.extend(theirs)


def main(count: int = FEW) -> None:
    """Print the figures; ``count`` faults are hidden in each vehicle at each stage."""
    jobs: list[tuple[str, Stage]] = [(name, stage) for name in JOBS for stage in STAGES]
    for title, vehicles in (
        ("demo jobs and vehicles known before", [*jobs, *((str(seed), "found") for seed in MADE_UP)]),
        ("vehicles not known before", [(str(seed), "found") for seed in HELD_OUT]),
    ):
        print(f"--- {title}")
        whole = Tally()
        with get_context("fork").Pool() as pool:
            for tally in pool.imap_unordered(hidden_in, [(*each, count) for each in vehicles], chunksize=1):
                whole.add(tally)
        report(whole)


def report(tally: Tally) -> None:
    """Print what came of it."""
    whole = len(tally.tests)
    print(f"hidden faults found: {tally.right} of {whole} ({tally.right / whole:.1%}; aim: 97 %)")
    print(f"of relays coil and contact told apart as well: {tally.to_the_part} ({tally.to_the_part / whole:.1%})")
    print(f"median tests {statistics.median(tally.tests):.0f} (aim: 5), minutes {statistics.median(tally.minutes):.1f}")
    _beside("half-splitting, where it ends at the right part", tally.split_min, tally.beside_split_min)
    _beside("half-splitting, and where it ends elsewhere swapping parts from there on", tally.book_min, tally.minutes)
    _beside("swapping parts", tally.swapped_min, tally.minutes)
    if tally.misread:
        share = tally.right_with_wrong / tally.misread
        print(f"two readings of ten wrong, {tally.misread} times, still first: {share:.1%} (aim: 85 %)")
    if tally.pairs:
        print(f"two faults, both named at the first stop: {tally.pairs_at_once} of {tally.pairs}")
        print(f"two faults, both named until all is well again: {tally.pairs_mended} of {tally.pairs} (aim: 80 %)")
    steps = sorted(tally.steps_s)
    print(f"one more outcome: median {1000 * steps[len(steps) // 2]:.0f} ms (aim: 100)")
    for tenth, said in enumerate(tally.said):
        if said:
            mean, right = statistics.mean(each for each, _ in said), statistics.mean(right for _, right in said)
            print(f"said {tenth * 10:3d} to {tenth * 10 + 10} %, {len(said)} times: {mean:.1%}, right {right:.1%}")


def _beside(name: str, theirs: list[float], ours: list[float]) -> None:
    if theirs:
        mean, own = statistics.mean(theirs), statistics.mean(ours)
        print(f"{name}, {len(theirs)} times: {mean:.1f} min in the mean, tracing {own:.1f}: {1 - own / mean:.0%} fewer")


def hidden_in(asked: tuple[str, Stage, int]) -> Tally:
    """Hide faults in one vehicle at one stage, by lot but always the same."""
    name, stage, count = asked
    whole = generated_vehicle(int(name), 60) if name.isdigit() else demo(name)
    tracer, chance, tally = Tracer(whole, stage), random.Random(f"{name} {stage}"), Tally()
    shown = showing(whole, tracer.vehicle, stage, chance)
    for number in range(count):
        hidden = next(shown)
        symptom = chance.choice(hidden.differ)
        _follow(tracer, hidden, symptom, chance, tally)
        if number % 3 == 0:
            _misread(tracer, hidden, symptom, chance, tally)
    for _ in range(count // 10):
        _two_at_once(tracer, next(shown), next(shown), chance, tally)
    return tally


@dataclass(frozen=True)
class Hidden:
    """A fault in a vehicle whose metal is not quite as described, and what is seen of it there."""

    metal: Vehicle
    fault: Fault
    differ: list[Measurement]


def showing(whole: Vehicle, vehicle: Vehicle, stage: Stage, chance: random.Random) -> Iterator[Hidden]:
    """Faults of a vehicle at a stage, drawn by their weight, of which something is seen."""
    ways = library(vehicle)
    looks = [
        Measurement(quantity="seen", device=each, situation=Situation(stage=stage, state=state))
        for each in vehicle.devices
        for state in LOOKED_AT
    ]
    while True:
        metal = perturbed(whole, chance)
        [way] = chance.choices(ways, [each.weight for each in ways])
        fault = chance.choice(way.faults)
        differ = [
            after
            for before, after in zip(measure(metal, looks), measure(metal, looks, [fault]), strict=True)
            if after.outcome and before.outcome != after.outcome
        ]
        if differ:
            yield Hidden(metal, fault, differ)


def _follow(tracer: Tracer, hidden: Hidden, symptom: Measurement, chance: random.Random, tally: Tally) -> None:
    """Trace one fault from one symptom, the best test each time; and the other ways to find it."""
    fault = hidden.fault

    def read(asked: Measurement) -> Measurement:
        return measure(hidden.metal, [asked], [fault], noise=chance.randrange(10**6))[0]

    start, unit = tracer.trace([symptom], tests=False), unit_called(tracer.vehicle, fault.part)
    found, tests, spent = _traced(tracer, [symptom], read, lambda each: tally.count(each, unit), tally.steps_s)
    tally.right += _first(found) == unit
    tally.to_the_part += [each.part for each in found.suspects[:1]] == [fault.part]
    tally.tests.append(tests)
    tally.minutes.append(spent)
    units = [*start.of_units()]
    tally.swapped_min.append(_swapped_min(tracer.vehicle, start, units, unit))
    halving = Bisection(tracer.vehicle, symptom.situation, read)
    end = halving.ends_at(symptom.device or "")
    if end == fault.part:
        tally.split_min.append(halving.minutes)
        tally.beside_split_min.append(spent)
        tally.book_min.append(halving.minutes)
    else:
        wrong = unit_called(tracer.vehicle, end)
        units.sort(key=lambda each: each != wrong)
        tally.book_min.append(halving.minutes + _swapped_min(tracer.vehicle, start, units, unit))


def _misread(tracer: Tracer, hidden: Hidden, symptom: Measurement, chance: random.Random, tally: Tally) -> None:
    """Trace one fault with a fifth of the readings wrong."""

    def read(asked: Measurement) -> Measurement:
        [right] = measure(hidden.metal, [asked], [hidden.fault], noise=chance.randrange(10**6))
        return _wrong(right, chance) if chance.random() < WRONG else right

    found, _, _ = _traced(tracer, [symptom], read, lambda _: None, [])
    tally.misread += 1
    tally.right_with_wrong += _first(found) == unit_called(tracer.vehicle, hidden.fault.part)


def _traced(
    tracer: Tracer,
    readings: list[Measurement],
    read: Callable[[Measurement], Measurement],
    count: Callable[[Trace], None],
    steps_s: list[float],
) -> tuple[Trace, int, float]:
    """Follow the best test until it is enough: what is found, after how many tests and minutes."""
    known, spent = list(readings), 0.0
    while True:
        start = time.perf_counter()
        found = tracer.trace(known)
        steps_s.append(time.perf_counter() - start)
        count(found)
        if found.stop or not found.next or len(known) > MOST_TESTS:
            break
        one = read(found.next[0].measurement)
        if one.value is None and one.outcome is None:
            break
        spent += found.next[0].minutes
        known.append(one)
    return found, len(known) - len(readings), spent


def _first(found: Trace) -> str:
    return next(iter(found.of_units()), "")


def _wrong(right: Measurement, chance: random.Random) -> Measurement:
    """A reading as somebody has it who slipped off, or looked at something else."""
    if right.value is None:
        if right.outcome is None:
            return right
        return right.model_copy(update={"outcome": chance.choice(WORDS[right.quantity])})
    return right.model_copy(update={"value": round(chance.uniform(0, 14.0), 2)})


def _swapped_min(vehicle: Vehicle, start: Trace, units: list[str], unit: str) -> float:
    """Minutes until the right part has been swapped, in an order; what is not suspected takes none."""
    worst = {each.unit: each for each in reversed(start.suspects)}
    spent = 0.0
    for each in units:
        spent += cures_of(vehicle, worst[each].part, worst[each].fault)[0].work_min
        if each == unit:
            break
    return spent


def _two_at_once(tracer: Tracer, first: Hidden, second: Hidden, chance: random.Random, tally: Tally) -> None:
    """Trace two faults in one metal from one thing that is seen of each."""
    whole, faults = first.metal, [first.fault, second.fault]
    units = {unit_called(tracer.vehicle, each.part) for each in faults}
    if len(units) < 2:
        return
    symptoms = measure(whole, [chance.choice(each.differ) for each in (first, second)], faults)
    sound = measure(whole, symptoms)
    if any(each.outcome == one.outcome or not each.outcome for each, one in zip(symptoms, sound, strict=True)):
        return
    if any(measure(whole, symptoms, [fault]) == symptoms for fault in faults):
        return  # one of them explains all that is seen: the other shows once it is mended

    known: list[Evidence] = list({each.key: each for each in symptoms}.values())
    tally.pairs += 1
    named = _repaired(tracer, whole, faults, known, chance)
    tally.pairs_at_once += bool(named) and units <= named[0]
    tally.pairs_mended += units <= set().union(*named)


def _repaired(
    tracer: Tracer, whole: Vehicle, hidden: list[Fault], known: list[Evidence], chance: random.Random
) -> list[set[str]]:
    """Trace, prove, mend what is named and measure again, until all is well or a good part is named: what was named at
    each stop.
    """
    bad, named, vehicle = list(hidden), list[set[str]](), tracer.vehicle
    while bad and len(known) < MOST_STEPS:
        found = tracer.trace(known)
        stop = found.stop
        asked = found.next[0].measurement if found.next else None
        if stop and (stop.also or not stop.prove):
            said = sorted({stop.part, *([stop.also.part] if stop.also else [])})
            named.append({unit_called(vehicle, each) for each in said})
            if not named[-1] & {unit_called(vehicle, each.part) for each in bad}:
                break
            bad = [each for each in bad if unit_called(vehicle, each.part) not in named[-1]]
            known += map(Mended, said)
            continue
        if stop:
            asked = stop.prove
        elif found.again and named:
            again = known[found.again[0].reading]
            asked = again if isinstance(again, Measurement) else asked
        if asked is None:
            break
        [read] = measure(whole, [asked], bad, noise=chance.randrange(10**6))
        if read.value is None and read.outcome is None:
            break
        known.append(read)
    return named


if __name__ == "__main__":
    main(*map(int, sys.argv[1:2]))
