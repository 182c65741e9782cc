"""The command ``percorso lay``: a route starter from the command line."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from itertools import count
from pathlib import Path
from typing import Any, get_args

import click

from percorso.components.conductors import Series
from percorso.errors import AnswersError, PercorsoError
from percorso.files.job_file import JobHead, job_file_of, vehicle_of, write_job_file
from percorso.house_rules import HouseRules, School
from percorso.plain import plain_message
from percorso.planning.templates import STARTERS, answered, lay_starter
from percorso.vehicle.form_fields import form_fields
from percorso.vehicle.model import Vehicle
from percorso_cli.options import JOB_PATH, job_in, rules, school

NOMINAL_V = ("6", "12", "24")


class Answer(click.ParamType[tuple[str, str]]):
    """The answer to a question: ``amps=15 A``."""

    name = "key=value"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> tuple[str, str]:
        """Key and value."""
        if isinstance(value, tuple):
            return value
        key, equals, answer = value.partition("=")
        if not equals:
            self.fail(f'"{value}" is no answer; write for example "amps=15 A"', param, ctx)
        return key.strip(), answer.strip()


@click.command()
@click.argument("kind", required=False)
@click.option("--kinds", is_flag=True, help="List the starters with the keys of their questions and the usual answers.")
@click.option("--on", "job", type=JOB_PATH, help="The job it is laid on; default: one with nothing in it yet.")
@click.option("--answer", "answers", type=Answer(), multiple=True, help='For example "length_m=3 m".')
@click.option("--nominal", type=click.Choice(NOMINAL_V), default="12", show_default=True, help="V, of a new job.")
@click.option("--series", type=click.Choice(get_args(Series)), default="metric", show_default=True)
@rules
@school
@click.pass_context
def lay(
    context: click.Context,
    kind: str | None,
    kinds: bool,
    job: Path | None,
    answers: tuple[tuple[str, str], ...],
    nominal: str,
    series: Series,
    rules: HouseRules,
    school: School | None,
) -> None:
    """Lay a usual route, sized, and print the job file with it."""
    if kinds:
        for line in _listed():
            click.echo(line)
        return
    if kind is None:
        raise click.MissingParameter(ctx=context, param=context.command.params[0])
    if kind not in STARTERS:
        raise click.BadParameter(f'there is no "{kind}"; there is {", ".join(STARTERS)}', param_hint="'KIND'")
    rules = replace(rules, school=school) if school else rules
    before = job_in(job) if job else None
    vehicle = vehicle_of(before) if before else Vehicle(float(nominal), {}, {})
    head = JobHead(before.name, before.vehicle, before.wish) if before else JobHead(STARTERS[kind].TITLE, "Vehicle", "")
    try:
        starter = answered(kind, dict(answers))
        laid, _ = lay_starter(vehicle, starter, rules, _new_ids(vehicle), series)
    except AnswersError as error:
        raise click.ClickException(_refused(kind, error.items)) from error
    except PercorsoError as error:
        raise click.ClickException(": ".join([*map(str, error.field), str(error)])) from error
    kept = (before.readings, before.photos, before.cases) if before else ((), (), ())
    click.echo(write_job_file(job_file_of(head, laid, *kept)), nl=False)


def _refused(kind: str, problems: Sequence[Any]) -> str:
    """What is wrong with answers, each by its key."""
    keys = ", ".join(each.name for each in form_fields(STARTERS[kind]))
    said = []
    for each in problems:
        key, message = ".".join(map(str, each["loc"])), plain_message(each)
        message += f"; this starter asks for {keys}" if each["type"] == "extra_forbidden" else ""
        said.append(f"{key}: {message}")
    return "; ".join(said)


def _new_ids(vehicle: Vehicle) -> Callable[[], str]:
    """Ids that nothing in the vehicle has, the same each time."""
    taken = {*vehicle.points, *vehicle.segments, *vehicle.devices, *vehicle.circuits}
    free = (made for number in count(1) if (made := f"laid-{number}") not in taken)
    return lambda: next(free)


def _listed() -> Iterator[str]:
    for key, kind in STARTERS.items():
        yield f"{key}: {kind.SAYS}"
        for each in form_fields(kind):
            choices = f" ({', '.join(one.value for one in each.choices)})" if each.choices else ""
            yield f"  {each.name}={each.start}: {each.label}{choices}"
