"""Options and output the commands share, and how a job file becomes a vehicle."""

import json
from pathlib import Path
from typing import Any

import click
from pydantic import BaseModel

from percorso.conductors import METRIC_STANDARDS
from percorso.errors import JobFileError
from percorso.importing import read_job_file
from percorso.jobfile import vehicle_of
from percorso.quantities import TEMPERATURE
from percorso.stages import vehicle_at
from percorso.vehicle import STAGES, Stage, Vehicle
from percorso_cli.quantity import Quantity

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
stage = click.option("--as", "stage", type=click.Choice(STAGES), default="planned", show_default=True)
JOB_PATH = click.Path(exists=True, dir_okay=False, path_type=Path)


def whole_vehicle_in(job: Path) -> Vehicle:
    """The vehicle of a job file, found and planned together. Raises ClickException with all that is wrong with it."""
    try:
        return vehicle_of(read_job_file(job.read_bytes()))
    except JobFileError as error:
        lines = (f"{each.path}: {each.message}" for each in error.problems)
        raise click.ClickException("; ".join(lines)) from error


def vehicle_in(job: Path, stage: Stage) -> Vehicle:
    """The vehicle of a job file at a stage. Raises ClickException."""
    return vehicle_at(whole_vehicle_in(job), stage)


def require(context: click.Context, *names: str) -> None:
    """Raise MissingParameter for the first of these options that was not given."""
    for parameter in context.command.params:
        if parameter.name in names and context.params[parameter.name] is None:
            raise click.MissingParameter(ctx=context, param=parameter)


def print_json(result: dict[str, Any]) -> None:
    """Print one JSON object; what is not a number in JSON is refused."""
    click.echo(json.dumps(result, allow_nan=False, default=_as_data))


def _as_data(value: object) -> Any:
    """The edits of a cure as data."""
    if isinstance(value, BaseModel):
        return value.model_dump()
    raise TypeError(f"{type(value).__name__} has no place in JSON")
