"""What is left to suspect once a part was mended: what was read before becomes what is thought beforehand."""

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np

from percorso.arrays import Mask
from percorso.tracing.complaints import Observation
from percorso.tracing.hypotheses import UNKNOWN_SHARE, Hypotheses
from percorso.tracing.pairs import LEAST, PAIR_SHARE, SecondFault, log_sum
from percorso.tracing.suspects import Posterior

TRIED = 2  # faults of the mended part, the likeliest first, beside each of which another is thought of


@dataclass(frozen=True)
class Mended:
    """A part that was mended, by its id or designation: what is read from then on is with it sound. Of a relay, its
    coil and its contacts are mended together.
    """

    part: str


Evidence = Observation | Mended  # in the order in which it came up


def faults_of(found: Posterior, parts: Collection[str]) -> list[int]:
    """The likeliest faults of some parts, by their places, as far as they are there at all times."""
    hypotheses = found.hypotheses
    here = _of(hypotheses, parts) & ~hypotheses.comes_and_goes
    places = np.flatnonzero(here)
    return [int(each) for each in places[np.argsort(-found.log_weight[places])][:TRIED]]


def afterwards(found: Posterior, parts: Collection[str], second_faults: Sequence[SecondFault]) -> Hypotheses:
    """How probable each fault is once some parts were mended, before anything is read again.

    ``found`` is what the readings before say of one fault, ``second_faults`` of those that explain more beside one of
    the mended parts. Either that was all; or they were good, and what was bad still is; or another is bad as well.
    """
    hypotheses = found.hypotheses
    own = _of(hypotheses, parts)
    its_log = log_sum(found.log_weight[own])
    shares = np.log(np.maximum(found.share, LEAST))
    against = np.minimum(shares - shares[:, :1], 0).sum(axis=0)  # beside the part it does no better than alone
    both = its_log + math.log(PAIR_SHARE) + np.log(np.maximum(hypotheses.prior, LEAST)) + against
    tried_log = log_sum(
        found.log_weight[[each.first for each in second_faults]]
    )  # they stand for all faults of the part
    places = {key: place for place, key in enumerate(hypotheses.keys)}
    exactly: dict[int, float] = {}
    for each in second_faults:
        for log, key in zip(each.log_weight.tolist(), each.found.hypotheses.keys, strict=True):
            place = places[key]
            exactly[place] = np.logaddexp(exactly.get(place, -np.inf), log + its_log - tried_log)
    both[list(exactly)] = list(exactly.values())
    log = np.where(own, -np.inf, np.logaddexp(found.log_weight, both))
    log[0] = np.logaddexp(found.log_weight[0], its_log)
    log_left = np.logaddexp(found.log_left, its_log + math.log(PAIR_SHARE * UNKNOWN_SHARE))
    whole = log_sum(np.append(log, log_left))
    return replace(hypotheses, prior=np.exp(log - whole), unknown=max(math.exp(log_left - whole), LEAST))


def _of(hypotheses: Hypotheses, parts: Collection[str]) -> Mask:
    return np.array([each in parts for each in hypotheses.named[0]])
