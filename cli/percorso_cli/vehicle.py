"""The command ``percorso vehicle``: the usual vehicle of its kind as found, from answers to a few questions."""

from typing import Any

import click

from percorso.errors import UnknownNameError
from percorso.files.job_file import JobHead, job_file_of, write_job_file
from percorso.usual_vehicles.laying import usual_vehicle
from percorso.usual_vehicles.questions import QUESTIONS, Question
from percorso_cli.lay import Answer
from percorso_cli.options import print_json


@click.command()
@click.option("--questions", is_flag=True, help="List the questions with keys and choices, as JSON.")
@click.option("--answer", "answers", type=Answer(), multiple=True, help='For example "starting=start relay".')
def vehicle(questions: bool, answers: tuple[tuple[str, str], ...]) -> None:
    """Lay the usual vehicle that came in, and print its job file; what is not answered is taken as usual."""
    if questions:
        print_json({"questions": [_question(each) for each in QUESTIONS]})
        return
    try:
        laid = usual_vehicle(dict(answers))
    except UnknownNameError as error:
        raise click.ClickException(str(error)) from error
    kind = dict(answers).get("kind", next(each.usual for each in QUESTIONS if each.key == "kind"))
    head = JobHead("As it came in", kind.capitalize(), "")
    click.echo(write_job_file(job_file_of(head, laid, [], came_in=dict(answers))), nl=False)


def _question(each: Question) -> dict[str, Any]:
    """A question; of one that takes several, ``any_of`` are listed apart by commas."""
    asked = {"key": each.key, "asks": each.asks, "choices": None if each.several else each.choices, "usual": each.usual}
    return asked | ({"any_of": each.choices} if each.several else {})
