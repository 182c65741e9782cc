"""The command ``percorso pull``: what a fuse, a relay or a joint taken out changes in every state."""

from pathlib import Path
from typing import Any

import click

from percorso.errors import PercorsoError, PreparationError
from percorso.house_rules import HouseRules
from percorso.states.pulling import Pulled, PulledEffect
from percorso.study import Study
from percorso.vehicle.model import Stage, Vehicle
from percorso_cli.options import as_json, inputs, job_argument, names_of, print_json, stage_option, whole_vehicle_in


@click.command()
@job_argument
@click.option("--part", required=True, help="A fuse, link, breaker, relay or joint to ground: F3.")
@stage_option
@inputs
@as_json
def pull(job: Path, part: str, stage: Stage, inputs: tuple[tuple[str, str], ...], as_json: bool) -> None:
    """What goes dead when a part is taken out, state by state, and what stays on and through what."""
    study = Study(whole_vehicle_in(job), HouseRules())
    if not study.vehicle.points:
        raise click.ClickException("there is no point in this job yet, so nothing to take out")
    try:
        [pulled] = study.pulled(stage, dict(inputs), part)
    except PreparationError as error:
        raise click.BadParameter(str(error), param_hint="'--part'") from error
    except PercorsoError as error:
        raise click.BadParameter(str(error), param_hint="'--input'") from error
    if as_json:
        print_json({"part": pulled.part, "rows": [_row(each) for each in pulled.changes]})
        return
    _print(study.at(stage).vehicle, pulled)


def _row(change: PulledEffect) -> dict[str, Any]:
    return {
        "device": change.before.device_id,
        "state": change.before.state,
        "inputs": dict(change.chosen),
        "before": change.before.does,
        "after": change.after.does,
        "before_v": change.before.voltage_v,
        "after_v": change.after.voltage_v,
        "effect": change.effect,
        "through": list(change.through.parts) if change.through else [],
    }


def _print(vehicle: Vehicle, pulled: Pulled) -> None:
    changed = [each for each in pulled.changes if each.effect != "as before"]
    for each in changed:
        device = vehicle.devices[each.before.device_id]
        through = f" through {names_of(vehicle, each.through.parts)}" if each.through else ""
        click.echo(f"{device.designation} {device.name}, {each.before.state}: {each.effect}{through}")
    if not changed:
        click.echo("nothing changes in any state")
