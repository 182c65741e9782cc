"""Options and output the commands share, and how a job file becomes a vehicle."""

import json
from collections.abc import Iterable
from pathlib import Path
from typing import Any, get_args

import click
from pydantic import BaseModel, ValidationError

from percorso.components.conductors import GAUGES, METRIC_STANDARDS
from percorso.components.published_ampacity import TABLE_AIR_C
from percorso.errors import JobFileError
from percorso.files.house_rules import read_rules
from percorso.files.job_file import JobFile, vehicle_of
from percorso.files.reading import read_job_file
from percorso.findings.finding import Finding
from percorso.house_rules import HouseRules, School
from percorso.plain import plain_messages
from percorso.quantities import TEMPERATURE
from percorso.vehicle.copper import by_house
from percorso.vehicle.model import STAGES, Stage, Vehicle
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import STATES
from percorso.verification.measured.preparations import EXAMPLES
from percorso_cli.quantity import Doing, InputPosition, InsulationOrLimit, Quantity

as_json = click.option("--json", "as_json", is_flag=True, help="Print one JSON object instead of text.")
temperature = click.option(
    "--temperature",
    type=Quantity(TEMPERATURE),
    help="Of the copper, as in a handbook; default: as warm as its current makes it.",
)
metric_standard = click.option(
    "--metric-standard",
    type=click.Choice(METRIC_STANDARDS),
    default=METRIC_STANDARDS[0],
    show_default=True,
    help="Table that metric resistance is taken from.",
)
gauge = click.option(
    "--gauge",
    type=click.Choice(GAUGES),
    default="astm",
    show_default=True,
    help="What AWG numbers hold: ASTM B258, or the least copper of road-vehicle cable to SAE J1128.",
)
bundle = click.option(
    "--bundle", type=click.IntRange(1, 100), default=1, show_default=True, help="Loaded wires together."
)
insulation = click.option(
    "--insulation",
    type=InsulationOrLimit(),
    default="105C",
    show_default=True,
    help="A family, or what it is good for.",
)
ambient = click.option(
    "--ambient", type=Quantity(TEMPERATURE), default=f"{TABLE_AIR_C:g}C", show_default=True, help="Of the air."
)
MOST_RULES = 100_000  # bytes of a file of house rules


class _Rules(click.ParamType[HouseRules]):
    """A file of house rules."""

    name = "file"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> HouseRules:
        """The rules in the file; every wrong value is named."""
        if isinstance(value, HouseRules):
            return value
        try:
            with Path(value).open("rb") as file:
                return read_rules(file.read(MOST_RULES))
        except OSError as error:
            self.fail(f"{value} cannot be read: {error.strerror}", param, ctx)
        except ValidationError as error:
            self.fail(plain_messages(error.errors()), param, ctx)
        except ValueError:
            self.fail(f"{value} is no JSON", param, ctx)


rules = click.option(
    "--rules", type=_Rules(), default=HouseRules(), help="A JSON file of house rules; what it leaves out is as usual."
)
school = click.option(
    "--school", type=click.Choice(get_args(School)), help="How much margin; default: as the house rules say."
)
stage_option = click.option(
    "--stage",
    "--as",
    "stage",
    type=click.Choice(STAGES),
    default="planned",
    show_default=True,
    help="As found or planned.",
)
inputs = click.option("--input", "inputs", type=InputPosition(), multiple=True, help='For example "oil_pressure=on".')
preparations = click.option(
    "--with", "preparations", type=Doing(), multiple=True, help=f"Done to the vehicle for a test: {EXAMPLES}."
)
state = click.option("--state", type=click.Choice(STATES), required=True)
JOB_PATH = click.Path(exists=True, dir_okay=False, path_type=Path)
job_argument = click.argument("job", type=JOB_PATH)


def job_in(path: Path) -> JobFile:
    """A job file. Raises ClickException with all that is wrong with it."""
    try:
        return read_job_file(path.read_bytes())
    except JobFileError as error:
        lines = (f"{each.path}: {each.message}" for each in error.problems)
        raise click.ClickException("; ".join(lines)) from error


def whole_vehicle_in(job: Path) -> Vehicle:
    """The vehicle of a job file, found and planned together, as every house takes it. Raises ClickException."""
    return by_house(vehicle_of(job_in(job)), HouseRules())


def vehicle_in(job: Path, stage: Stage) -> Vehicle:
    """The vehicle of a job file at a stage. Raises ClickException."""
    return vehicle_at(whole_vehicle_in(job), stage)


def names_of(vehicle: Vehicle, parts: Iterable[str]) -> str:
    """Devices and segments by their designations."""
    return ", ".join((vehicle.devices.get(each) or vehicle.segments[each]).designation for each in parts)


def finding_line(finding: Finding) -> str:
    """A finding as a line of text."""
    return f"{finding.severity}: {finding.title} {finding.reason}"


def require(context: click.Context, *names: str) -> None:
    """Raise MissingParameter for the first of these options that was not given."""
    for parameter in context.command.params:
        if parameter.name in names and context.params[parameter.name] is None:
            raise click.MissingParameter(ctx=context, param=parameter)


def print_json(result: dict[str, Any] | list[Any]) -> None:
    """Print one JSON document; what is not a number in JSON is refused."""
    click.echo(json.dumps(result, allow_nan=False, default=_as_data))


def _as_data(value: object) -> Any:
    """The edits of a cure as data."""
    if isinstance(value, BaseModel):
        return value.model_dump()
    raise TypeError(f"{type(value).__name__} has no place in JSON")
