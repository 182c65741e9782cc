"""Two faults at once, where no single one explains what was read: the best singles, each with every other."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from percorso.arrays import Array
from percorso.faults.library import OUTSIDE, FaultMode
from percorso.faults.model import Fault
from percorso.tracing.suspects import UNEXPLAINED, Posterior

LOST = 0.5  # probability of something not described, from which two are looked for
EXPLAINS = 0.1  # of what the best fault gives a reading: with more it is explained
FIRSTS = 10  # singles that are tried as one of the two
OF_A_PART = 2  # and so many of one part
MOST_SECONDS = 60  # fault modes that are looked for beside one
PAIR_SHARE = 0.05  # of all jobs: two things are bad at once, from memory
SHOWN = 0.01  # a pair below is not shown
LEAST = 1e-300  # of which there still is a logarithm


@dataclass(frozen=True)
class Pair:
    """Two faults that explain what was read together, and how probable that is."""

    parts: tuple[str, str]
    faults: tuple[str, str]
    probability: float


@dataclass(frozen=True)
class SecondFault:
    """What the readings say of a second fault where there is a first, whose place among all is ``first``.

    ``log_weight``: of both together, shape (hypotheses of the second,), as that of the single ones.
    """

    first: int
    fault: Fault
    found: Posterior
    log_weight: Array


def is_lost(found: Posterior) -> bool:
    """Whether no single fault explains every reading."""
    return len(found.share) > 0 and (found.not_described >= LOST or bool(found.unexplained))


def second_faults_of(
    found: Posterior, faults: Sequence[Fault | None], with_first: Callable[[int], Posterior]
) -> list[SecondFault]:
    """The likeliest of two, each with every other. ``with_first``: what the readings say of a vehicle that has one
    fault already.
    """
    return [
        second_fault_of(found, first, fault, with_first(first))
        for first in _firsts(found)
        if (fault := faults[first]) is not None
    ]


def second_fault_of(found: Posterior, first: int, fault: Fault, second: Posterior) -> SecondFault:
    """What the readings say of one fault and every other, by what they say where the first is there already."""
    log = math.log(PAIR_SHARE * max(float(found.hypotheses.prior[first]), LEAST)) + second.log_weight
    return SecondFault(first, fault, second, log)


def likely_of(second_faults: Sequence[SecondFault], found: Posterior) -> list[SecondFault]:
    """Those that are probable enough, beside all that is alone, to choose a test by."""
    logs = [log_sum(each.log_weight) for each in second_faults]
    whole = log_sum(np.array([*logs, log_sum(found.log_weight), found.log_left]))
    return [each for each, log in zip(second_faults, logs, strict=True) if log - whole >= math.log(SHOWN)]


def pairs_of(found: Posterior, second_faults: Sequence[SecondFault]) -> tuple[Pair, ...]:
    """The most probable pairs, beside all that is alone."""
    together: dict[frozenset[tuple[str, str]], float] = {}
    for each in second_faults:
        hypotheses = each.found.hypotheses
        for number, mode in enumerate(hypotheses.modes):
            both = frozenset([(each.fault.part, each.fault.fault), (mode.part, mode.fault)])
            here = log_sum(each.log_weight[hypotheses.mode == number])
            together[both] = max(together.get(both, -math.inf), here)
    alone = [log_sum(found.log_weight), found.log_left]
    whole = log_sum(np.array([*alone, *together.values()]))
    shown = [_pair(both, math.exp(log - whole)) for both, log in together.items()]
    return tuple(sorted((each for each in shown if each.probability >= SHOWN), key=_first))


def _first(pair: Pair) -> tuple[float, tuple[str, ...], tuple[str, ...]]:
    """The likeliest comes first, of those as likely the one whose parts do."""
    return -round(pair.probability, 6), pair.parts, pair.faults


def _firsts(found: Posterior) -> list[int]:
    """The faults that explain most of the readings, however badly they fail at the others; one of each mode."""
    best: dict[int, int] = {}
    of_part: dict[str, int] = {}
    for place in _best_first(found, found.share):
        number = int(found.hypotheses.mode[place])
        if number < 0 or number in best or found.hypotheses.modes[number].unit == OUTSIDE:
            continue
        mode = found.hypotheses.modes[number]
        if not mode.comes_and_goes and of_part.get(mode.part, 0) < OF_A_PART:
            best[number] = place
            of_part[mode.part] = of_part.get(mode.part, 0) + 1
        if len(best) == FIRSTS:
            break
    return list(best.values())


def _pair(both: frozenset[tuple[str, str]], probability: float) -> Pair:
    (part, fault), (other_part, other_fault) = sorted(both)
    return Pair((part, other_part), (fault, other_fault), probability)


def log_sum(logs: Array) -> float:
    """The logarithm of the sum of what some logarithms are of."""
    top = float(np.max(logs, initial=-math.inf))
    return top if math.isinf(top) else top + math.log(float(np.exp(logs - top).sum()))


def seconds(found: Posterior, first: int) -> tuple[FaultMode, ...]:
    """The fault modes of other parts that explain most of what the first does not."""
    hypotheses = found.hypotheses
    one = hypotheses.modes[int(hypotheses.mode[first])]
    unexplained = found.share[found.share[:, first] < UNEXPLAINED]
    possible = (hypotheses.mode >= 0) & (hypotheses.prior > 0) & ~hypotheses.comes_and_goes
    helps = possible & (unexplained > EXPLAINS).any(axis=0)
    best: dict[int, None] = {}
    for place in _best_first(found, unexplained):
        mode = hypotheses.modes[int(hypotheses.mode[place])] if helps[place] else None
        if mode is not None and mode.unit not in (one.unit, OUTSIDE) and one.part != mode.other:
            best.setdefault(int(hypotheses.mode[place]))
        if len(best) == MOST_SECONDS:
            break
    return tuple(hypotheses.modes[number] for number in sorted(best))


def _best_first(found: Posterior, share: Array) -> list[int]:
    """The places of all hypotheses, that which explains most of some readings first, however badly it fails at others;
    in whatever order they were read.
    """
    explained = np.log(np.maximum(share, UNEXPLAINED)).sum(axis=0)
    scores = explained + np.log(np.maximum(found.hypotheses.prior, LEAST))
    return [int(each) for each in np.argsort(-np.round(scores, 9), kind="stable")]
