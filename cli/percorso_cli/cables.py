"""A wire that is named on the command line, as heat sees it."""

import click

from percorso.components.conductors import ConductorSize, Gauge, in_gauge
from percorso.components.insulation import Insulation, family
from percorso.components.thermal import Cable, cable


def insulated(size: ConductorSize, insulation: Insulation | float, gauge: Gauge) -> Cable:
    """A size in an insulation. Raises BadParameter where it is not made in it."""
    if not isinstance(insulation, float) and not family(insulation).is_made_in(size.area_mm2):
        kind = family(insulation)
        message = f"{insulation} is made from {kind.thinnest_mm2:g} to {kind.thickest_mm2:g} mm², not in {size.name}"
        raise click.BadParameter(message, param_hint="'--insulation'")
    return cable(in_gauge(size, gauge), insulation)
