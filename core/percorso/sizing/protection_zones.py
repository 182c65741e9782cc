"""What each fuse, link and breaker of a circuit guards: the wires behind it, the load it must hold."""

import math
from collections.abc import Iterable
from itertools import takewhile

from percorso.circuits.voltage_profile import Leg
from percorso.circuits.worst_currents import Flows
from percorso.components.conductors import find_size
from percorso.components.fuses import FuseChoice, Guard, Inrush, choice_of, let_through_a2s
from percorso.components.published_ampacity import table_ampacity_a
from percorso.components.thermal import Cable, withstand_a2s
from percorso.house_rules import HouseRules
from percorso.network.branches import battery_law_of
from percorso.sizing.ampacity import wire_ampacity
from percorso.sizing.practice import ALTERNATOR_FUSE_SHARE, least_fuses_a, uses_of
from percorso.vehicle.devices import Alternator, Battery
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Circuit, Segment, Vehicle, passing
from percorso.vehicle.segments import Breaker, Diode, Fuse, FusibleLink, Wire

Guarding = Fuse | FusibleLink | Breaker


def guard_rating_a(spec: Guarding) -> float:
    """What a guard lets through for long, A; a link what its thin wire stands."""
    return table_ampacity_a(find_size(spec.size)) if isinstance(spec, FusibleLink) else spec.rating_a


def guard_order(vehicle: Vehicle, circuit: Circuit) -> list[Segment]:
    """Segments as a short would be fed: from the battery, which of a charging circuit stands at its far end."""
    supply = circuit.supply[::-1] if circuit.family == "charging" else circuit.supply
    return [vehicle.segments[each] for each in (*supply, *circuit.return_path)]


def path(vehicle: Vehicle, circuit: Circuit) -> list[Segment]:
    """Segments of a circuit from its source to the end of its return."""
    return [vehicle.segments[each] for each in circuit.whole_path]


def guard_in_front(vehicle: Vehicle, circuit: Circuit, segment_id: str) -> Segment | None:
    """The guard with the lowest rating between the source and a segment; None when nothing guards it."""
    before = takewhile(lambda each: each.id != segment_id, guard_order(vehicle, circuit))
    guards = [(guard_rating_a(each.spec), each) for each in before if isinstance(each.spec, Guarding)]
    return min(guards, key=lambda pair: pair[0])[1] if guards else None


def fuse_in_front_a(vehicle: Vehicle, circuit: Circuit, segment_id: str) -> float | None:
    """Rating of the smallest fuse or breaker between the source and a segment, A; None when none guards it."""
    before = takewhile(lambda each: each.id != segment_id, guard_order(vehicle, circuit))
    return min((each.spec.rating_a for each in before if isinstance(each.spec, Fuse | Breaker)), default=None)


def guarded_wires(vehicle: Vehicle, circuit: Circuit, guard_id: str) -> list[tuple[Segment, Wire]]:
    """The wires behind a guard that no smaller one guards."""
    found: list[tuple[Segment, Wire]] = []
    lowest_id, lowest_a = "", math.inf
    for segment in guard_order(vehicle, circuit):
        if isinstance(segment.spec, Guarding):
            rating = guard_rating_a(segment.spec)
            if rating < lowest_a:
                lowest_id, lowest_a = segment.id, rating
        elif isinstance(segment.spec, Wire) and lowest_id == guard_id:
            found.append((segment, segment.spec))
    return found


def least_fuse_a(vehicle: Vehicle, guard_id: str, rules: HouseRules) -> float:
    """The smallest fuse that is fitted in a place, A: what the uses of the wires are given that it guards."""
    behind = (
        wire
        for each in passing(vehicle, guard_id)
        for wire, _ in guarded_wires(vehicle, each, guard_id)
        if wire.id in each.supply
    )
    uses = {use for wire in behind for use in uses_of(vehicle, wire)}
    return max([rules.smallest_fuse_a, *(least_fuses_a().get(use, 0.0) for use in uses)])


def thinnest_behind_a(vehicle: Vehicle, circuit: Circuit, guard_id: str, rules: HouseRules) -> float | None:
    """Ampacity of the weakest wire a guard guards, A; None when there is none."""
    stands = (
        wire_ampacity(spec, rules, vehicle.zone_temperature_c).allowed_a
        for _, spec in guarded_wires(vehicle, circuit, guard_id)
    )
    return min(stands, default=None)


def load_of_guard_a(vehicle: Vehicle, worst: Flows, segment_id: str, rules: HouseRules) -> float:
    """The lasting load that a guard is chosen for, A: what an alternator can make may take nearly all of its rating."""
    most_a = alternator_through_a(vehicle, segment_id) * ALTERNATOR_FUSE_SHARE
    makes = most_a * rules.fuse_load_fraction
    return max(flowing_a(vehicle, worst, segment_id, rules), makes)


def flowing_a(vehicle: Vehicle, worst: Flows, segment_id: str, rules: HouseRules) -> float:
    """The lasting load that stands for what flows through a guard, A: a starter may take all of its rating.

    Of a charge cable only what flows while the engine stands: with it running the alternator's most is the most.
    """
    charges = alternator_through_a(vehicle, segment_id) > 0
    lasting = worst.standing(segment_id) if charges else worst.continuous(segment_id)
    cranks = any(each.family == "starting" for each in passing(vehicle, segment_id))
    return max(lasting.current_a, worst.cranking_a(segment_id) * (rules.fuse_load_fraction if cranks else 1.0))


def alternator_through_a(vehicle: Vehicle, segment_id: str) -> float:
    """The most the alternators make whose charging circuits pass a segment, A."""
    posts = {
        circuit.source_point
        for circuit in vehicle.circuits.values()
        if circuit.family == "charging" and segment_id in circuit.supply
    }
    return sum(
        each.spec.at_6000_a
        for each in vehicle.devices.values()
        if isinstance(each.spec, Alternator) and each.terminals["B+"] in posts
    )


def inrush_through(vehicle: Vehicle, segment_id: str) -> Inrush | None:
    """The heaviest start among the loads whose circuits pass a segment on their way out; the others may run already."""
    starts = [
        device.spec.inrush
        for circuit in vehicle.circuits.values()
        if segment_id in circuit.supply
        and (device := vehicle.devices.get(circuit.device_id or "")) is not None
        and isinstance(device.spec, Load)
        and device.spec.inrush is not None
    ]
    return max(starts, key=lambda inrush: inrush.current_a, default=None)


def saved_by_guard(wire: Cable, starts_at_c: float, current_a: float, guards: Iterable[Guarding]) -> bool:
    """Whether one of the guards a current flows through opens before the wire's insulation is harmed by it."""
    stands = float(withstand_a2s(wire, starts_at_c))
    opening = (each for each in guards if isinstance(each, Fuse | Breaker))
    return any(let_through_a2s(each.rating_a, current_a, guard_kind(each)) <= stands for each in opening)


def guard_kind(spec: Fuse | Breaker) -> Guard:
    """Which curve it opens by."""
    return "breaker" if isinstance(spec, Breaker) else "fuse"


def short_loop_ohm(vehicle: Vehicle, legs: Iterable[Leg]) -> float:
    """Resistance that a dead short behind some legs of a circuit meets, Ω; a diode there fails short."""
    loop = (leg.resistance_ohm for leg in legs if not isinstance(vehicle.segments[leg.segment_id].spec, Diode))
    return source_ohm(vehicle) + sum(loop)


def source_ohm(vehicle: Vehicle) -> float:
    """Resistance of the vehicle's batteries side by side, Ω; nothing where there is none."""
    gives_s = [
        battery_law_of(each.spec, vehicle.nominal_v).parameters[1]
        for each in vehicle.devices.values()
        if isinstance(each.spec, Battery)
    ]
    return 1 / sum(gives_s) if gives_s else 0.0


def fuse_that_stays(
    vehicle: Vehicle, segment_id: str, spec: Fuse, asked: FuseChoice, rules: HouseRules
) -> FuseChoice | None:
    """The fuse that is there, where it does what is asked of it; None where another is wanted."""
    stands = (thinnest_behind_a(vehicle, each, segment_id, rules) for each in passing(vehicle, segment_id))
    thinnest = min((each for each in stands if each is not None), default=math.inf)
    holds_it = asked.rating_a is not None and asked.rating_a <= spec.rating_a <= thinnest
    if rules.school == "light" or vehicle.segments[segment_id].origin != "existing" or not holds_it:
        return None
    return choice_of(spec.rating_a, asked.load_a, asked.lowest_a, thinnest)
