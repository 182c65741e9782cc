"""The command ``percorso``: a wire's drop and size, and whole job files checked, solved and written as netlists."""

import json
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any

import click

from percorso.behaviour import behaviour
from percorso.conductors import METRIC_STANDARDS, ConductorSize, MetricStandard, Series, resistance_ohm
from percorso.errors import JobFileError, PercorsoError
from percorso.house_rules import HouseRules
from percorso.importing import read_job_file
from percorso.jobfile import job_file_schema, vehicle_of
from percorso.netlist import netlist
from percorso.network import Network
from percorso.quantities import CURRENT, LENGTH, POWER, RESISTANCE, TEMPERATURE, VOLTAGE, show
from percorso.sizing import SizeChoice, WireTask, size_wire
from percorso.solution import Solution, doing
from percorso.stages import vehicle_at
from percorso.states import STATES, State
from percorso.vehicle import STAGES, Stage, Target
from percorso_cli.quantity import InputPosition, MaxDrop, Quantity, Size

as_json = click.option("--json", "as_json", is_flag=True, help="Print one JSON object instead of text.")
temperature = click.option(
    "--temperature", type=Quantity(TEMPERATURE), default="20C", show_default=True, help="Of the copper."
)
metric_standard = click.option(
    "--metric-standard",
    type=click.Choice(METRIC_STANDARDS),
    default=METRIC_STANDARDS[0],
    show_default=True,
    help="Table that metric resistance is taken from.",
)


@click.group()
def cli() -> None:
    """Planning aids for vehicle circuits; the vehicle maker's data and local codes come first."""


@cli.command()
@click.option("--size", type=Size(), required=True, help='For example "16 AWG", "2/0" or "10 mm2".')
@click.option("--length", type=Quantity(LENGTH), required=True, help="Total conductor length, out and back.")
@click.option("--current", type=Quantity(CURRENT), required=True)
@temperature
@metric_standard
@as_json
def drop(
    size: ConductorSize,
    length: float,
    current: float,
    temperature: float,
    metric_standard: MetricStandard,
    as_json: bool,
) -> None:
    """Voltage a wire loses at a current."""
    try:
        resistance = resistance_ohm(size, length, temperature, metric_standard)
    except PercorsoError as error:
        raise click.BadParameter(str(error), param_hint="'--size'") from error
    drop_v, power_w = resistance * current, resistance * current**2
    if as_json:
        _print_json({"resistance_ohm": resistance, "drop_v": drop_v, "power_w": power_w})
        return
    click.echo(f"{size.name}, {show(length, LENGTH)} at {show(current, CURRENT)}: {show(drop_v, VOLTAGE)} lost")
    click.echo(f"{show(resistance, RESISTANCE)}, {show(power_w, POWER)} of heat")


@cli.command("size")
@click.option("--current", type=Quantity(CURRENT), required=True)
@click.option("--length", type=Quantity(LENGTH), required=True, help="Total conductor length, out and back.")
@click.option("--supply", type=Quantity(VOLTAGE), required=True, help="Voltage at the source.")
@click.option("--max-drop", type=MaxDrop(), help='"0.5 V", or "3%" of the supply (or of --nominal).')
@click.option("--min-at-load", type=Quantity(VOLTAGE), help="Voltage the device needs.")
@click.option("--nominal", type=Quantity(VOLTAGE), help="What a percentage refers to, if not to the supply.")
@click.option("--series", type=click.Choice(["awg", "metric"]), default="awg", show_default=True)
@temperature
@metric_standard
@as_json
def size_command(
    current: float,
    length: float,
    supply: float,
    max_drop: Target | None,
    min_at_load: float | None,
    nominal: float | None,
    series: Series,
    temperature: float,
    metric_standard: MetricStandard,
    as_json: bool,
) -> None:
    """Smallest wire that meets drop and ampacity, and the fuse that suits load and wire."""
    task = WireTask(
        current_a=current,
        length_m=length,
        source_v=supply,
        allowed_drop_v=_allowed_drop_v(max_drop, min_at_load, supply, nominal),
        temperature_c=temperature,
        metric_standard=metric_standard,
    )
    choice = size_wire(task, series, HouseRules())
    if as_json:
        _print_json(_size_result(choice, task))
        return
    click.echo(f"{choice.reason}; {show(task.allowed_drop_v, VOLTAGE)} may be lost")
    if choice.chosen and choice.fuse:
        click.echo(f"{show(choice.chosen.drop_v, VOLTAGE)} lost, {show(choice.chosen.load_v, VOLTAGE)} at the device")
        rating = choice.fuse.rating_a
        click.echo(f"fuse: {f'{rating:g} A, ' if rating else ''}{choice.fuse.reason}")


def _allowed_drop_v(max_drop: Target | None, min_at_load: float | None, supply: float, nominal: float | None) -> float:
    if (max_drop is None) == (min_at_load is None):
        raise click.UsageError('give one of --max-drop ("0.5 V" or "3%") and --min-at-load ("12 V")')
    target = max_drop or Target("min_device_v", min_at_load or 0.0)
    allowed = target.allowed_drop_v(supply, nominal or supply)
    if not 0 < allowed < supply:
        option = "--max-drop" if max_drop else "--min-at-load"
        hint = "write less than --supply"
        raise click.BadParameter(f"leaves {allowed:.4g} V to lose of {supply:.4g} V; {hint}", param_hint=f"'{option}'")
    return allowed


def _size_result(choice: SizeChoice, task: WireTask) -> dict[str, Any]:
    chosen = choice.chosen
    return {
        "size": choice.size,
        "resistance_ohm": chosen and chosen.resistance_ohm,
        "drop_v": chosen and chosen.drop_v,
        "load_v": chosen and chosen.load_v,
        "ampacity_a": chosen and chosen.ampacity_a,
        "fuse_a": choice.fuse and choice.fuse.rating_a,
        "governed_by": choice.governed_by,
        "allowed_drop_v": task.allowed_drop_v,
        "reason": choice.reason,
        "fuse_reason": choice.fuse and choice.fuse.reason,
        "candidates": [
            asdict(tried) | {"reason": "; ".join(tried.refused.values()) or None} for tried in choice.candidates
        ],
    }


job_argument = click.argument("job", type=click.Path(exists=True, dir_okay=False, path_type=Path))


def _network_options(command: Any) -> Any:
    """The options that say which network of a job is meant, in which state."""
    for option in (
        click.option("--input", "inputs", type=InputPosition(), multiple=True, help='For example "oil_pressure=on".'),
        click.option("--as", "stage", type=click.Choice(STAGES), default="planned", show_default=True),
        click.option("--state", type=click.Choice(STATES), required=True),
    ):
        command = option(command)
    return command


@cli.command()
@job_argument
@_network_options
@as_json
def solve(job: Path, state: State, stage: Stage, inputs: tuple[tuple[str, str], ...], as_json: bool) -> None:
    """Voltages and currents of a whole job in one operating state, and what is wrong with them."""
    network, solution = _solved(job, state, stage, inputs)
    found = behaviour(network, solution)
    if as_json:
        _print_json(_solution_result(solution) | {"findings": [asdict(each) for each in found]})
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
    return "not known" if value is None else f"{value:.4g} {unit}"


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
    try:
        network = Network(vehicle_at(vehicle_of(read_job_file(job.read_bytes())), stage))
        return network, network.solve(state, dict(inputs))
    except JobFileError as error:
        lines = (f"{each.path}: {each.message}" for each in error.problems)
        raise click.ClickException("; ".join(lines)) from error
    except PercorsoError as error:
        raise click.BadParameter(str(error), param_hint="'--input'") from error


def _print_json(result: dict[str, Any]) -> None:
    click.echo(json.dumps(result, allow_nan=False))


def main() -> None:
    """Run the command; wrong input is one line on stderr and exit code 2."""
    try:
        sys.exit(cli.main(standalone_mode=False))
    except click.ClickException as error:
        click.echo(f"percorso: {' '.join(error.format_message().split())}", err=True)
        sys.exit(2)
    except click.Abort:
        sys.exit(130)
