"""The command ``percorso faults``: everything that can be bad in a job, and how often that is met."""

from pathlib import Path
from typing import Any

import click

from percorso.faults.library import FaultMode, library
from percorso.faults.wording import fault_name
from percorso.vehicle.model import Stage
from percorso.vehicle.stages import vehicle_at
from percorso_cli.options import as_json, job_argument, names_of, print_json, stage_option, whole_vehicle_in


@click.command()
@job_argument
@stage_option
@as_json
def faults(job: Path, stage: Stage, as_json: bool) -> None:
    """Every way a part of a job can be bad, each with its weight beside all others."""
    vehicle = vehicle_at(whole_vehicle_in(job), stage)
    ways = library(vehicle)
    if as_json:
        print_json({"faults": [row for each in ways for row in _rows(each)]})
        return
    for each in sorted(ways, key=lambda way: -way.weight):
        of = f", {', '.join(each.because)}" if each.because else ""
        click.echo(f"{names_of(vehicle, [each.part])}: {fault_name(each.fault)} (weight {each.weight:.3g}{of})")


def _rows(way: FaultMode) -> list[dict[str, Any]]:
    """A way as faults that ``percorso measure --fault`` takes."""
    weight = way.weight / len(way.faults)
    return [each.model_dump(exclude_none=True) | {"weight": weight} for each in way.faults]
