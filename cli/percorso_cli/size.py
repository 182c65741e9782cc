"""The command ``percorso size``: one wire, or all of a job file."""

from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import click
from click.core import ParameterSource

from percorso.components.conductors import Gauge, MetricStandard, Series
from percorso.components.insulation import Insulation
from percorso.house_rules import HouseRules, School
from percorso.quantities import CURRENT, LENGTH, VOLTAGE, show
from percorso.sizing.advice import Recommendation
from percorso.sizing.search import recommend
from percorso.sizing.wire_size import Duty, SizeChoice, WireTask, size_wire
from percorso.targets import Target
from percorso.vehicle.model import Stage
from percorso_cli.options import (
    JOB_PATH,
    ambient,
    as_json,
    bundle,
    gauge,
    insulation,
    metric_standard,
    print_json,
    require,
    rules,
    school,
    stage_option,
    temperature,
    vehicle_in,
)
from percorso_cli.quantity import MaxDrop, Quantity

OF_A_FILE = ("job", "circuits", "stage", "series", "rules", "school", "as_json")  # what ``size --file`` goes by
OF_ONE_WIRE = ("circuits", "stage")  # what it does not go by without a file
MEANS_SOMETHING = 0.4  # of nominal: a lead that may lose more, in its lamp, has no target worth a word


@click.command()
@click.option("--file", "job", type=JOB_PATH, help="A job file: sizes all its wires, fuses and contacts instead.")
@click.option("--circuit", "circuits", multiple=True, help="Id of one circuit of the file; default: all.")
@stage_option
@click.option("--current", type=Quantity(CURRENT))
@click.option("--length", type=Quantity(LENGTH), help="Total conductor length, out and back.")
@click.option("--supply", type=Quantity(VOLTAGE), help="Voltage at the source.")
@click.option("--max-drop", type=MaxDrop(), help='"0.5 V", or "3%" of the supply (or of --nominal).')
@click.option("--min-at-load", type=Quantity(VOLTAGE), help="Voltage the device needs.")
@click.option("--nominal", type=Quantity(VOLTAGE), help="What a percentage refers to, if not to the supply.")
@click.option("--series", type=click.Choice(["awg", "metric"]), help="Default: AWG, or each wire's own in a file.")
@temperature
@ambient
@insulation
@bundle
@gauge
@metric_standard
@rules
@school
@as_json
@click.pass_context
def size(
    context: click.Context,
    job: Path | None,
    circuits: tuple[str, ...],
    stage: Stage,
    current: float,
    length: float,
    supply: float,
    max_drop: Target | None,
    min_at_load: float | None,
    nominal: float | None,
    series: Series | None,
    temperature: float | None,
    ambient: float,
    insulation: Insulation | float,
    bundle: int,
    gauge: Gauge,
    metric_standard: MetricStandard,
    rules: HouseRules,
    school: School | None,
    as_json: bool,
) -> None:
    """The wire that meets drop and heat, and the fuse that suits; or all of a job file at once."""
    rules = replace(rules, school=school) if school else rules
    _refuse_unused(context, with_file=job is not None)
    if job is not None:
        _size_job(job, stage, circuits, series, rules, as_json=as_json)
        return
    require(context, "current", "length", "supply")
    task = WireTask(
        current_a=current,
        length_m=length,
        source_v=supply,
        allowed_drop_v=_allowed_drop_v(max_drop, min_at_load, supply, nominal),
        temperature_c=ambient if temperature is None and rules.copper == "zone temperature" else temperature,
        metric_standard=metric_standard,
        duty=Duty(current, air_c=ambient, insulation=insulation, insists=True, gauge=gauge, bundle=bundle),
    )
    choice = size_wire(task, series or "awg", rules)
    if as_json:
        print_json(_size_result(choice, task, rules))
        return
    click.echo(f"{choice.reason}; {show(task.allowed_drop_v, VOLTAGE)} may be lost")
    if choice.chosen and choice.fuse:
        lost, left, warm_c = choice.chosen.drop_v, choice.chosen.load_v, choice.chosen.copper_c
        click.echo(f"{show(lost, VOLTAGE)} lost, {show(left, VOLTAGE)} at the device; copper at {warm_c:.0f} °C")
        rating = choice.fuse.rating_a
        click.echo(f"fuse: {f'{rating:g} A, ' if rating else ''}{choice.fuse.reason}")


def _refuse_unused(context: click.Context, *, with_file: bool) -> None:
    """Refuse what was written and would change nothing: a file says it wire by wire."""
    for parameter in context.command.params:
        name = parameter.name or ""
        unused = name not in OF_A_FILE if with_file else name in OF_ONE_WIRE
        if unused and context.get_parameter_source(name) is ParameterSource.COMMANDLINE:
            why = "the file says it for each wire" if with_file else "it is of a job file"
            raise click.UsageError(f"{parameter.opts[0]} goes {'not with' if with_file else 'only with'} --file: {why}")


def _allowed_drop_v(max_drop: Target | None, min_at_load: float | None, supply: float, nominal: float | None) -> float:
    if (max_drop is None) == (min_at_load is None):
        raise click.UsageError('give one of --max-drop ("0.5 V" or "3%") and --min-at-load ("12 V")')
    target = max_drop or Target("min_device_v", min_at_load or 0.0)
    allowed = target.allowed_drop_v(supply, nominal or supply)
    if not 0 < allowed < supply:
        option = "--max-drop" if max_drop else "--min-at-load"
        hint = "write less than --supply"
        raise click.BadParameter(f"leaves {allowed:.4g} V to lose of {supply:.4g} V; {hint}", param_hint=f"'{option}'")
    return allowed


def _size_result(choice: SizeChoice, task: WireTask, rules: HouseRules) -> dict[str, Any]:
    chosen = choice.chosen
    return {
        "school": rules.school,
        "size": choice.size,
        "resistance_ohm": chosen and chosen.resistance_ohm,
        "drop_v": chosen and chosen.drop_v,
        "load_v": chosen and chosen.load_v,
        "ampacity_a": chosen and chosen.ampacity_a,
        "fuse_a": choice.fuse and choice.fuse.rating_a,
        "governed_by": choice.governed_by,
        "allowed_drop_v": task.allowed_drop_v,
        "reason": choice.reason,
        "fuse_reason": choice.fuse and choice.fuse.reason,
        "candidates": [
            asdict(tried) | {"reason": "; ".join(tried.refused.values()) or None} for tried in choice.candidates
        ],
    }


def _size_job(
    job: Path, stage: Stage, circuits: tuple[str, ...], series: Series | None, rules: HouseRules, *, as_json: bool
) -> None:
    vehicle = vehicle_in(job, stage)
    unknown = [each for each in circuits if each not in vehicle.circuits]
    if unknown:
        known = ", ".join(vehicle.circuits)
        raise click.BadParameter(f'there is no "{unknown[0]}"; this job has {known}', param_hint="'--circuit'")
    found = recommend(vehicle, rules, circuits or None, series)
    if as_json:
        print_json(_job_result(found))
        return
    click.echo(f"school: {found.school}")
    for wire in found.wires:
        now = "stays" if wire.size == wire.present else f"was {wire.present}"
        click.echo(f"{wire.designation}: {wire.size} ({now}), governed by {wire.governed_by}: {wire.reason}")
    for fuse in found.fuses:
        rating = fuse.choice.rating_a
        click.echo(f"{fuse.designation}: {f'{rating:g} A {fuse.family}, ' if rating else ''}{fuse.choice.reason}")
    for link in found.links:
        click.echo(f"{link.designation}: {link.size or 'no such'} link, {link.reason}")
    for contact in found.contacts:
        rated = contact.choice.rated_a
        least = f"at least a {rated:g} A contact, " if rated else ""
        click.echo(f"{contact.designation}: {least}{contact.choice.reason}")
    for circuit in found.circuits:
        figures = f"{show(circuit.drop_v, VOLTAGE)} lost"
        if circuit.allowed_drop_v < MEANS_SOMETHING * found.vehicle.nominal_v:
            figures += f" of {show(circuit.allowed_drop_v, VOLTAGE)} allowed"
        said = f"; {circuit.problem}: {', or '.join(circuit.ways_out)}" if circuit.problem else ""
        note = f"; {circuit.note}" if circuit.note else ""
        click.echo(f"{circuit.name}: {figures}{said}{note}")
    click.echo(f"copper: {found.copper_kg:.3g} kg, now {found.present_copper_kg:.3g} kg")


def _job_result(found: Recommendation) -> dict[str, Any]:
    return {
        "school": found.school,
        "circuits": [asdict(each) for each in found.circuits],
        "wires": [
            asdict(each) | {"ampacity_a": each.ampacity.allowed_a, "reason": each.reason} for each in found.wires
        ],
        "fuses": [
            asdict(each) | {"rating_a": each.choice.rating_a, "reason": each.choice.reason} for each in found.fuses
        ],
        "links": [asdict(each) for each in found.links],
        "contacts": [
            asdict(each) | {"rated_a": each.choice.rated_a, "reason": each.choice.reason} for each in found.contacts
        ],
        "copper_kg": found.copper_kg,
        "present_copper_kg": found.present_copper_kg,
        "changes": found.changes,
    }
