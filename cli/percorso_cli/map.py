"""The command ``percorso map``: the whole vehicle on one page, in one state."""

from pathlib import Path
from typing import Any

import click

from percorso.files.job_file import vehicle_of
from percorso.house_rules import HouseRules
from percorso.map.drawing import drawn, heading_of
from percorso.map.layout import MapLayout, layout_of
from percorso.map.picture import DrawnRow, picture_of
from percorso.network.results import Solution
from percorso.study import Study
from percorso.vehicle.model import Stage, Vehicle
from percorso.vehicle.states import STATES, State
from percorso_cli.options import as_json, inputs, job_argument, job_in, print_json, stage_option
from percorso_cli.solving import solved_in


@click.command()
@job_argument
@stage_option
@click.option("--state", type=click.Choice(STATES), default="on", show_default=True)
@inputs
@as_json
@click.option("--svg", "as_svg", is_flag=True, help="Print a drawing that any browser shows, instead of text.")
def map(
    job: Path, stage: Stage, state: State, inputs: tuple[tuple[str, str], ...], as_json: bool, as_svg: bool
) -> None:
    """The whole vehicle on one page: plus at the left, minus at the right, each device a row between them."""
    if as_json and as_svg:
        raise click.UsageError("take one of --json and --svg")
    file = job_in(job)
    solved = solved_in(Study(vehicle_of(file), HouseRules()), state, stage, inputs)
    vehicle = solved.vehicle
    if as_json:
        print_json(_map_result(layout_of(vehicle), solved.solution))
    elif as_svg:
        click.echo(drawn(picture_of(vehicle, solved.solution), heading_of(file.vehicle, stage, state)), nl=False)
    else:
        for row in picture_of(vehicle, solved.solution).rows:
            click.echo(_row_line(vehicle, row))


def _row_line(vehicle: Vehicle, row: DrawnRow) -> str:
    """One row from the left to the right: the way from plus, the device between its terminals, the way to minus."""
    stops = [f"{row.designation} {row.name}"]
    if row.left:
        supply = [vehicle.segments[each].designation for each in reversed(row.left.way)]
        stops = ["plus", *supply, f"[{row.left.terminal}", *stops]
    if row.right:
        back = [vehicle.segments[each].designation for each in row.right.way]
        stops += [f"{row.right.terminal}]", *back, *(["minus"] if row.right.side == "return" else [])]
    return " ".join(stops)


def _map_result(layout: MapLayout, solution: Solution) -> dict[str, Any]:
    return {
        "rows": [{"device": each.device, "terminal": each.terminal, "y": each.y} for each in layout.terminals],
        "points": [
            {"point": each.point, "side": each.side, "x": each.x, "y": each.y, "bar": [each.top, each.bottom]}
            for each in layout.points
        ],
        "segments": [
            {
                "segment": each.segment,
                "from": each.start,
                "to": each.end,
                "bend": each.bend,
                "side": each.side,
                "current_a": solution.segments[each.segment].current_a,
                "drop_v": solution.segments[each.segment].drop_v,
            }
            for each in layout.segments
        ],
        "crossings": layout.crossings,
    }
