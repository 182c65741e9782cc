"""A state of a job as commands ask for it."""

import click

from percorso.errors import PercorsoError, PreparationError
from percorso.study import SolvedStage, Study
from percorso.vehicle.model import Stage
from percorso.vehicle.states import State
from percorso.verification.measured.preparations import Preparation


def solved_in(
    study: Study,
    state: State,
    stage: Stage,
    inputs: tuple[tuple[str, str], ...],
    preparations: tuple[Preparation, ...] = (),
) -> SolvedStage:
    """A state of a job with inputs as chosen, prepared for a test or as it is. Raises ClickException."""
    try:
        solved = study.solved(state, stage, dict(inputs), preparations)
    except PreparationError as error:
        raise click.BadParameter(str(error), param_hint="'--with'") from error
    except PercorsoError as error:
        raise click.BadParameter(str(error), param_hint="'--input'") from error
    if solved is None:
        raise click.ClickException("there is no point in this job yet, so nothing to solve")
    return solved
