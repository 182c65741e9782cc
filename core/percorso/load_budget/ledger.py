"""The load ledger: every consumer with what it draws, from where that is known, and the circuit that feeds it."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache

from percorso import tables
from percorso.changes.edits import SetDesignCurrent
from percorso.findings.finding import Finding, Remedy
from percorso.findings.rules import named
from percorso.load_budget.sources import Budgeted
from percorso.network.branches import load_law
from percorso.network.kernel import current_and_slope
from percorso.quantities import CURRENT, show
from percorso.vehicle.loads import Load, LoadSpec, Priority
from percorso.vehicle.model import Circuit, Device

GROUP_OF: dict[Priority, str] = {
    "engine": "Running the engine",
    "safety": "Seeing and being seen",
    "work": "The work",
    "comfort": "Comfort",
}
SAME_CURRENT = 0.1  # by which a circuit's design current may differ from what its loads draw
RATED_V_SHARE = 1.125  # typical consumers are stated at 13.5 V of a 12 V system


@dataclass(frozen=True)
class Entry:
    """One line of the ledger; ``differs_percent`` is how much more was measured than its plate says."""

    device: Device
    load: Load
    group: str
    circuit_id: str | None
    differs_percent: float | None


def ledger(budget: Budgeted) -> tuple[Entry, ...]:
    """Every consumer, those of one group together, those of the priorities first."""
    entries = [_entry(budget, each) for each in budget.consumers]
    groups = list(dict.fromkeys([*GROUP_OF.values(), *(each.group for each in entries)]))
    return tuple(sorted(entries, key=lambda each: groups.index(each.group)))


def _entry(budget: Budgeted, device: Device) -> Entry:
    load = budget.load(device)
    fed = feeding(budget, device)
    return Entry(device, load, load.group or GROUP_OF[load.priority], fed.id if fed else None, _differs_percent(load))


def _differs_percent(load: LoadSpec) -> float | None:
    """How much more was measured than its plate says for the voltage it was measured at, %."""
    if load.measured_a is None:
        return None
    by_plate = load_law(load.model_copy(update={"measured_a": None}))
    plate_a, _ = current_and_slope(by_plate.number, load.drawn_v, *by_plate.parameters)
    return float(100 * (load.measured_a / plate_a - 1))


def feeding(budget: Budgeted, device: Device) -> Circuit | None:
    """The circuit that feeds a consumer."""
    return next((each for each in budget.wired.circuits.values() if each.device_id == device.id), None)


def ledger_findings(budget: Budgeted) -> Iterator[Finding]:
    """Circuits designed for another current than their consumer draws, and consumers that are not wired."""
    yield from _designed_for_another(budget)
    yield from _not_wired(budget)


@named(
    "designed-for-another",
    says="a circuit is designed for another current than its load draws",
    when="by more than a tenth",
    source="name plate or measurement",
    cure="the load's own current as design current",
)
def _designed_for_another(budget: Budgeted) -> Iterator[Finding]:
    for device in budget.consumers:
        load, circuit = budget.load(device), feeding(budget, device)
        if circuit is None or abs(circuit.design_current_a - load.drawn_a) <= SAME_CURRENT * load.drawn_a:
            continue
        draws, designed = show(load.drawn_a, CURRENT), show(circuit.design_current_a, CURRENT)
        known = "was measured to draw" if load.measured_a is not None else "draws by its plate"
        too_little = circuit.design_current_a < load.drawn_a
        reason = f"{device.name} {known} {draws}. " + (
            "Wires and fuses are sized for too little."
            if too_little
            else "Wires and fuses are heavier than they need be."
        )
        edit = SetDesignCurrent(circuit_id=circuit.id, current_a=round(load.drawn_a, 3))
        yield Finding(
            "caution" if too_little else "hint",
            f"{circuit.name} is designed for {designed}, its load draws {draws}.",
            reason,
            (),
            Remedy(f"design current {draws}", (edit,)),
            device_ids=(device.id,),
        )


@named(
    "not-wired",
    says="loads that no circuit feeds",
    when="they count in the budget and are not wired",
    source="the job itself",
)
def _not_wired(budget: Budgeted) -> Iterator[Finding]:
    unfed = [each for each in budget.consumers if not each.terminals and feeding(budget, each) is None]
    if unfed:
        names = ", ".join(each.name for each in unfed)
        title = f"No circuit feeds {names}."
        reason = "The load budget counts what they draw, but not what their wires would lose; lay a circuit for each."
        yield Finding("hint", title, reason, (), device_ids=tuple(each.id for each in unfed))


@dataclass(frozen=True)
class Typical:
    """A consumer many vehicles have, with what it usually draws: measure yours."""

    name: str
    group: str
    priority: str
    kind: str
    rated_v: float
    rated_w: float
    duty_percent: float
    used_in: tuple[str, ...]
    times: tuple[str, ...]
    seasons: tuple[str, ...]
    source: str


@cache
def typical_consumers(nominal_v: float) -> tuple[Typical, ...]:
    """The shipped list for a vehicle of that voltage; the power stays the same."""
    return tuple(
        Typical(
            name=row["name"],
            group=row["group"],
            priority=row["priority"],
            kind=row["kind"],
            rated_v=round(RATED_V_SHARE * nominal_v, 2),
            rated_w=float(row["rated_w"]),
            duty_percent=float(row["duty_percent"]),
            used_in=tuple(row["states"].split()),
            times=tuple(row["times"].split()),
            seasons=tuple(row["seasons"].split()),
            source=row["source"],
        )
        for row in tables.rows("typical_consumers")
    )
