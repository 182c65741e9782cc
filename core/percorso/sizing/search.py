"""Sizes whole circuits at once: every wire, fuse and contact, with the least copper that meets every rule."""

from collections.abc import Iterable

from percorso.components.conductors import Series
from percorso.house_rules import HouseRules
from percorso.sizing.advice import Recommendation, advice_on
from percorso.sizing.protection_zones import path
from percorso.sizing.rounds import Round
from percorso.vehicle.copper import by_house
from percorso.vehicle.model import Vehicle

MOST_ROUNDS = 8  # sizes change currents, currents change sizes
SAFE_FROM_ROUND = 3  # from here on a current that went down counts as it was, so that the rounds come to an end


def recommend(
    vehicle: Vehicle,
    rules: HouseRules,
    circuit_ids: Iterable[str] | None = None,
    series: Series | None = None,
    keep: frozenset[str] = frozenset(),
) -> Recommendation:
    """The least copper with which circuits (default: all) meet drop, heat, protection and the house's thinnest wire.

    Other circuits that share a wire keep within their targets too. ``series`` overrides the wires' own, ``keep`` names
    segments that stay as they are.
    """
    vehicle = by_house(vehicle, rules)
    wanted = tuple(vehicle.circuits if circuit_ids is None else circuit_ids)
    passed = [segment.id for each in wanted for segment in path(vehicle, vehicle.circuits[each])]
    others = vehicle.segments if circuit_ids is None else ()  # beside every route, and still a wire of the job
    free = tuple(dict.fromkeys(each for each in (*passed, *others) if each not in keep))
    sized, task = vehicle, Round(vehicle, vehicle, rules, wanted, free, series)
    for number in range(1, MOST_ROUNDS):
        resized = task.sized()
        if resized == sized and number > 1:
            break
        earlier = task if number >= SAFE_FROM_ROUND else None
        sized, task = resized, Round(resized, vehicle, rules, wanted, free, series, earlier)
    return advice_on(vehicle, task)
