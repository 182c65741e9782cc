"""The command ``percorso measure``: what instruments would show, on sound metal or with hidden faults."""

from pathlib import Path
from typing import Any, TypeVar

import click
from pydantic import TypeAdapter, ValidationError

from percorso.errors import PercorsoError
from percorso.faults.model import FAULTS
from percorso.json_text import read_json
from percorso.plain import plain_messages
from percorso.verification.bench.virtual_bench import measure as shown
from percorso.verification.measured.instruments import UNITS
from percorso.verification.measured.measurements import MEASUREMENTS, Measurement
from percorso_cli.options import JOB_PATH, as_json, job_argument, print_json, whole_vehicle_in

MOST_BYTES = 5_000_000
OF_A_TEST = {  # what ``percorso tests`` and ``trace`` say besides, so that their answers can be measured as they are
    *("bits", "tells"),
    *("id", "about", "circuit", "title", "group", "expected", "target", "only_if", "minutes", "how", "caution"),
}
_Read = TypeVar("_Read")


@click.command()
@job_argument
@click.option("--measurements", type=JOB_PATH, required=True, help="A JSON list of what is measured.")
@click.option("--fault", "faults", type=JOB_PATH, help="A JSON fault, or a list of them.")
@click.option("--noise", type=click.IntRange(0), help="Seed of the instrument's errors; without it there are none.")
@as_json
def measure(job: Path, measurements: Path, faults: Path | None, noise: int | None, as_json: bool) -> None:
    """What instruments would show, on sound metal or with hidden faults; fuses that cannot carry it have blown."""
    vehicle = whole_vehicle_in(job)
    asked = read_listed(measurements, MEASUREMENTS, "'--measurements'", without_the_rest)
    hidden = read_listed(faults, FAULTS, "'--fault'", _without_weight) if faults else []
    try:
        found = shown(vehicle, asked, hidden, noise)
    except PercorsoError as error:
        of_faults = error.field[:1] == ("faults",)
        place = ".".join(map(str, error.field[1:] if of_faults else error.field))
        hint = "'--fault'" if of_faults else "'--measurements'"
        raise click.BadParameter(f"{place}: {error}", param_hint=hint) from error
    if as_json:
        print_json([each.model_dump(mode="json", by_alias=True) for each in found])
        return
    for as_asked, each in zip(asked, found, strict=True):
        click.echo(f"{_where(as_asked)}: {_reading_text(each)}")


def without_the_rest(listed: Any) -> Any:
    """Measurements without what a test says of them besides."""
    if not isinstance(listed, list):
        return listed
    return [
        {key: value for key, value in each.items() if key not in OF_A_TEST} if isinstance(each, dict) else each
        for each in listed
    ]


def _without_weight(listed: Any) -> Any:
    """Faults without how often each is met, which ``percorso faults`` says besides."""
    faults = listed if isinstance(listed, list) else [listed]
    return [
        {key: value for key, value in each.items() if key != "weight"} if isinstance(each, dict) else each
        for each in faults
    ]


def read_listed(path: Path, of: TypeAdapter[_Read], hint: str, prepare: Any = lambda listed: listed) -> _Read:
    """A JSON file as data. Raises BadParameter naming what is wrong in it."""
    try:
        if path.stat().st_size > MOST_BYTES:
            raise click.BadParameter("the file is larger than 5 MB", param_hint=hint)
        return of.validate_python(prepare(read_json(path.read_text(encoding="utf-8"))))
    except ValidationError as error:
        raise click.BadParameter(plain_messages(error.errors()), param_hint=hint) from error
    except ValueError as error:
        raise click.BadParameter(f"{path} is no JSON", param_hint=hint) from error


def _where(measurement: Measurement) -> str:
    place = [each for each in (measurement.red_point, measurement.black_point) if each]
    return f"{measurement.quantity} {' – '.join(place) or measurement.segment or measurement.device}"


def _reading_text(measurement: Measurement) -> str:
    if measurement.value is None:
        return measurement.outcome or "no reading"
    word = f", {measurement.outcome}" if measurement.outcome else ""
    return f"{measurement.value:.4g} {UNITS[measurement.quantity]}{word}"
