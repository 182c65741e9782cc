"""Measures whether tracing may be believed, in worlds that its library does not know (``bench.other_worlds``).

``python -m bench.reliability [LOOPS [SEED]]`` follows the best test each time from one thing that is seen, in the demo
jobs and thirty vehicles that the seed makes up, and prints how often what it said was right, by what it said.
"""

import math
import random
import statistics
import sys
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from importlib.metadata import version
from itertools import islice
from multiprocessing import current_process, get_context

from bench.other_worlds import CAUSES, HARDER, Injector, World, worlds
from core.tests.support.demo import demo
from core.tests.support.generated import generated_vehicle
from percorso.tracing.answer import Trace
from percorso.tracing.trace import Tracer
from percorso.vehicle.devices import Starter
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.states import State
from percorso.verification.bench.virtual_bench import measure
from percorso.verification.measured.measurements import Measurement, Situation

JOBS = ("market-van", "vineyard-tractor", "school-minibus")
MADE_UP = 30
LOOPS = 600
STAGE: Stage = "planned"
LOOKED_AT: tuple[State, ...] = ("on", "cranking", "idle")
MOST_TESTS = 15
MOST_WORLDS = 400  # of one vehicle: in some hardly anything works that could fail
CONFIDENT = 0.95
BINS = (0.0, 0.1, 0.2, 0.4, 0.6, 0.8, 0.9, 0.95, 0.99)


@dataclass
class Loop:
    """How one hidden fault was traced: what was named first with what probability, and every probability said.

    ``is_right``: what is bad was named first, of two faults both; ``is_wrong``: none of it was.
    """

    cause: str
    is_described: bool
    is_right: bool
    is_wrong: bool
    first: float
    not_described: float
    has_stopped: bool
    tests: int
    minutes: float
    said: list[tuple[float, bool]] = field(default_factory=list)


def main(loops: int = LOOPS, seed: str = version("percorso")) -> None:
    """Print the figures of so many loops; the seed changes with every release."""
    report(followed(loops, seed))


def followed(loops: int, seed: str, *, harder: bool = True) -> list[Loop]:
    """So many loops, as many on each vehicle; ``harder``: also what comes and goes, two at once, and lying readings."""
    names = [*JOBS, *(str(random.Random(f"{seed} {number}").randrange(10**6)) for number in range(MADE_UP))]
    each = max(1, loops // len(names))
    asked = [(name, seed, each, harder) for name in names]
    if current_process().daemon:  # one of several that test side by side already, and may have no children
        return [one for some in map(traced, asked) for one in some]
    with get_context("fork").Pool() as pool:
        return [one for some in pool.imap(traced, asked) for one in some]


def traced(asked: tuple[str, str, int, bool]) -> list[Loop]:
    """So many loops on one vehicle, by lot but always the same."""
    name, seed, count, harder = asked
    causes = {**CAUSES, **HARDER} if harder else CAUSES
    chance = random.Random(f"{seed} {name}")
    whole = generated_vehicle(int(name), chance.randint(60, 120)) if name.isdigit() else demo(name)
    tracer, found = Tracer(whole, STAGE), list[Loop]()
    for world, symptoms in complained_of(whole, tracer.vehicle, chance, causes, STAGE):
        noise = random.Random(
            f"{seed} {name} {len(found)}"
        )  # of its own: however it is traced, the next world is the same
        found.append(_follow(tracer, world, symptoms, noise))
        if len(found) == count:
            break
    return found


def complained_of(
    whole: Vehicle, vehicle: Vehicle, chance: random.Random, causes: Mapping[str, Injector], stage: Stage
) -> Iterator[tuple[World, list[Measurement]]]:
    """Worlds in which somebody would complain, and of what: it does nothing, or not enough, where it did before; of two
    faults something that each alone does.
    """
    looks = [
        Measurement(quantity="seen", device=each.id, situation=Situation(stage=stage, state=state))
        for each in vehicle.devices.values()
        if isinstance(each.spec, Load | Starter)
        for state in LOOKED_AT
    ]
    for world in islice(worlds(whole, chance, causes), MOST_WORLDS):
        assert world.sound is not None
        differ = _differing(world.sound, world.metal, looks)
        shown = [_differing(world.sound, each.metal, looks).keys() & differ.keys() for each in world.alone]
        of_one = [set(each).difference(*(one for one in shown if one is not each)) for each in shown]
        if all(of_one) and differ:
            symptoms = [differ[chance.choice(sorted(each))] for each in (of_one or [set(differ)])]
            for each in symptoms:
                world.read(each, 0)  # and what blows by it has blown
            yield world, symptoms


def _differing(sound: Vehicle, metal: Vehicle, looks: list[Measurement]) -> dict[int, Measurement]:
    """What does nothing, or not enough, where it did before, by its place among some looks."""
    pairs = zip(measure(metal, looks), measure(sound, looks), strict=True)
    differ = enumerate((one, was.outcome) for one, was in pairs)
    return {place: one for place, (one, was) in differ if one.outcome != was and was == "works" and one.outcome}


def _follow(tracer: Tracer, world: World, symptoms: list[Measurement], chance: random.Random) -> Loop:
    known, minutes, said, right = [*symptoms], 0.0, list[tuple[float, bool]](), world.right | world.near
    while True:
        found = tracer.trace(known)
        parts = _parts(found)
        said += [(probability, bool(of & right)) for probability, of in parts]
        if found.stop or not found.next or len(known) > MOST_TESTS:
            break
        one = world.read(found.next[0].measurement, chance.randrange(10**6))
        if one.value is None and one.outcome is None:
            break
        minutes += found.next[0].minutes
        known.append(one)
    first, of = parts[0] if parts else (0.0, frozenset[str]())
    is_right = bool(of & right) or (not world.right and found.not_described > first)
    two = bool(found.pairs) and all(each.right.intersection(found.pairs[0].parts) for each in world.alone)
    return Loop(
        world.cause,
        bool(world.right),
        two if world.alone else is_right,
        not is_right,
        first,
        found.not_described,
        found.stop is not None,
        len(known) - len(symptoms),
        minutes,
        said,
    )


def _parts(found: Trace) -> list[tuple[float, frozenset[str]]]:
    """What is suspected, the likeliest first: how probable, and the parts that are renewed together."""
    units: dict[str, set[str]] = {}
    for each in found.suspects:
        units.setdefault(each.unit, set()).add(each.part)
    return [(probability, frozenset(units[unit])) for unit, probability in found.of_units().items()]


def report(found: list[Loop]) -> None:
    """Print what came of it."""
    harder = [each for each in found if each.cause in HARDER]
    single = [each for each in found if each.is_described and each not in harder]
    outside = [each for each in found if not each.is_described]
    for title, loops in (("faults of one part", single), ("outside the description", outside), ("harder", harder)):
        if loops:
            wrong = [each for each in loops if each.first >= CONFIDENT and each.is_wrong]
            print(f"{title}: {len(loops)} loops, right first {_share(loops)}, ", end="")
            print(f"median {statistics.median(each.tests for each in loops):.0f} tests, ", end="")
            print(f"{statistics.median(each.minutes for each in loops):.1f} min; ", end="")
            print(f"{len(wrong)} wrong with {CONFIDENT:.0%} and more ({len(wrong) / len(loops):.1%})")
    for cause in sorted({each.cause for each in found}):
        loops = [each for each in found if each.cause == cause]
        confident = sum(each.first >= CONFIDENT and each.is_wrong for each in loops)
        unknown = statistics.mean(each.not_described for each in loops)
        print(f"  {cause:13} {len(loops):3}: right {_share(loops)}, confidently wrong {confident}, ", end="")
        print(f"stopped {sum(each.has_stopped for each in loops)}, ", end="")
        print(f"median {statistics.median(each.tests for each in loops):.0f} tests, ", end="")
        print(f"not as described {unknown:.0%} in the mean")
    for title, loops in (("faults of one part", single), ("those and outside the description", [*single, *outside])):
        _report_said(title, [each for loop in loops for each in loop.said])
    lost = statistics.mean([-math.log(max(_of_truth(each), 1e-6)) for each in single] or [0.0])
    print(f"log loss of the last answer {lost:.2f}")


def _report_said(title: str, said: list[tuple[float, bool]]) -> None:
    """Print how often what was said was right, by how probable it was said to be."""
    if not said:
        return
    brier = statistics.mean((probability - right) ** 2 for probability, right in said)
    print(f"{title}: Brier score {brier:.3f}")
    for low, high in zip(BINS, (*BINS[1:], 1.0 + 1e-9), strict=True):
        inside = [each for each in said if low <= each[0] < high]
        if inside:
            mean, right = (statistics.mean(each[place] for each in inside) for place in (0, 1))
            print(f"said {low:4.0%} to {min(high, 1):4.0%}, {len(inside):5} times: {mean:.1%}, right {right:.1%}")


def _share(loops: list[Loop]) -> str:
    right = sum(each.is_right for each in loops)
    return f"{right} of {len(loops)} ({right / len(loops):.0%})"


def _of_truth(loop: Loop) -> float:
    """What the last answer gave the part that is bad."""
    return loop.first if loop.is_right else 1 - loop.first - loop.not_described


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else LOOPS, *sys.argv[2:3])
