"""The command ``percorso findings``: what the rules notice of a job, as its board shows it."""

from dataclasses import asdict
from pathlib import Path

import click

from percorso.errors import PercorsoError
from percorso.house_rules import HouseRules
from percorso.study import Study
from percorso.vehicle.model import Stage
from percorso.vehicle.states import STATES, State
from percorso_cli.options import (
    as_json,
    finding_line,
    inputs,
    job_argument,
    print_json,
    rules,
    stage_option,
    whole_vehicle_in,
)


@click.command()
@job_argument
@stage_option
@click.option("--state", type=click.Choice(STATES), default="idle", show_default=True)
@inputs
@rules
@as_json
def findings(
    job: Path, stage: Stage, state: State, inputs: tuple[tuple[str, str], ...], rules: HouseRules, as_json: bool
) -> None:
    """What the rules notice of a job: of its plan, and of the whole vehicle in one operating state."""
    study = Study(whole_vehicle_in(job), rules)
    try:
        in_state = study.state_findings(state, stage, dict(inputs))
    except PercorsoError as error:
        raise click.BadParameter(str(error), param_hint="'--input'") from error
    of_plan = study.plan_findings(stage)
    if as_json:
        print_json({"plan": [asdict(each) for each in of_plan], "state": [asdict(each) for each in in_state]})
        return
    for finding in (*of_plan, *in_state):
        click.echo(finding_line(finding))
    if not of_plan and not in_state:
        click.echo("nothing to find fault with")
