"""What tracing answers: suspects, what is acquitted, the next best tests, when it is enough, what is measured again."""

from dataclasses import dataclass

import numpy as np

from percorso.faults.beyond import point_of
from percorso.faults.library import OUTSIDE, FaultMode, Measure
from percorso.tracing.doubtful import Doubtful
from percorso.tracing.next_check import NextCheck
from percorso.tracing.pairs import EXPLAINS, Pair
from percorso.tracing.proof import Conclusion
from percorso.tracing.speaking import Speaks
from percorso.tracing.suspects import Posterior, posterior
from percorso.verification.judging.expected import Expected

SHOWN = 0.001  # a suspect below is not shown
ACQUITTED = 0.05  # of what it was before the readings, or less
OF_WHAT = {
    "low": "a full charge",
    "weak": "its resistance",
    "regulates wrongly": "the voltage it should hold",
    "gives too little": "its output",
    "needs too much to pull in": "the nominal voltage",
}  # that a severity in times is; of all others it is their current
IN_TIMES = 1.5  # from there on it is said in times, below in percent


@dataclass(frozen=True)
class Suspect:
    """One fault mode of a part, how probable that is, between what it lies how bad it is, by ``measure``, and the
    readings it explains, by their places. ``unit`` is what the part is renewed with.
    """

    part: str
    fault: str
    unit: str
    probability: float
    severity: tuple[float, float] | None
    measure: Measure
    explains: tuple[int, ...]
    other: str | None = None
    because: tuple[str, ...] = ()
    comes_and_goes: bool = False

    @property
    def how_bad(self) -> str:
        """Its severity in words; empty where it is bad or not."""
        if self.severity is None:
            return ""
        low, high = self.severity
        if self.measure == "ohm":
            return _from_to(_ohms(low), _ohms(high))
        of_what = OF_WHAT.get(self.fault, "its current")
        if low >= IN_TIMES:
            return f"{_from_to(f'{low:.2g}', f'{high:.2g}')} times {of_what}"
        return f"{_from_to(f'{100 * low:.0f}', f'{100 * high:.0f}')} % of {of_what}"


def _from_to(low: str, high: str) -> str:
    return f"about {low}" if low == high else f"{low} to {high}"


def _ohms(ohm: float) -> str:
    scale, unit = (1e3, "mΩ") if ohm < 1 else (1.0, "Ω") if ohm < 1000 else (1e-3, "kΩ")
    return f"{float(f'{ohm * scale:.2g}'):g} {unit}"


@dataclass(frozen=True)
class Acquitted:
    """A part that is not it, and the reading that says so most, by its place."""

    part: str
    by: int


@dataclass(frozen=True)
class Recheck:
    """A reading that was not as on sound metal, by its place, and what it must be once the fault is mended."""

    reading: int
    expected: Expected


@dataclass(frozen=True)
class Trace:
    """What readings say. ``not_described``: how probable something is that is not in the vehicle's description, and
    ``sound``: that nothing is bad at all; ``is_as_planned`` where sound metal explains every reading. ``again``: what
    is measured once more when it is mended. ``likely``: the part that is probable enough and was not looked at itself
    yet, or whose rival was not: the first test does that, and then comes the end. ``fits``: something explains what was
    read as well as one may expect. ``beyond``: what there most likely is that is not described, and where. ``speaks``:
    what each reading says of the likeliest part; ``doubtful``: what is not believed as it stands. ``log_evidence``: how
    well the vehicle as it is described explains all of it, whatever is bad (a logarithm).
    """

    suspects: tuple[Suspect, ...]
    acquitted: tuple[Acquitted, ...]
    next: tuple[NextCheck, ...]
    stop: Conclusion | None
    not_described: float
    sound: float
    pairs: tuple[Pair, ...] = ()
    is_as_planned: bool = False
    again: tuple[Recheck, ...] = ()
    likely: Conclusion | None = None
    fits: bool = True
    beyond: FaultMode | None = None
    speaks: tuple[Speaks, ...] = ()
    doubtful: tuple[Doubtful, ...] = ()
    log_evidence: float = 0.0

    def of_metal(self) -> dict[str, float]:
        """How probable each piece and device is with all its suspects, by its own id."""
        parts: dict[str, float] = {}
        for each in self.suspects:
            parts[each.part] = parts.get(each.part, 0.0) + each.probability
        return parts

    def of_units(self) -> dict[str, float]:
        """How probable each part is with all its suspects and what is renewed with it, the most probable first."""
        parts: dict[str, float] = {}
        for each in self.suspects:
            parts[each.unit] = parts.get(each.unit, 0.0) + each.probability
        return dict(sorted(parts.items(), key=lambda each: -each[1]))


def suspects_of(found: Posterior, start: int) -> tuple[Suspect, ...]:
    """The fault modes of all parts, the likeliest first; readings are counted from ``start``."""
    hypotheses, totals = found.hypotheses, found.of_modes
    suspects = []
    for mode in np.argsort(totals)[::-1].tolist():
        if totals[mode] < SHOWN:
            break
        if hypotheses.modes[mode].unit == OUTSIDE:
            continue
        one, here = hypotheses.modes[mode], hypotheses.mode == mode
        likeliest = int(np.flatnonzero(here)[np.argmax(found.probability[here])])
        explains = tuple((start + np.flatnonzero(found.share[:, likeliest] > EXPLAINS)).tolist())
        told = one.part, one.fault, one.unit, float(totals[mode]), found.severity(mode), one.measure, explains
        suspects.append(Suspect(*told, one.other, one.because, one.comes_and_goes))
    return tuple(suspects)


def acquitted_of(found: Posterior, start: int) -> tuple[Acquitted, ...]:
    """Parts that the readings speak against, each with the one that does most; the likeliest before come first."""
    if not len(found.share):
        return ()
    before, after = posterior(found.hypotheses, []).of_parts(), found.of_parts()
    acquitted, parts = [], np.array(found.hypotheses.named[0])
    for part, was in sorted(before.items(), key=lambda each: -each[1]):
        if after[part] > ACQUITTED * was or point_of(part) is not None:
            continue
        acquitted.append(Acquitted(part, start + int(np.argmin(found.share[:, parts == part].max(axis=1)))))
    return tuple(acquitted)
