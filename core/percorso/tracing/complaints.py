"""What a customer complains of that is no single reading: one of several signs, of which some faults show none."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field

import numpy as np

from percorso.arrays import Array
from percorso.faults.model import Fault
from percorso.tracing.evidence import normal
from percorso.tracing.predictions import Predicted
from percorso.verification.measured.measurements import Measurement

SAID_RIGHTLY = 0.95  # of those who have a sign of it, complain in these words, from memory
SAID_WRONGLY = 0.02  # of those who have none, from memory


@dataclass(frozen=True)
class Sign:
    """Something that shows with some faults: a word that is seen, or a value that is beyond a limit.

    Several measurements of one situation count as their sum, each ``times`` what it says (1 or -1). Nobody knows the
    limit well: ``within`` is one standard deviation of it, by its share.
    """

    measurements: tuple[Measurement, ...]
    words: tuple[str, ...] = ()
    above: float = np.inf
    below: float = -np.inf
    times: tuple[float, ...] = (1.0,)
    within: float = 0.05

    def shows(self, predicted: Sequence[Predicted]) -> Array:
        """How probable it is that it shows with each fault, shape (faults,); ``predicted`` is of its measurements."""
        if self.words:
            return np.isin(predicted[0].word.astype(str), self.words).astype(float)
        value = sum((each.value * one for each, one in zip(predicted, self.times, strict=True)), np.zeros(1))
        limit, way = (self.above, 1) if np.isfinite(self.above) else (self.below, -1)
        shows = normal(way * (value - limit) / (self.within * abs(limit)))
        return np.asarray(np.where(np.isfinite(value), shows, 0.0))


@dataclass(frozen=True)
class Complaint:
    """What a customer says, by the signs of which at least one is there.

    ``unless``: parts and their faults that do not explain it though a sign shows with them: a fuse that is only blown
    does not blow again. ``seen_times`` it was seen before it was said.
    """

    says: str
    signs: tuple[Sign, ...]
    unless: frozenset[tuple[str, str]] = field(default_factory=frozenset)
    seen_times: int = 1

    @property
    def key(self) -> tuple[Hashable, ...]:
        """Tells apart what is said, and of what."""
        return self.says, *(each.key for sign in self.signs for each in sign.measurements)

    @property
    def looks(self) -> tuple[Measurement, ...]:
        """A measurement of each sign, in whose situation one looks for it."""
        return tuple(each.measurements[0] for each in self.signs)

    def likelihood(self, shows: Sequence[Array], faults: Sequence[Fault | None]) -> Array:
        """How likely it is said with each fault, shape (faults,); ``shows`` is of its signs."""
        explains = [each is None or (each.part, each.fault) not in self.unless for each in faults]
        there = np.max(shows, axis=0) * explains
        return np.asarray((there * SAID_RIGHTLY + (1 - there) * SAID_WRONGLY) ** self.seen_times)


Observation = Measurement | Complaint


def looks_of(known: Observation) -> tuple[Measurement, ...]:
    """A reading, or what one looks at for a complaint."""
    return known.looks if isinstance(known, Complaint) else (known,)
