"""The command ``percorso ampacity``: what a wire may carry for long, and how warm it gets."""

import click

from percorso.components.conductors import ConductorSize, Gauge
from percorso.components.insulation import Insulation
from percorso.components.published_ampacity import table_ampacity_a
from percorso.components.thermal import ampacity_a, temperature_c
from percorso.quantities import CURRENT
from percorso_cli.cables import insulated
from percorso_cli.options import ambient, as_json, bundle, gauge, insulation, print_json
from percorso_cli.quantity import Quantity, Size


@click.command()
@click.option("--size", type=Size(), required=True, help='For example "16 AWG", "2/0" or "10 mm2".')
@insulation
@ambient
@bundle
@gauge
@click.option("--engine-space", is_flag=True, help="It lies in an engine space: the table's own factor counts too.")
@click.option(
    "--current", "currents", type=Quantity(CURRENT), multiple=True, help="Also tell how warm it gets at this."
)
@as_json
def ampacity(
    size: ConductorSize,
    insulation: Insulation | float,
    ambient: float,
    bundle: int,
    gauge: Gauge,
    engine_space: bool,
    currents: tuple[float, ...],
    as_json: bool,
) -> None:
    """What a wire may carry for long, by table and by the thermal model, and how warm it gets."""
    wire = insulated(size, insulation, gauge)
    if ambient >= wire.limit_c:
        message = f"air of {ambient:g} °C is as hot as the insulation is good for ({wire.limit_c:g} °C)"
        raise click.BadParameter(message, param_hint="'--ambient'")
    by_table = table_ampacity_a(
        wire.size, limit_c=wire.limit_c, air_c=ambient, bundle=bundle, engine_space=engine_space
    )
    by_model = float(ampacity_a(wire, ambient, bundle))
    asked = (*currents, by_table, by_model)
    warm = {f"{amps:.6g}": float(temperature_c(wire, amps, ambient, bundle)) for amps in asked}
    if as_json:
        at = {amps: copper if copper < float("inf") else None for amps, copper in warm.items()}
        figures = {"table_a": by_table, "model_a": by_model, "lower_a": min(by_table, by_model)}
        print_json(figures | {"limit_c": wire.limit_c, "gauge": wire.size.gauge, "temperature_c_at": at})
        return
    click.echo(f"{size.name} in {ambient:g} °C air: {by_table:.3g} A by table, {by_model:.3g} A by the thermal model")
    for amps, copper in warm.items():
        click.echo(f"{float(amps):.3g} A: " + ("melts" if copper == float("inf") else f"{copper:.0f} °C"))
