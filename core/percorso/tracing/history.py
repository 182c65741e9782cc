"""What shows with each fault in one situation after others: a fuse that blew in one of them has blown."""

from collections.abc import Iterable, Sequence

import numpy as np

from percorso.arrays import Numbers
from percorso.faults.model import Fault
from percorso.kept import BoundedCache
from percorso.tracing.batch import Blown
from percorso.tracing.complaints import Observation
from percorso.tracing.predictions import Predicted, Predictions
from percorso.vehicle.model import Vehicle
from percorso.verification.measured.measurements import Measurement, Situation

MOST_PREDICTIONS = 64  # situations, after others, that are kept

Situations = frozenset[Situation]


def live_of(known: Iterable[Observation]) -> Situations:
    """The situations that were read in with the battery connected: what blows in one of them has blown."""
    return frozenset(each.situation for each in known if isinstance(each, Measurement) and not each.situation.is_dead)


def befores_of(known: Sequence[Observation]) -> list[Situations]:
    """Of each of what is known the other live situations that were read in before."""
    return [
        live_of(known[:place]).difference([each.situation] if isinstance(each, Measurement) else [])
        for place, each in enumerate(known)
    ]


class History:
    """A whole vehicle with each of some faults in it, in one situation after the other."""

    def __init__(self, whole: Vehicle, at_stage: Vehicle, faults: Sequence[Fault | None]) -> None:
        self._whole, self._vehicle, self._faults = whole, at_stage, faults
        self._predictions = BoundedCache[tuple[Situation, Situations], Predictions](MOST_PREDICTIONS)
        self._blown = BoundedCache[Situations, Blown](MOST_PREDICTIONS)

    def predictions(self, situation: Situation, before: Situations = frozenset()) -> Predictions:
        """What shows in a situation, with the fuses blown that blew in those before."""

        def predicted() -> Predictions:
            return Predictions(self._whole, self._vehicle, situation, self._faults, self.blown_in(before))

        return self._predictions.get_or((situation, before), predicted)

    def show(
        self, measurements: Sequence[Measurement], before: Situations, among: Numbers | None = None
    ) -> list[Predicted]:
        """What measurements of one situation show with each fault, or some, after those before it."""
        situation = measurements[0].situation
        here, blown = self.predictions(situation), self.blown_in(before)
        predicted = here.show(measurements, among)
        asked = sorted(blown.keys() if among is None else blown.keys() & set(among.tolist()))
        anyway = here.blown(np.array(asked, dtype=int))
        more = np.array([each for each in asked if not blown[each] <= anyway.get(each, frozenset())], dtype=int)
        if not more.size:
            return predicted
        then = self.predictions(situation, before).show(measurements, more)
        return [one.replaced(more, other) for one, other in zip(predicted, then, strict=True)]

    def blown_in(self, before: Situations) -> Blown:
        """The fuses that each fault has blown in some situations, by the faults' places."""
        return self._blown.get_or(before, lambda: self._blown_of(before))

    def _blown_of(self, before: Situations) -> Blown:
        blown: dict[int, frozenset[str]] = {}
        for each in before:
            for place, fuses in self.predictions(each).blown().items():
                of_vehicle = fuses.intersection(self._vehicle.segments)  # a jumper's own is gone with it
                if of_vehicle:
                    blown[place] = blown.get(place, frozenset()) | of_vehicle
        return blown
