"""How likely all that is known is with every hypothesis; what was computed for one answer is kept for the next."""

from collections.abc import Hashable, Sequence
from functools import partial
from typing import TypeGuard

from percorso.arrays import Array
from percorso.kept import BoundedCache
from percorso.tracing.complaints import Complaint, Observation
from percorso.tracing.doubtful import counting_of
from percorso.tracing.history import History, Situations, befores_of
from percorso.tracing.hypotheses import Hypotheses
from percorso.tracing.likelihood import Before, ComplaintEvidence, Likelihood, Off, Reading, likelihood_of, reading_of
from percorso.tracing.shared import SoundMetal
from percorso.vehicle.model import Vehicle
from percorso.verification.measured.measurements import Measurement

MOST_READINGS = 64  # readings and complaints that are kept, with what each fault predicts
MOST_LIKELIHOODS = 128  # and how likely each is after others

_What = tuple[Hashable, Situations]  # what is known, after which situations


class Weighing:
    """What is known of a vehicle, with every hypothesis."""

    def __init__(self, vehicle: Vehicle, hypotheses: Hypotheses, history: History) -> None:
        self._vehicle, self._hypotheses, self._history = vehicle, hypotheses, history
        self.metal = SoundMetal(vehicle)
        self._readings = BoundedCache[_What, Reading | ComplaintEvidence](MOST_READINGS)
        self._likelihoods = BoundedCache[tuple[_What, ...], Likelihood](MOST_LIKELIHOODS)

    def likelihoods(self, known: Sequence[Observation]) -> list[Likelihood]:
        """How likely each of all that is known is; of values each after those that come before it in an order that is
        always the same, for they were read on the same metal.
        """
        counts, befores = counting_of(self._vehicle, known), befores_of(known)
        whats = [(_key_of(each), before) for each, before in zip(known, befores, strict=True)]
        found: dict[int, Likelihood] = {}
        values: list[int] = []
        for place in sorted(range(len(known)), key=lambda each: repr(whats[each][0])):
            after = values if counts[place] > 0 and _is_value(known[place]) else []
            of = (whats[place], *(whats[each] for each in after))
            weigh = partial(self._after, known[place], whats[place], [found[each] for each in after])
            found[place] = self._likelihoods.get_or(of, weigh)
            values = [*values, place] if after is values else values
        return [found[place].counting(share) for place, share in enumerate(counts)]

    def given(self, asked: Sequence[Measurement], likelihoods: Sequence[Likelihood]) -> list[tuple[Array, float]]:
        """By how much each of some measurements of one situation is higher with each fault that is solved, by what was
        read on the same metal, and one standard deviation of what is left.
        """
        return [(each.solved, each.given.deviation) for each in self._befores(asked, likelihoods)]

    def _after(self, known: Observation, what: _What, others: Sequence[Likelihood]) -> Likelihood:
        """How likely something known is, after others."""
        reading = self._readings.get_or(what, lambda: self._read(known, what[1]))
        if isinstance(reading, ComplaintEvidence) or not others:
            return likelihood_of(self._hypotheses, reading)
        return likelihood_of(self._hypotheses, reading, self._befores([reading.measurement], others)[0])

    def _befores(self, asked: Sequence[Measurement], others: Sequence[Likelihood]) -> list[Before]:
        offs, read = list[Off](), list[Measurement]()
        for each in others:
            if each.off is not None and isinstance(each.of, Reading):
                offs.append(each.off)
                read.append(each.of.measurement)
        return [Before(tuple(offs), given) for given in self.metal.given(asked, read)]

    def _read(self, known: Observation, before: Situations) -> Reading | ComplaintEvidence:
        if isinstance(known, Complaint):
            return self._complaint_evidence(known)
        predicted = self._history.show([known], before)[0]
        spread = self.metal.deviation(known)
        return reading_of(self._hypotheses, known, predicted, spread, self._vehicle.nominal_v)

    def _complaint_evidence(self, complaint: Complaint) -> ComplaintEvidence:
        shows = [
            sign.shows(self._history.predictions(sign.measurements[0].situation).show(sign.measurements))
            for sign in complaint.signs
        ]
        return ComplaintEvidence(complaint.likelihood(shows, self._hypotheses.faults))


def _is_value(known: Observation) -> TypeGuard[Measurement]:
    return isinstance(known, Measurement) and known.value is not None


def _key_of(known: Observation) -> Hashable:
    """Tells apart what is known: what was measured and what came, or what was said."""
    return known.key if isinstance(known, Complaint) else (known.key, known.value, known.outcome)
