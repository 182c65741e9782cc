"""The whole load budget of a stage: its ledger, the balance of every scenario, a drive, and what to do about it."""

from collections.abc import Sequence
from dataclasses import dataclass

from percorso.errors import PercorsoError
from percorso.findings.finding import Finding, gravest_first
from percorso.house_rules import HouseRules
from percorso.load_budget.advice import Advice, advice
from percorso.load_budget.balance import Balance, balances
from percorso.load_budget.drive import Driven, run_drive
from percorso.load_budget.endurance import Endurance, endurances
from percorso.load_budget.ledger import Entry, ledger, ledger_findings
from percorso.load_budget.sources import budgeted
from percorso.load_budget.system import ChargingSystem
from percorso.vehicle.copper import by_house
from percorso.vehicle.model import Device, Stage, Vehicle
from percorso.vehicle.scenarios import BALANCED, PRESETS, STANDARD, Drive, Scenario

ALONE = ("accessory-day-summer", "accessory-night-winter", "idle-night-winter")  # battery alone: parked twice, failed


@dataclass(frozen=True)
class Budget:
    """What the Loads room shows; ``driven`` is None without a battery or where no drive was asked for."""

    entries: tuple[Entry, ...]
    balances: tuple[Balance, ...]
    endurances: tuple[Endurance, ...]
    advice: Advice
    driven: Driven | None
    findings: tuple[Finding, ...]
    battery: Device | None
    alternator: Device | None


def draw_up(
    vehicle: Vehicle,
    stage: Stage,
    rules: HouseRules,
    drive: Drive | None = None,
    scenarios: Sequence[Scenario] | None = None,
) -> Budget:
    """The load budget of a stage under some scenarios; None: the standard ones and the job's own.

    An alternator gives what ISO 8854 [14] marks it with at two speeds. Raises PercorsoError for a drive that passes a
    scenario there is not.

    >>> first = draw_up(van, "planned", HouseRules()).balances[0]
    >>> first.scenario.id, round(first.margin_a, 1)
    ('idle-day-summer', 12.5)
    """
    system = ChargingSystem(budgeted(by_house(vehicle, rules), stage))
    found = balances(system, shown_scenarios(vehicle) if scenarios is None else scenarios, rules)
    alone = [STANDARD[each] for each in ALONE] if scenarios is None else scenarios
    driven = None
    if drive is not None and system.battery is not None:
        driven = run_drive(system, drive, rules.coldest_morning_c)
    return Budget(
        entries=ledger(system.budget),
        balances=found,
        endurances=endurances(system, alone),
        advice=advice(system, found, rules),
        driven=driven,
        findings=gravest_first(ledger_findings(system.budget), vehicle),
        battery=system.budget.battery,
        alternator=system.budget.alternator,
    )


def shown_scenarios(vehicle: Vehicle) -> list[Scenario]:
    """The standard scenarios in which the engine turns, then the job's own."""
    own = sorted(vehicle.scenarios.values(), key=lambda each: each.name)
    return [*(STANDARD[each] for each in BALANCED), *own]


def drive_named(vehicle: Vehicle, drive_id: str) -> Drive:
    """One of the job's own drives or a usual one. Raises PercorsoError where there is no such one."""
    known = {**PRESETS, **vehicle.drives}
    if drive_id not in known:
        raise PercorsoError(f'there is no drive "{drive_id}"; this job has {", ".join(known)}', field=("drive",))
    return known[drive_id]
