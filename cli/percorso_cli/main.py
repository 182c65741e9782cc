"""The command ``percorso``: voltage drop of a wire, and the size and fuse a current wants."""

import json
import sys
from dataclasses import asdict
from typing import Any

import click

from percorso.conductors import METRIC_STANDARDS, ConductorSize, MetricStandard, Series, resistance_ohm
from percorso.errors import PercorsoError
from percorso.house_rules import HouseRules
from percorso.quantities import CURRENT, LENGTH, POWER, RESISTANCE, TEMPERATURE, VOLTAGE, show
from percorso.sizing import SizeChoice, WireTask, size_wire
from percorso.vehicle import Target
from percorso_cli.quantity import MaxDrop, Quantity, Size

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


def _print_json(result: dict[str, Any]) -> None:
    click.echo(json.dumps(result, allow_nan=False))


def main() -> None:
    """Run the command; wrong input is one line on stderr and exit code 2."""
    try:
        cli.main(standalone_mode=False)
    except click.ClickException as error:
        click.echo(f"percorso: {' '.join(error.format_message().split())}", err=True)
        sys.exit(2)
    except click.Abort:
        sys.exit(130)
