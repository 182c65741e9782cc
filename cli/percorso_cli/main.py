"""The command ``percorso``: a wire's drop, whole job files checked, solved and written as netlists."""

import json
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any

import click

from percorso.components.conductors import ConductorSize, Gauge, MetricStandard, in_gauge, resistance_ohm
from percorso.errors import JobFileError, PercorsoError
from percorso.files.job_file import job_file_schema
from percorso.files.reading import read_job_file
from percorso.findings.operating_state import behaviour
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.network.results import Solution, doing
from percorso.network.spice import netlist
from percorso.quantities import CURRENT, LENGTH, POWER, RESISTANCE, VOLTAGE, show
from percorso.vehicle.model import Stage
from percorso.vehicle.states import STATES, State
from percorso_cli.budget import budget
from percorso_cli.options import JOB_PATH, as_json, gauge, metric_standard, print_json, rules, temperature, vehicle_in
from percorso_cli.options import stage as stage_option
from percorso_cli.quantity import InputPosition, Quantity, Size
from percorso_cli.sizing import ampacity, size


@click.group()
def cli() -> None:
    """Planning aids for vehicle circuits; the vehicle maker's data and local codes come first."""


@cli.command()
@click.option("--size", type=Size(), required=True, help='For example "16 AWG", "2/0" or "10 mm2".')
@click.option("--length", type=Quantity(LENGTH), required=True, help="Total conductor length, out and back.")
@click.option("--current", type=Quantity(CURRENT), required=True)
@temperature
@metric_standard
@gauge
@as_json
def drop(
    size: ConductorSize,
    length: float,
    current: float,
    temperature: float,
    metric_standard: MetricStandard,
    gauge: Gauge,
    as_json: bool,
) -> None:
    """Voltage a wire loses at a current."""
    copper = in_gauge(size, gauge)
    try:
        resistance = resistance_ohm(copper, length, temperature, metric_standard)
    except PercorsoError as error:
        raise click.BadParameter(str(error), param_hint="'--size'") from error
    drop_v, power_w = resistance * current, resistance * current**2
    if as_json:
        made = {"gauge": gauge, "area_mm2": copper.area_mm2}
        print_json({"resistance_ohm": resistance, "drop_v": drop_v, "power_w": power_w} | made)
        return
    click.echo(f"{size.name}, {show(length, LENGTH)} at {show(current, CURRENT)}: {show(drop_v, VOLTAGE)} lost")
    click.echo(f"{show(resistance, RESISTANCE)}, {show(power_w, POWER)} of heat; {copper.area_mm2:.3g} mm² of copper")


NOTHING = 1e-6
job_argument = click.argument("job", type=JOB_PATH)


def _network_options(command: Any) -> Any:
    """The options that say which network of a job is meant, in which state."""
    for option in (
        click.option("--input", "inputs", type=InputPosition(), multiple=True, help='For example "oil_pressure=on".'),
        stage_option,
        click.option("--state", type=click.Choice(STATES), required=True),
    ):
        command = option(command)
    return command


@cli.command()
@job_argument
@_network_options
@rules
@as_json
def solve(
    job: Path, state: State, stage: Stage, inputs: tuple[tuple[str, str], ...], rules: HouseRules, as_json: bool
) -> None:
    """Voltages and currents of a whole job in one operating state, and what is wrong with them."""
    network, solution = _solved(job, state, stage, inputs)
    found = behaviour(network, solution, rules)
    if as_json:
        print_json(_solution_result(solution) | {"findings": [asdict(each) for each in found]})
        return
    vehicle = network.vehicle
    for point in vehicle.points.values():
        result = solution.points[point.id]
        click.echo(f"{point.name}: {'floating' if result.floating else _figure(result.v, 'V')}")
    for device in vehicle.devices.values():
        outcome = solution.devices[device.id]
        figures = f"{_figure(outcome.voltage_v, 'V')}, {_figure(outcome.current_a, 'A')}"
        click.echo(f"{device.designation} {device.name}: {doing(device.spec, outcome)}, {figures}")
    for finding in found:
        click.echo(f"{finding.severity}: {finding.title} {finding.reason}")


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


@cli.command("netlist")
@job_argument
@_network_options
def netlist_command(job: Path, state: State, stage: Stage, inputs: tuple[tuple[str, str], ...]) -> None:
    """A job in one operating state as a SPICE netlist."""
    network, solution = _solved(job, state, stage, inputs)
    if solution.unsettled:
        raise click.ClickException(f"this state has no operating point: {solution.unsettled[0].reason}")
    click.echo(netlist(network, solution), nl=False)


@cli.command()
@job_argument
def check(job: Path) -> None:
    """Read a job file and say what is wrong with it, or what it holds."""
    try:
        file = read_job_file(job.read_bytes())
    except JobFileError as error:
        for problem in error.problems:
            click.echo(f"{problem.path}: {problem.message}", err=True)
        raise click.exceptions.Exit(2) from error
    counts = (len(file.circuits), len(file.segments), len(file.devices), len(file.points), len(file.readings))
    words = ("circuits", "segments", "devices", "points", "readings")
    held = ", ".join(f"{count} {word}" for count, word in zip(counts, words, strict=True))
    click.echo(f"{file.name}, {file.vehicle}: {held}; nothing wrong with the file")


@cli.command()
def schema() -> None:
    """The JSON Schema of a job file."""
    click.echo(json.dumps(job_file_schema(), indent=2))


def _solved(job: Path, state: State, stage: Stage, inputs: tuple[tuple[str, str], ...]) -> tuple[Network, Solution]:
    network = Network(vehicle_in(job, stage))
    try:
        return network, network.solve(state, dict(inputs))
    except PercorsoError as error:
        raise click.BadParameter(str(error), param_hint="'--input'") from error


cli.add_command(size)
cli.add_command(ampacity)
cli.add_command(budget)


def main() -> None:
    """Run the command; wrong input is one line on stderr and exit code 2."""
    try:
        sys.exit(cli.main(standalone_mode=False))
    except click.ClickException as error:
        click.echo(f"percorso: {' '.join(error.format_message().split())}", err=True)
        sys.exit(2)
    except click.Abort:
        sys.exit(130)
