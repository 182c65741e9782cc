"""The command ``percorso solve``: voltages and currents of a whole job in one operating state."""

from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import click

from percorso.components.batteries import WARM_C
from percorso.house_rules import COLDEST_C, HouseRules
from percorso.network.device_results import doing
from percorso.network.modes import TURNING
from percorso.network.mornings import on_a_morning
from percorso.network.results import Solution
from percorso.quantities import TEMPERATURE
from percorso.study import Study
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.states import ENGINE, State
from percorso.verification.measured.preparations import Preparation
from percorso_cli.options import (
    as_json,
    finding_line,
    inputs,
    job_argument,
    preparations,
    print_json,
    rules,
    stage_option,
    state,
    whole_vehicle_in,
)
from percorso_cli.quantity import Quantity
from percorso_cli.solving import solved_in

NOTHING = 1e-6


@click.command()
@job_argument
@state
@stage_option
@inputs
@preparations
@click.option(
    "--temperature",
    type=Quantity(TEMPERATURE),
    help="Outside, over night: batteries, copper and engine are as cold; not with the engine running.",
)
@rules
@as_json
def solve(
    job: Path,
    state: State,
    stage: Stage,
    inputs: tuple[tuple[str, str], ...],
    preparations: tuple[Preparation, ...],
    temperature: float | None,
    rules: HouseRules,
    as_json: bool,
) -> None:
    """Voltages and currents of a whole job in one operating state, and what is wrong with them."""
    vehicle = whole_vehicle_in(job)
    if temperature is not None:
        vehicle, rules = _cold(vehicle, state, temperature), replace(rules, copper="zone temperature")
    solved = solved_in(Study(vehicle, rules), state, stage, inputs, preparations)
    vehicle, solution = solved.vehicle, solved.solution
    if as_json:
        print_json(_solution_result(solution) | {"findings": [asdict(each) for each in solved.findings]})
        return
    for point in vehicle.points.values():
        result = solution.points[point.id]
        click.echo(f"{point.name}: {'floating' if result.floating else _figure(result.v, 'V')}")
    for device in vehicle.devices.values():
        outcome = solution.devices[device.id]
        figures = f"{_figure(outcome.voltage_v, 'V')}, {_figure(outcome.current_a, 'A')}"
        click.echo(f"{device.designation} {device.name}: {doing(device.spec, outcome)}, {figures}")
    for finding in solved.findings:
        click.echo(finding_line(finding))


def _cold(vehicle: Vehicle, state: State, outside_c: float) -> Vehicle:
    """The vehicle as cold as it is outside. Raises BadParameter."""
    if ENGINE[state] in TURNING:
        raise click.BadParameter(
            "goes with the engine off or cranking: it warms as it runs", param_hint="'--temperature'"
        )
    if not COLDEST_C <= outside_c <= WARM_C:
        said = f"write {COLDEST_C:g} to {WARM_C:g} °C: warmer than that the engine is not stiffer"
        raise click.BadParameter(said, param_hint="'--temperature'")
    return on_a_morning(vehicle, outside_c)


def _figure(value: float | None, unit: str) -> str:
    """A figure as people write it; what is less than a microvolt or microampere is nothing."""
    if value is None:
        return "not known"
    return f"{0 if abs(value) < NOTHING else value:.4g} {unit}"


def _solution_result(solution: Solution) -> dict[str, Any]:
    return {
        "state": solution.state,
        "settled": not solution.unsettled,
        "running_on": solution.running_on,
        "points": {each: asdict(result) for each, result in solution.points.items()},
        "segments": {each: asdict(result) for each, result in solution.segments.items()},
        "devices": {each: asdict(result) for each, result in solution.devices.items()},
        "residual_a": solution.residual_a,
    }
