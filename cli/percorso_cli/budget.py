"""The command ``percorso budget``: does the alternator carry it, and does the battery live?"""

from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path
from typing import Any

import click

from percorso.errors import PercorsoError
from percorso.house_rules import HouseRules
from percorso.load_budget.balance import Balance
from percorso.load_budget.budget import Budget, draw_up, drive_named
from percorso.load_budget.drive import Driven
from percorso.load_budget.endurance import Endurance
from percorso.vehicle.devices import Starter
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.scenarios import find_scenario
from percorso_cli.options import JOB_PATH, as_json, print_json, rules, stage_option, whole_vehicle_in

SAYS = {
    "pass": "carried",
    "marginal": "carried, with little left to charge",
    "fail": "SHORT",
    "unknown": "battery alone",
}


@click.command()
@click.argument("job", type=JOB_PATH)
@click.option("--scenario", "scenarios", multiple=True, help='For example "idle-night-winter", or one of the job.')
@click.option("--drive", help='A drive of the job, or a usual one such as "town-winter-night".')
@stage_option
@rules
@as_json
def budget(
    job: Path, scenarios: tuple[str, ...], drive: str | None, stage: Stage, rules: HouseRules, as_json: bool
) -> None:
    """What consumers ask of alternator and battery, scenario by scenario, and what a drive leaves."""
    vehicle = whole_vehicle_in(job)
    try:
        chosen = [find_scenario(each, vehicle.scenarios) for each in scenarios] or None
        passed = drive_named(vehicle, drive) if drive else None
    except PercorsoError as error:
        raise click.BadParameter(str(error), param_hint=f"'--{error.field[0]}'") from error
    found = draw_up(vehicle, stage, rules, passed, chosen)
    if passed is not None and found.driven is None:
        raise click.ClickException("a drive needs a battery to end with, and this job has none")
    if as_json:
        print_json(_result(found))
        return
    for line in _lines(found, vehicle):
        click.echo(line)


def _lines(found: Budget, vehicle: Vehicle) -> Iterator[str]:
    yield from map(_balance, found.balances)
    starts = any(isinstance(each.spec, Starter) for each in vehicle.devices.values())
    yield from (_alone(each, starts=starts) for each in found.endurances)
    advice = found.advice
    if advice.smallest is not None:
        enough = ", less than is there" if advice.smaller_does else ""
        yield f"smallest alternator that keeps every balance and the reserve: {advice.smallest}{enough}"
    yield from (f"cures it: {each.effect}" for each in advice.cures)
    yield from advice.notes
    yield from (f"{each.severity}: {each.title} {each.reason}" for each in found.findings)
    if found.driven is not None:
        yield from _drive(found.driven)


def _balance(each: Balance) -> str:
    return (
        f"{each.scenario.name}: needs {each.demand_a:.1f} A, makes {each.capability_a:.1f} A at {each.rpm:.0f} rpm, "
        f"{each.margin_a:+.1f} A: {SAYS[each.verdict]}; {each.battery_v:.2f} V at the battery, "
        f"{each.battery_a:+.1f} A into it"
    )


def _alone(each: Endurance, *, starts: bool) -> str:
    """How long the battery lasts, and starts the engine where there is a starter to ask that of."""
    until = "for ever" if each.starts_until_h is None else f"for up to {each.starts_until_h:.1f} h"
    empty = "never flat" if each.empty_after_h is None else f"flat after {each.empty_after_h:.1f} h"
    engine = f"can start the engine {until}, " if starts else ""
    return f"battery alone, {each.scenario_id}: {engine}{empty}"


def _drive(each: Driven) -> Iterator[str]:
    for spell in each.spells:
        yield f"{spell.name}, minute {spell.from_min:.0f} to {spell.to_min:.0f}: {spell.to_percent:.1f} % at its end"
    if each.stranded_min is not None:
        yield f"does not start again after {each.stranded_min:.0f} minutes"
    left, home = f"leaves with {each.from_percent:.1f} %", f"comes home with {each.to_percent:.1f} %"
    starts = "" if each.starts_left is None else f", {each.starts_left} starts left at {each.morning_c:g} °C"
    yield f"{each.drive.name}: {left}, {home}{starts}"
    yield "goes on so for ever" if each.lasts is None else f"drives like this before it will not start: {each.lasts}"


def _result(found: Budget) -> dict[str, Any]:
    return {
        "balances": [asdict(each) for each in found.balances],
        "endurances": [asdict(each) for each in found.endurances],
        "advice": asdict(found.advice),
        "loads": [
            {
                "id": each.device.id,
                "name": each.device.name,
                "group": each.group,
                "circuit": each.circuit_id,
                "drawn_v": each.load.drawn_v,
                "drawn_a": each.load.drawn_a,
                "measured": each.load.measured_a is not None,
                "differs_percent": each.differs_percent,
                "duty_percent": each.load.duty_percent,
            }
            for each in found.entries
        ],
        "drive": asdict(found.driven) if found.driven else None,
        "findings": [asdict(each) for each in found.findings],
    }
