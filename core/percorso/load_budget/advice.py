"""What to do about a balance: which alternator, pulley or idle speed carries it, and what to switch off."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from percorso.changes.edits import ChangeDevice, Edit, SetDesignCurrent
from percorso.components.fuses import fuse_ratings_a
from percorso.findings.finding import Remedy
from percorso.house_rules import HouseRules
from percorso.load_budget.balance import Balance
from percorso.load_budget.system import ChargingSystem, alternator_c
from percorso.network.modes import TURNING
from percorso.vehicle.alternators import belt_limit_a, output_limit_a, points, rpm_for
from percorso.vehicle.devices import Alternator
from percorso.vehicle.loads import Load, Priority
from percorso.vehicle.model import Circuit
from percorso.vehicle.states import ENGINE

MARKED_IN_A = 5.0  # alternators are marked in steps of about this, common practice
LARGEST_A = 600.0
FLATTEST = 0.65  # of its output at 6 000 rpm an alternator makes at most at 1 800 rpm, from memory
MUCH_SMALLER = 0.85  # from this share of its output down a smaller alternator would do
FASTEST_IDLE_RPM = 1100.0  # of an engine; beyond it nobody lets one idle, common practice
STEP_RPM = 10.0
LEAST_CHARGING_SHARE = 0.1  # of capacity, as current to spare on the road, gets a battery full; common practice
SHED_FIRST: tuple[Priority, ...] = ("comfort", "work")


@dataclass(frozen=True)
class Marking:
    """An alternator's output as ISO 8854 marks it, A at 1 800 and at 6 000 rpm."""

    at_1800_a: float
    at_6000_a: float

    def __str__(self) -> str:
        return f"{self.at_1800_a:g}/{self.at_6000_a:g} A"


@dataclass(frozen=True)
class ChargeCircuitNeed:
    """What the charge circuit must carry with an alternator, A, and the least standard fuse for it.

    ``cure`` hands that to the circuit where it is designed for less.
    """

    circuit_id: str
    carries_a: float
    designed_for_a: float
    fuse_a: float | None
    cure: Remedy | None


@dataclass(frozen=True)
class Match:
    """What the alternator can spare for the battery on the road in the worst scenario, A, and as share of its Ah."""

    spare_a: float
    share_of_capacity: float
    gets_full: bool


@dataclass(frozen=True)
class Advice:
    """``says`` it in a sentence. ``worst`` is the scenario with the least to spare; ``smallest`` the least output that
    keeps every balance; ``smaller_does``: that is clearly less than what is there. ``cures`` are what mends a balance
    that falls short, each by itself.
    """

    says: str
    worst: str | None
    smallest: Marking | None
    smaller_does: bool
    cures: tuple[Remedy, ...]
    shed: tuple[str, ...]
    cable: ChargeCircuitNeed | None
    match: Match | None
    notes: tuple[str, ...]


def advice(system: ChargingSystem, found: Sequence[Balance], rules: HouseRules) -> Advice:
    """What to do, from balances of scenarios in which the engine turns."""
    driven = [each for each in found if ENGINE[each.scenario.state] in TURNING]
    spec = system.alternator
    if spec is None or not driven:
        return Advice(_nothing_gives(system, spec), None, None, False, (), (), None, None, ())
    worst = min(driven, key=lambda each: each.margin_a)
    smallest = _smallest(spec, [(each, _asked_a(system, each)) for each in driven])
    short = [each for each in driven if each.verdict == "fail"]
    shed = _shed(system, short)
    return Advice(
        says=_summary(worst, len(short)),
        worst=worst.scenario.id,
        smallest=smallest,
        smaller_does=smallest is not None and _is_smaller(smallest, spec),
        cures=tuple(_cures(system, spec, driven, smallest, shed)) if short else (),
        shed=tuple(shed),
        cable=_cable(system, spec),
        match=_match(system, driven),
        notes=tuple(_notes(system, spec, driven)),
    )


def _nothing_gives(system: ChargingSystem, spec: Alternator | None) -> str:
    if spec is None and system.battery is None:
        return "Say what battery and alternator there are."
    return "No alternator gives in these scenarios: the battery carries them alone."


def _summary(worst: Balance, short: int) -> str:
    """The worst scenario in a sentence."""
    where = worst.scenario.name[:1].upper() + worst.scenario.name[1:]
    if worst.verdict == "fail":
        others = f" {short - 1} other scenario{'s' if short > 2 else ''} fall{'' if short > 2 else 's'} short too."
        return f"{where}: {-worst.margin_a:.0f} A short, and the battery pays." + (others if short > 1 else "")
    if worst.verdict == "marginal":
        return f"{where}: carried, with only {worst.margin_a:.0f} A left to charge the battery."
    return f"Every scenario is carried; the closest is {worst.scenario.name} with {worst.margin_a:.0f} A to spare."


AlternatorDemands = Sequence[tuple[Balance, float]]  # scenarios, each with what an alternator must make in it, A


def _asked_a(system: ChargingSystem, balance: Balance) -> float:
    """The demand with the house's reserve; on the road also enough to get the battery full."""
    if system.battery is None or balance.scenario.state != "road":
        return balance.need_a
    return max(balance.need_a, balance.demand_a + LEAST_CHARGING_SHARE * system.battery.capacity_ah)


def _smallest(spec: Alternator, asked: AlternatorDemands) -> Marking | None:
    """The least marking at 6 000 rpm, then at 1 800 rpm, that carries every scenario with the house's reserve.

    None where none that is made does, as one that turns too slowly at idle.
    """
    for step in range(1, round(LARGEST_A / MARKED_IN_A) + 1):
        at_6000_a = MARKED_IN_A * step
        low, high = 0, math.floor(FLATTEST * at_6000_a)  # of the marking at 1 800 rpm: too little, and perhaps enough
        if not _carries(spec, Marking(high, at_6000_a), asked):
            continue
        while high - low > 1:
            middle = (low + high) // 2
            low, high = (low, middle) if _carries(spec, Marking(middle, at_6000_a), asked) else (middle, high)
        return Marking(high, at_6000_a)
    return None


def _is_smaller(marking: Marking, spec: Alternator) -> bool:
    return marking.at_6000_a <= MUCH_SMALLER * spec.at_6000_a and marking.at_1800_a <= MUCH_SMALLER * spec.at_1800_a


def _carries(spec: Alternator, marking: Marking, asked: AlternatorDemands) -> bool:
    """Whether an alternator of that marking, turning as the present one does, meets every need."""
    if marking.at_1800_a <= 0:
        return False
    change = {"at_1800_a": marking.at_1800_a, "at_6000_a": marking.at_6000_a, "output": ()}
    other = spec.model_copy(update=change)
    return all(output_limit_a(other, each.rpm, alternator_c(each.scenario)) >= amperes for each, amperes in asked)


def _cures(
    system: ChargingSystem, spec: Alternator, driven: Sequence[Balance], smallest: Marking | None, shed: Sequence[str]
) -> Iterator[Remedy]:
    assert system.budget.alternator is not None
    device_id = system.budget.alternator.id
    if smallest is not None:
        yield Remedy(f"an alternator of {smallest}", _larger(system, spec, smallest))
    idle = [each for each in driven if each.scenario.state == "idle"]
    others_short = any(each.verdict == "fail" for each in driven if each.scenario.state != "idle")
    speeds = [rpm_for(spec, each.need_a, alternator_c(each.scenario)) for each in idle]
    if idle and not others_short and None not in speeds:
        yield from _faster(spec, device_id, max(each for each in speeds if each is not None))
    if shed:
        names = " and ".join(system.budget.vehicle.devices[each].name for each in shed)
        yield Remedy(f"{names} off at idle", tuple(_off_at_idle(system, each) for each in shed))


def _larger(system: ChargingSystem, spec: Alternator, marking: Marking) -> tuple[Edit, ...]:
    """An alternator of another marking, and the charge circuit designed for it."""
    assert system.budget.alternator is not None
    change = {"at_1800_a": marking.at_1800_a, "at_6000_a": marking.at_6000_a, "output": []}
    edits: list[Edit] = [ChangeDevice(device_id=system.budget.alternator.id, change=change)]
    circuit = charge_circuit(system)
    if circuit is not None and circuit.design_current_a < marking.at_6000_a:
        edits.append(SetDesignCurrent(circuit_id=circuit.id, current_a=marking.at_6000_a))
    return tuple(edits)


def _faster(spec: Alternator, device_id: str, rpm: float) -> Iterator[Remedy]:
    """A smaller pulley, or a faster idle, that brings the alternator to a speed while the engine idles."""
    if rpm <= spec.rpm("idle"):
        return
    yield from _pulley(spec, device_id, rpm)
    if spec.pulley_ratio is not None:
        engine = STEP_RPM * math.ceil(rpm / spec.pulley_ratio / STEP_RPM - 1e-6)
        if engine <= FASTEST_IDLE_RPM:
            change = ChangeDevice(device_id=device_id, change={"engine_idle_rpm": engine})
            yield Remedy(f"the engine idling at {engine:.0f} rpm", (change,))


def _pulley(spec: Alternator, device_id: str, rpm: float) -> Iterator[Remedy]:
    """A smaller pulley that brings it to a speed at idle, where it stands what that makes on the road."""
    if spec.pulley_ratio is not None and spec.engine_idle_rpm is not None:
        ratio = math.ceil(100 * rpm / spec.engine_idle_rpm - 1e-6) / 100
        change = ChangeDevice(device_id=device_id, change={"pulley_ratio": ratio})
        yield from _within_its_speed(spec, f"a smaller pulley, {spec.pulley_ratio:g} → {ratio:g}", change)
        return
    times = math.ceil(100 * rpm / spec.idle_rpm - 1e-6) / 100
    speeds = {"idle_rpm": round(times * spec.idle_rpm), "road_rpm": round(times * spec.road_rpm)}
    change = ChangeDevice(device_id=device_id, change=speeds)
    yield from _within_its_speed(spec, f"a pulley {100 * (times - 1):.0f} % faster", change)


def _within_its_speed(spec: Alternator, effect: str, change: ChangeDevice) -> Iterator[Remedy]:
    """The cure with the speed it makes on the road, unless the alternator does not stand it."""
    on_road = spec.model_copy(update=change.change).rpm("road")
    if on_road <= spec.max_rpm:
        yield Remedy(f"{effect} ({on_road:.0f} rpm on the road, good for {spec.max_rpm:.0f})", (change,))


def _shed(system: ChargingSystem, short: Sequence[Balance]) -> list[str]:
    """What to switch off at idle so that the battery no longer pays, the least needed first; [] where it is no help."""
    off: list[str] = []
    for balance in sorted(short, key=lambda each: each.margin_a):
        if balance.scenario.state != "idle" or balance.scenario.duty_percent:
            return []
        drawn = {each.device_id: each.current_a for each in balance.drawn if each.current_a > 0}
        lacking = -balance.margin_a - sum(drawn.pop(each, 0.0) for each in off)
        while lacking > 0:
            chosen = _next_off(system, drawn, lacking)
            if chosen is None:
                return []
            off.append(chosen)
            lacking -= drawn.pop(chosen)
    return off


def _next_off(system: ChargingSystem, drawn: dict[str, float], lacking_a: float) -> str | None:
    """The smallest consumer that is enough by itself, comfort before work; else the largest of the least needed."""
    on = [each for each in system.budget.consumers if each.id in drawn]
    of_priority = [[each.id for each in on if system.budget.load(each).priority == first] for first in SHED_FIRST]
    enough = [[each for each in listed if drawn[each] >= lacking_a] for listed in of_priority]
    for listed in enough:
        if listed:
            return min(listed, key=lambda each: drawn[each])
    return next((max(listed, key=lambda each: drawn[each]) for listed in of_priority if listed), None)


def _off_at_idle(system: ChargingSystem, device_id: str) -> ChangeDevice:
    spec = system.budget.vehicle.devices[device_id].spec
    assert isinstance(spec, Load)
    change: dict[str, object] = {"used_in": [each for each in spec.counted_in if each != "idle"]}
    if "idle" in spec.runs_in:
        change["runs_in"] = [each for each in spec.runs_in if each != "idle"]
    return ChangeDevice(device_id=device_id, change=change)


def charge_circuit(system: ChargingSystem) -> Circuit | None:
    """The circuit that takes the alternator's output to the battery."""
    alternator = system.budget.alternator
    charging = [each for each in system.budget.wired.circuits.values() if each.family == "charging"]
    if alternator is None or not alternator.terminals:
        return None
    return next((each for each in charging if each.source_point == alternator.terminals["B+"]), None)


def _cable(system: ChargingSystem, spec: Alternator) -> ChargeCircuitNeed | None:
    """What an alternator makes takes all of its fuse's rating."""
    circuit = charge_circuit(system)
    if circuit is None:
        return None
    carries = max(current for _, current in points(spec))
    ratings = (each for each in fuse_ratings_a() if each >= carries)
    cure = None
    if circuit.design_current_a < carries:
        edit = SetDesignCurrent(circuit_id=circuit.id, current_a=carries)
        cure = Remedy(f"the charge cable designed for {carries:.3g} A", (edit,))
    return ChargeCircuitNeed(circuit.id, carries, circuit.design_current_a, next(ratings, None), cure)


def _match(system: ChargingSystem, driven: Sequence[Balance]) -> Match | None:
    on_road = [each.margin_a for each in driven if each.scenario.state == "road"]
    if system.battery is None or not on_road:
        return None
    share = min(on_road) / system.battery.capacity_ah
    return Match(min(on_road), share, share >= LEAST_CHARGING_SHARE)


def _notes(system: ChargingSystem, spec: Alternator, driven: Sequence[Balance]) -> Iterator[str]:
    most = max(current for _, current in points(spec))
    limit = belt_limit_a(spec, system.nominal_v)
    if limit is not None and most > limit:
        yield f"It makes up to {most:.0f} A; its belt ({spec.belt}) drives about {limit:.0f} A before it slips."
    if spec.rpm("road") > spec.max_rpm:
        yield f"On the road it turns at {spec.rpm('road'):.0f} rpm; it is good for {spec.max_rpm:.0f} rpm."
    if any(each.capability_a <= 0 for each in driven):
        yield "At idle it turns too slowly to give anything: raise the idle speed or fit a smaller pulley."
    battery = system.battery
    if battery is not None and battery.chemistry == "LiFePO4":
        yield "A lithium battery needs its own charger and protection; below freezing it must not be charged."
