"""What each reading says of the likeliest part: for it or against it, and how far off what would be read with it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from percorso.tracing.likelihood import ComplaintEvidence, Likelihood, Reading, predicted_at
from percorso.tracing.suspects import Posterior
from percorso.verification.measured.instruments import UNITS

EvidenceSide = Literal["for", "against", "neither"]
IN_THOUSANDTHS = 0.1  # V, A or Ω: less is said in mV, mA or mΩ
FITS_WITHIN = 2.0  # standard deviations: what is off by less fits
SPEAKS_TIMES = 2.0  # as likely with it as with everything else, or half as likely: a reading speaks for or against it


@dataclass(frozen=True)
class Speaks:
    """What a reading says of a part, by its place; the value or word that comes with the part as bad as it most likely
    is, and on sound metal, None where nothing can be told; ``off`` is what was read less that, in ``unit``, and
    ``deviations`` the same in standard deviations. Of what comes and goes it is as if it was gone where that fits.
    """

    reading: int
    side: EvidenceSide
    with_it: float | str | None = None
    sound: float | str | None = None
    off: float | None = None
    deviations: float | None = None
    unit: str = ""


def speaks_of(found: Posterior, unit: str, known: Sequence[Likelihood], start: int) -> tuple[Speaks, ...]:
    """What each of all that is known says of a unit; readings are counted from ``start``."""
    told = []
    for place, each in enumerate(known):
        times = found.times_as_likely(unit, place)
        side: EvidenceSide = "for" if times >= SPEAKS_TIMES else "against" if times <= 1 / SPEAKS_TIMES else "neither"
        told.append(_speaks(found, unit, each.of, start + place, side))
    return tuple(told)


def _speaks(found: Posterior, unit: str, known: Reading | ComplaintEvidence, place: int, side: EvidenceSide) -> Speaks:
    if isinstance(known, ComplaintEvidence) or known.measurement.quantity == "wiggle":
        return Speaks(place, side)
    predicted, best = known.predicted, found.likeliest_of(unit)
    solved, value = int(found.hypotheses.solved[best]), known.measurement.value
    if value is None:
        if found.hypotheses.comes_and_goes[best] and predicted.word[0] == known.measurement.outcome:
            solved = 0
        return Speaks(place, side, predicted.word[solved], predicted.word[0])
    sound, unit = float(predicted.value[0]), UNITS[known.measurement.quantity]
    if found.hypotheses.comes_and_goes[best] and abs(value - sound) < abs(value - float(predicted.value[solved])):
        solved = 0
    with_it, sigma = predicted_at(known, solved, found.steps_at(solved))
    told = None if math.isnan(sound) else sound
    if with_it is None:
        return Speaks(place, side, None, told, unit=unit)
    return Speaks(place, side, with_it, told, value - with_it, abs(value - with_it) / sigma, unit)


def weighs(part: str, speaks: Speaks) -> str:
    """What a reading says of a part, by its designation, in words: for it or against it, and how far off it is."""
    side = {"for": f"for {part}", "against": f"against {part}", "neither": f"neither for nor against {part}"}[
        speaks.side
    ]
    if speaks.with_it is None:
        return side
    with_it, sound = (_called(each, speaks.unit) for each in (speaks.with_it, speaks.sound))
    return f"{side}: {with_it} with it{_off(speaks)}, {sound} where nothing is bad"


def _off(speaks: Speaks) -> str:
    if speaks.off is None or speaks.deviations is None:
        return ""
    fits = "fits" if speaks.deviations <= FITS_WITHIN else f"{speaks.deviations:.0f} times what it may be off"
    return f" ({_called(abs(speaks.off), speaks.unit)} off, {fits})"


def _called(value: float | str | None, unit: str) -> str:
    if value is None:
        return "nothing known"
    if isinstance(value, str):
        return value
    small = abs(value) < IN_THOUSANDTHS
    return f"{1000 * value:.0f} m{unit}" if small else f"{value:.3g} {unit}"
