"""What each reading says of the likeliest part: for it or against it, and how far off what would be read with it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from percorso.tracing.likelihood import Likelihood, Reading, Told, predicted_at
from percorso.tracing.suspects import Posterior

Side = Literal["for", "against", "neither"]
SPEAKS_TIMES = 2.0  # as likely with it as with everything else, or half as likely: a reading speaks for or against it


@dataclass(frozen=True)
class Speaks:
    """What a reading says of a part, by its place; the value or word that comes with the part as bad as it most likely
    is, and on sound metal, None where nothing can be told; ``off`` is what was read less that, in its unit, and
    ``deviations`` the same in standard deviations.
    """

    reading: int
    side: Side
    with_it: float | str | None = None
    sound: float | str | None = None
    off: float | None = None
    deviations: float | None = None


def speaks_of(found: Posterior, unit: str, known: Sequence[Likelihood], start: int) -> tuple[Speaks, ...]:
    """What each of all that is known says of a unit; readings are counted from ``start``."""
    told = []
    for place, each in enumerate(known):
        times = found.times_as_likely(unit, place)
        side: Side = "for" if times >= SPEAKS_TIMES else "against" if times <= 1 / SPEAKS_TIMES else "neither"
        told.append(_speaks(found, unit, each.of, start + place, side))
    return tuple(told)


def _speaks(found: Posterior, unit: str, known: Reading | Told, place: int, side: Side) -> Speaks:
    if isinstance(known, Told) or known.measurement.quantity == "wiggle":
        return Speaks(place, side)
    predicted, best = known.predicted, found.likeliest_of(unit)
    solved = int(found.hypotheses.solved[best])
    if known.measurement.value is None:
        return Speaks(place, side, predicted.word[solved], predicted.word[0])
    with_it, sigma = predicted_at(found.hypotheses, known, solved, found.steps_at(solved))
    if with_it is None:
        return Speaks(place, side, None, _known(float(predicted.value[0])))
    off = known.measurement.value - with_it
    return Speaks(place, side, with_it, _known(float(predicted.value[0])), off, abs(off) / sigma)


def _known(value: float) -> float | None:
    return None if math.isnan(value) else value
