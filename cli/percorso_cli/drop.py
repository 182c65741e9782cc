"""The command ``percorso drop``: voltage a wire loses at a current."""

import click

from percorso.components.conductors import ConductorSize, Gauge, MetricStandard, in_gauge, resistance_ohm
from percorso.errors import PercorsoError
from percorso.quantities import CURRENT, LENGTH, POWER, RESISTANCE, VOLTAGE, show
from percorso_cli.options import as_json, gauge, metric_standard, print_json, temperature
from percorso_cli.quantity import Quantity, Size


@click.command()
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
