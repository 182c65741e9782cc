"""The command ``percorso drop``: voltage a wire loses at a current."""

import click

from percorso.components.conductors import ConductorSize, Gauge, MetricStandard, resistance_ohm
from percorso.components.insulation import Insulation
from percorso.components.warm_copper import warm_copper_c
from percorso.errors import PercorsoError
from percorso.quantities import CURRENT, LENGTH, POWER, RESISTANCE, TEMPERATURE, VOLTAGE, show
from percorso_cli.cables import insulated
from percorso_cli.options import (
    as_json,
    bundle,
    gauge,
    insulation,
    metric_standard,
    print_json,
    temperature,
)
from percorso_cli.quantity import Quantity, Size


@click.command()
@click.option("--size", type=Size(), required=True, help='For example "16 AWG", "2/0" or "10 mm2".')
@click.option("--length", type=Quantity(LENGTH), required=True, help="Total conductor length, out and back.")
@click.option("--current", type=Quantity(CURRENT), required=True)
@temperature
@click.option(
    "--ambient", type=Quantity(TEMPERATURE), default="20C", show_default=True, help="Of the air, as handbooks have it."
)
@insulation
@bundle
@metric_standard
@gauge
@as_json
def drop(
    size: ConductorSize,
    length: float,
    current: float,
    temperature: float | None,
    ambient: float,
    insulation: Insulation | float,
    bundle: int,
    metric_standard: MetricStandard,
    gauge: Gauge,
    as_json: bool,
) -> None:
    """Voltage a wire loses at a current."""
    wire = insulated(size, insulation, gauge)
    copper_c = float(warm_copper_c(wire, current, ambient, bundle)) if temperature is None else temperature
    try:
        resistance = resistance_ohm(wire.size, length, copper_c, metric_standard)
    except PercorsoError as error:
        raise click.BadParameter(str(error), param_hint="'--size'") from error
    drop_v, power_w = resistance * current, resistance * current**2
    if as_json:
        made = {"gauge": gauge, "area_mm2": wire.size.area_mm2, "copper_c": copper_c}
        print_json({"resistance_ohm": resistance, "drop_v": drop_v, "power_w": power_w} | made)
        return
    too_warm = f", more than its insulation is good for ({wire.limit_c:g} °C)" if copper_c > wire.limit_c else ""
    click.echo(f"{size.name}, {show(length, LENGTH)} at {show(current, CURRENT)}: {show(drop_v, VOLTAGE)} lost")
    click.echo(f"{show(resistance, RESISTANCE)}, {show(power_w, POWER)} of heat")
    click.echo(f"{wire.size.area_mm2:.3g} mm² of copper at {copper_c:.0f} °C{too_warm}")
