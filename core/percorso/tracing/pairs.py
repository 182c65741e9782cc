"""Two faults at once, where no single one explains what was read: the best singles, each with every other."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array
from percorso.faults.library import Way
from percorso.faults.model import Fault
from percorso.tracing.suspects import Posterior

LOST = 0.5  # probability of something not described, from which two are looked for
UNEXPLAINED = 0.05  # of what the best fault gives a reading: with less it takes a misreading to explain it
EXPLAINS = 0.1  # of what the best fault gives a reading: with more it is explained
FIRSTS = 8  # singles that are tried as one of the two
PAIR_SHARE = 0.05  # of all jobs: two things are bad at once, from memory
SHOWN = 0.01  # a pair below is not shown


@dataclass(frozen=True)
class Pair:
    """Two faults that explain what was read together, and how probable that is.

    ``first`` is the place among all faults of the one beside which the other was looked for.
    """

    parts: tuple[str, str]
    faults: tuple[str, str]
    probability: float
    first: int


def is_lost(found: Posterior) -> bool:
    """Whether no single fault explains every reading."""
    if not len(found.share):
        return False
    best = int(np.argmax(found.probability))
    return found.not_described >= LOST or bool((found.share[:, best] < UNEXPLAINED).any())


def pairs_of(
    found: Posterior, faults: Sequence[Fault | None], with_first: Callable[[int], Posterior]
) -> tuple[Pair, ...]:
    """The most probable pairs. ``with_first`` is what the readings say of a vehicle that has one fault already."""
    together: dict[frozenset[tuple[str, str]], tuple[float, int]] = {}
    for first in _firsts(found):
        fault = faults[first]
        if fault is None:
            continue
        second = with_first(first)
        log = math.log(PAIR_SHARE * max(float(found.hypotheses.prior[first]), 1e-300)) + second.log_weight
        for number, way in enumerate(second.hypotheses.ways):
            both = frozenset([(fault.part, fault.fault), (way.part, way.fault)])
            here = _log_sum(log[second.hypotheses.way == number])
            together[both] = max(together.get(both, (-math.inf, first)), (here, first))
    alone = [_log_sum(found.log_weight), found.log_left]
    whole = _log_sum(np.array([*alone, *(log for log, _ in together.values())]))
    shown = [_pair(both, math.exp(log - whole), first) for both, (log, first) in together.items()]
    return tuple(sorted((each for each in shown if each.probability >= SHOWN), key=lambda each: -each.probability))


def _firsts(found: Posterior) -> list[int]:
    """The faults that explain all readings but one best, one of each way."""
    logs = np.log(np.maximum(found.share, 1e-300))
    all_but_one = logs.sum(axis=0) - logs.min(axis=0) + np.log(np.maximum(found.hypotheses.prior, 1e-300))
    best: dict[int, int] = {}
    for place in np.argsort(all_but_one)[::-1].tolist():
        way = int(found.hypotheses.way[place])
        if way >= 0 and not found.hypotheses.ways[way].comes_and_goes:
            best.setdefault(way, place)
        if len(best) == FIRSTS:
            break
    return list(best.values())


def _pair(both: frozenset[tuple[str, str]], probability: float, first: int) -> Pair:
    (part, fault), (other_part, other_fault) = sorted(both)
    return Pair((part, other_part), (fault, other_fault), probability, first)


def _log_sum(logs: Array) -> float:
    top = float(np.max(logs, initial=-math.inf))
    return top if math.isinf(top) else top + math.log(float(np.exp(logs - top).sum()))


def seconds(found: Posterior, first: int) -> tuple[Way, ...]:
    """The ways of other parts that explain something the first does not."""
    hypotheses = found.hypotheses
    part = hypotheses.ways[int(hypotheses.way[first])].part
    unexplained = found.share[:, first] < UNEXPLAINED
    helps = (found.share[unexplained] > EXPLAINS).any(axis=0)
    ways = {int(way) for way in hypotheses.way[helps].tolist() if way >= 0}
    return tuple(
        way
        for place, way in enumerate(hypotheses.ways)
        if place in ways and part not in (way.part, way.other) and not way.comes_and_goes
    )
