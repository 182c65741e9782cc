"""The command ``percorso cold``: how cold it may be for an engine still to be cranked."""

from dataclasses import asdict
from pathlib import Path

import click

from percorso.house_rules import HouseRules
from percorso.states.cold_start import ColdStart, cold_starts
from percorso.study import Study
from percorso.vehicle.model import Stage, Vehicle
from percorso_cli.options import as_json, job_argument, print_json, rules, stage_option, whole_vehicle_in


@click.command()
@job_argument
@stage_option
@rules
@as_json
def cold(job: Path, stage: Stage, rules: HouseRules, as_json: bool) -> None:
    """How cold it may be for each starter still to crank, what limits it then, and what cures would win."""
    study = Study(whole_vehicle_in(job), rules)
    vehicle = study.at(stage).vehicle
    found = cold_starts(vehicle)
    if not found:
        raise click.ClickException("there is no starter that a battery feeds at this stage")
    if as_json:
        morning = {"coldest_morning_c": rules.coldest_morning_c}
        print_json(morning | {"starters": [asdict(each) | {"starts_c": each.coldest_c} for each in found]})
        return
    for each in found:
        _say(vehicle, each, rules.coldest_morning_c)


def _say(vehicle: Vehicle, found: ColdStart, morning_c: float) -> None:
    device = vehicle.devices[found.device_id]
    down_to = "on no morning" if found.coldest_c is None else f"down to {round(found.coldest_c)} °C"
    enough = found.coldest_c is not None and found.coldest_c <= morning_c
    asked = f"the house asks for {morning_c:g} °C{'' if enough else ': not enough'}"
    click.echo(f"{device.designation} {device.name} cranks {down_to}; {asked}")
    click.echo(f"limited by the {found.limit}: {found.why}" if found.limit else found.why)
    for each in found.curve:
        speed = "does not turn" if not each.speed else f"{each.speed:.0%} of its speed"
        posts = "never at rest" if each.posts_v is None else f"{each.posts_v:.1f} V at the posts"
        click.echo(f"  {each.outside_c:.0f} °C: {posts}, {speed}")
    for win in found.wins:
        click.echo(f"{win.what}: {win.kelvin:.0f} K colder")
