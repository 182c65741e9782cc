"""What a customer complains of that is no single reading: one of several signs, of which some faults show none."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field

import numpy as np

from percorso.arrays import Array, Mask
from percorso.faults.model import Fault
from percorso.tracing.predictions import Predicted
from percorso.verification.measurements import Measurement

SAID_RIGHTLY = 0.95  # of those who have a sign of it, complain in these words, from memory
SAID_WRONGLY = 0.001  # of those who have none, from memory


@dataclass(frozen=True)
class Sign:
    """Something that shows with some faults: a word that is seen, or a value that is beyond a limit.

    Several measurements of one situation count as their sum, each ``times`` what it says (1 or -1).
    """

    measurements: tuple[Measurement, ...]
    words: tuple[str, ...] = ()
    above: float = np.inf
    below: float = -np.inf
    times: tuple[float, ...] = (1.0,)

    def shows(self, predicted: Sequence[Predicted]) -> Mask:
        """With which faults it shows, shape (faults,); ``predicted`` is of its measurements."""
        if self.words:
            return np.isin(predicted[0].word.astype(str), self.words)
        value = sum((each.value * one for each, one in zip(predicted, self.times, strict=True)), np.zeros(1))
        return np.asarray((value > self.above) | (value < self.below))


@dataclass(frozen=True)
class Complaint:
    """What a customer says, by the signs of which at least one is there.

    ``unless``: parts and their faults that do not explain it though a sign shows with them: a fuse that is only blown
    does not blow again.
    """

    says: str
    signs: tuple[Sign, ...]
    unless: frozenset[tuple[str, str]] = field(default_factory=frozenset)

    @property
    def key(self) -> tuple[Hashable, ...]:
        """Tells apart what is said, and of what."""
        return self.says, *(each.key for sign in self.signs for each in sign.measurements)

    @property
    def looks(self) -> tuple[Measurement, ...]:
        """A measurement of each sign, in whose situation one looks for it."""
        return tuple(each.measurements[0] for each in self.signs)

    def likelihood(self, shows: Sequence[Mask], faults: Sequence[Fault | None]) -> Array:
        """How likely it is said with each fault, shape (faults,); ``shows`` is of its signs."""
        there = np.logical_or.reduce(shows)
        there &= [each is None or (each.part, each.fault) not in self.unless for each in faults]
        return np.where(there, SAID_RIGHTLY, SAID_WRONGLY)


Heard = Measurement | Complaint


def looks_of(known: Heard) -> tuple[Measurement, ...]:
    """A reading, or what one looks at for a complaint."""
    return known.looks if isinstance(known, Complaint) else (known,)
