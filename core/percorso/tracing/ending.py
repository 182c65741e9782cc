"""When it is enough: one part alone is probable enough, or two together."""

from collections.abc import Sequence

from percorso.faults.library import FaultMode, unit_called
from percorso.tracing.answer import Suspect
from percorso.tracing.complaints import Observation
from percorso.tracing.pairs import Pair
from percorso.tracing.proof import Conclusion, stop_at_two
from percorso.tracing.situations import had_a_lamp
from percorso.tracing.suspects import Posterior
from percorso.vehicle.model import Vehicle

ENOUGH = 0.95  # of one part, to stop


def enough_of_two(vehicle: Vehicle, pairs: Sequence[Pair]) -> Conclusion | None:
    """The end, once two parts together are probable enough."""
    together: dict[frozenset[str], float] = {}
    for each in pairs:
        both = frozenset(unit_called(vehicle, part) for part in each.parts)
        together[both] = together.get(both, 0.0) + each.probability
    best = max(together, key=together.__getitem__, default=None)
    if best is None or together[best] < ENOUGH:
        return None
    pair = next(each for each in pairs if best == {unit_called(vehicle, part) for part in each.parts})
    return stop_at_two(vehicle, pair.parts, pair.faults)


def enough_of_one(
    found: Posterior, left: float, suspects: Sequence[Suspect], known: Sequence[Observation]
) -> FaultMode | None:
    """The likeliest fault mode of the part that is probable enough alone; ``left``: that one alone is bad."""
    units = found.of_units()
    best = max(units, key=units.__getitem__, default="")
    if not best or units[best] * left < ENOUGH:
        return None
    one = next(each for each in suspects if each.unit == best)
    mode = next(
        each
        for each in found.hypotheses.modes
        if (each.part, each.fault, each.other) == (one.part, one.fault, one.other)
    )
    if mode.fault == "blown" and not had_a_lamp(known, mode.part):
        return None  # that it has blown tells nothing of what blew it
    return mode
