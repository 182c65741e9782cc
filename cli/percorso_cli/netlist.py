"""The command ``percorso netlist``: a job in one operating state for a circuit simulator."""

from pathlib import Path

import click

from percorso.house_rules import HouseRules
from percorso.network.spice import netlist as written
from percorso.study import Study
from percorso.vehicle.model import Stage
from percorso.vehicle.states import State
from percorso_cli.options import inputs, job_argument, stage_option, state, whole_vehicle_in
from percorso_cli.solving import solved_in


@click.command()
@job_argument
@state
@stage_option
@inputs
def netlist(job: Path, state: State, stage: Stage, inputs: tuple[tuple[str, str], ...]) -> None:
    """A job in one operating state as a SPICE netlist."""
    solved = solved_in(Study(whole_vehicle_in(job), HouseRules()), state, stage, inputs)
    if solved.solution.unsettled:
        raise click.ClickException(f"this state has no operating point: {solved.solution.unsettled[0].reason}")
    click.echo(written(solved.network, solved.solution), nl=False)
