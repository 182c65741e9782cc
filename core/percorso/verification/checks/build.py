"""All tests of a job at a stage, in a safe and cheap order, each with how it is done and how long it takes."""

from collections.abc import Iterable, Iterator
from dataclasses import replace

from percorso.network.branches import has_source
from percorso.network.operating_point import Network
from percorso.patience import one_by_one
from percorso.vehicle.model import Circuit, Stage, Vehicle
from percorso.vehicle.states import STATES
from percorso.verification.checks.asked import GROUPS, Check
from percorso.verification.checks.before_power import before_power, first_power, is_worked_on
from percorso.verification.checks.cold_morning import with_cold_morning
from percorso.verification.checks.contacts import independence_checks, interlock_checks, relay_checks
from percorso.verification.checks.feeds import BY_ITSELF, feed_checks
from percorso.verification.checks.fuses import fuse_checks
from percorso.verification.checks.live import circuit_live
from percorso.verification.checks.minutes import minutes
from percorso.verification.checks.pins import pin_checks
from percorso.verification.checks.sources import source_checks
from percorso.verification.checks.wording import caution, how
from percorso.verification.measured.measurements import Situation


def list_checks(network: Network, stage: Stage, circuit_id: str | None, coldest_c: float) -> list[Check]:
    """The tests of a vehicle at a stage, or those of one of its circuits; nothing where nothing feeds it. Those of a
    starter say what they would come to at ``coldest_c``, °C.
    """
    if not has_source(network.vehicle):
        return []
    circuits = [each for each in network.vehicle.circuits.values() if circuit_id in (None, each.id)]
    asked = list(_of_circuits(network, stage, circuits))
    if circuit_id is None:
        asked += _of_vehicle(network, stage)
    instructed = _with_instructions(network.vehicle, _by_situation(_once(asked)))
    return list(with_cold_morning(network.vehicle, instructed, coldest_c))


def _of_circuits(network: Network, stage: Stage, circuits: Iterable[Circuit]) -> Iterator[Check]:
    vehicle = network.vehicle
    for circuit in one_by_one(list(circuits)):
        if stage == "planned" and is_worked_on(vehicle, circuit):
            yield from before_power(vehicle, stage, circuit)
            yield from first_power(network, stage, circuit)
        live = None if circuit.family in BY_ITSELF else circuit_live(network, stage, circuit)
        if live is not None:
            yield from feed_checks(network, circuit, live)


def _of_vehicle(network: Network, stage: Stage) -> Iterator[Check]:
    yield from source_checks(network, stage)
    yield from fuse_checks(network.vehicle, stage)
    yield from relay_checks(network, stage)
    yield from interlock_checks(network, stage)
    yield from independence_checks(network, stage)
    yield from pin_checks(network, stage)


def _once(asked: Iterable[Check]) -> list[Check]:
    """Each measurement once, however many ask for it; what it must come to is said by the first that says so.

    A piece stays with the side whose piece it is, under whatever circuit that is asked.
    """
    found: dict[tuple[object, ...], Check] = {}
    kept_as: dict[str, str] = {}
    for one in asked:
        whole = kept_as.get(one.only_if or "")
        each = replace(one, only_if=whole) if whole else one
        key = each.only_if, *each.measurement.key
        known = found.setdefault(key, each)
        kept_as[each.id] = known.id
        if known.target is None and each.target is not None:
            found[key] = replace(known, target=each.target)
    return list(found.values())


def _by_situation(asked: Iterable[Check]) -> list[Check]:
    """By group, in it by state, and what is measured in one situation together as situations first come up."""
    first: dict[tuple[object, ...], int] = {}
    for place, each in enumerate(asked):
        first.setdefault((each.group, each.measurement.situation.key), place)

    def order(each: Check) -> tuple[int, int, int]:
        situation = each.measurement.situation
        return GROUPS.index(each.group), STATES.index(situation.state), first[each.group, situation.key]

    return sorted(asked, key=order)


def _with_instructions(vehicle: Vehicle, asked: Iterable[Check]) -> Iterator[Check]:
    """Each test with how it is done and how long it takes after the one before it."""
    before: Situation | None = None
    for each in asked:
        takes = minutes(vehicle, each.measurement, before)
        before = each.measurement.situation
        instructed = replace(each, how=how(vehicle, each.measurement), caution=caution(each.measurement))
        yield replace(instructed, minutes=round(takes, 1))
