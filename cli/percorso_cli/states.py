"""The command ``percorso states``: what is live when, whether it should be, and the proof of it."""

from collections.abc import Mapping
from pathlib import Path
from typing import Any

import click

from percorso.errors import PercorsoError, PreparationError
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.states.matrix import Cell, matrix
from percorso.states.proof import Forbidden, Proof, path_of
from percorso.states.time_line import time_line
from percorso.states.words import forbidden_text, scope_text, way_text
from percorso.study import Study
from percorso.vehicle.model import Stage
from percorso.vehicle.states import STATES, positions, read_way
from percorso.verification.measured.preparations import Preparation
from percorso_cli.options import (
    as_json,
    inputs,
    job_argument,
    names_of,
    preparations,
    print_json,
    rules,
    stage_option,
    whole_vehicle_in,
)


@click.command()
@job_argument
@stage_option
@inputs
@preparations
@click.option("--way", help='A drive to go step by step instead: "off, on, cranking, idle heater=on, road, off".')
@rules
@as_json
def states(
    job: Path,
    stage: Stage,
    inputs: tuple[tuple[str, str], ...],
    preparations: tuple[Preparation, ...],
    way: str | None,
    rules: HouseRules,
    as_json: bool,
) -> None:
    """What is live in each state, and every forbidden thing that can be brought about, with the way to it."""
    study = Study(whole_vehicle_in(job), rules)
    if not study.vehicle.points:
        raise click.ClickException("there is no point in this job yet, so nothing is live")
    chosen = dict(inputs)
    try:
        network = study.at(stage, preparations)
        if way is not None:
            _print_way(network, way, as_json=as_json)
            return
        cells = matrix(network, chosen)
    except PreparationError as error:
        raise click.BadParameter(str(error), param_hint="'--with'") from error
    except PercorsoError as error:
        raise click.BadParameter(str(error), param_hint="'--way'" if way else "'--input'") from error
    proof = study.proof(stage, preparations)
    if as_json:
        print_json(
            {
                "matrix": [_cell(network, each, chosen) for each in cells],
                "forbidden": [_forbidden(proof, each, stage) for each in proof.forbidden],
                "situations": proof.situations,
                "tried": scope_text(proof.scope),
            }
        )
        return
    _print_matrix(network, cells)
    _print_proof(proof)


def _cell(network: Network, cell: Cell, chosen: Mapping[str, str]) -> dict[str, Any]:
    standing = positions(network.vehicle.inputs, cell.state, chosen)
    return {
        "device": cell.device_id,
        "state": cell.state,
        "inputs": {each: standing[each] for each in network.vehicle.inputs},
        "meant": cell.meant,
        "does": cell.does,
        "voltage_v": cell.voltage_v,
        "current_a": cell.current_a,
    }


def _forbidden(proof: Proof, forbidden: Forbidden, stage: Stage) -> dict[str, Any]:
    path, vehicle = path_of(proof, forbidden), proof.network.vehicle
    return {
        "what": forbidden.what,
        "device": forbidden.part if forbidden.part in vehicle.devices else None,
        "segment": forbidden.part if forbidden.part in vehicle.segments else None,
        "says": forbidden_text(vehicle, forbidden),
        "situation": {"stage": stage, "state": forbidden.state, "inputs": dict(forbidden.positions)},
        "way": [{"state": step.state, "inputs": dict(step.chosen)} for step in forbidden.way],
        "path": list(path.parts) if path else [],
        "situations": forbidden.count,
    }


def _print_matrix(network: Network, cells: tuple[Cell, ...]) -> None:
    click.echo(f"{'':28}" + "".join(f"{state:>16}" for state in STATES))
    for device in network.vehicle.devices.values():
        row = [each for each in cells if each.device_id == device.id]
        click.echo(f"{device.designation} {device.name}"[:28].ljust(28) + "".join(f"{_mark(each):>16}" for each in row))


def _mark(cell: Cell) -> str:
    volts = "" if cell.voltage_v is None or cell.does == "rests" else f" {abs(cell.voltage_v):.1f}"
    return f"{'! ' if cell.is_wrong else ''}{cell.does}{volts}"


def _print_proof(proof: Proof) -> None:
    vehicle = proof.network.vehicle
    click.echo(scope_text(proof.scope))
    for each in proof.forbidden:
        click.echo(f"error: {forbidden_text(vehicle, each)} Steps: {', '.join(way_text(vehicle, each.way))}.")
        path = path_of(proof, each)
        if path and path.parts:
            click.echo(f"  through {names_of(vehicle, path.parts)}")
    if not proof.forbidden:
        click.echo("Nothing forbidden can happen.")


def _print_way(network: Network, way: str, *, as_json: bool) -> None:
    """Raises StateError."""
    moments = time_line(network, read_way(way))
    if as_json:
        print_json(
            {
                "steps": [
                    {
                        "state": moment.step.state,
                        "inputs": dict(moment.step.chosen),
                        "running_on": moment.running_on,
                        "events": [{"device": device, "event": event} for device, event in moment.events],
                        "devices": {
                            each.device_id: {"does": each.does, "voltage_v": each.voltage_v} for each in moment.cells
                        },
                    }
                    for moment in moments
                ]
            }
        )
        return
    for moment in moments:
        happened = (f"{network.vehicle.devices[device].designation} {event}" for device, event in moment.events)
        runs = "the engine runs on; " if moment.running_on else ""
        click.echo(f"{moment.step.state}: {runs}{', '.join(happened) or 'nothing changes'}")
