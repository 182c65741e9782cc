"""The commands ``size``, for one wire or a whole job, and ``ampacity``."""

from dataclasses import asdict
from pathlib import Path
from typing import Any

import click

from percorso.conductors import ConductorSize, MetricStandard, Series
from percorso.heating import Cable, ampacity_a, table_ampacity_a, temperature_c
from percorso.house_rules import HouseRules
from percorso.insulation import Insulation, family, usual_insulation
from percorso.quantities import CURRENT, LENGTH, TEMPERATURE, VOLTAGE, show
from percorso.recommendation import Recommendation, recommend
from percorso.sizing import SizeChoice, WireTask, size_wire
from percorso.vehicle import Stage, Target
from percorso_cli.options import JOB_PATH, as_json, metric_standard, print_json, require, stage, temperature, vehicle_in
from percorso_cli.quantity import InsulationOrLimit, MaxDrop, Quantity, Size

BARE_RULES = HouseRules(thinnest_wire_mm2=0.0)  # a sum for one wire knows no harness it must be strong enough for


@click.command()
@click.option("--file", "job", type=JOB_PATH, help="A job file: sizes all its wires, fuses and contacts instead.")
@click.option("--circuit", "circuits", multiple=True, help="Id of one circuit of the file; default: all.")
@stage
@click.option("--current", type=Quantity(CURRENT))
@click.option("--length", type=Quantity(LENGTH), help="Total conductor length, out and back.")
@click.option("--supply", type=Quantity(VOLTAGE), help="Voltage at the source.")
@click.option("--max-drop", type=MaxDrop(), help='"0.5 V", or "3%" of the supply (or of --nominal).')
@click.option("--min-at-load", type=Quantity(VOLTAGE), help="Voltage the device needs.")
@click.option("--nominal", type=Quantity(VOLTAGE), help="What a percentage refers to, if not to the supply.")
@click.option("--series", type=click.Choice(["awg", "metric"]), help="Default: AWG, or each wire's own in a file.")
@temperature
@metric_standard
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
    temperature: float,
    metric_standard: MetricStandard,
    as_json: bool,
) -> None:
    """Smallest wire that meets drop and ampacity, and the fuse that suits; or all of a job file at once."""
    if job is not None:
        _size_job(job, stage, circuits, series, as_json=as_json)
        return
    require(context, "current", "length", "supply")
    task = WireTask(
        current_a=current,
        length_m=length,
        source_v=supply,
        allowed_drop_v=_allowed_drop_v(max_drop, min_at_load, supply, nominal),
        temperature_c=temperature,
        metric_standard=metric_standard,
    )
    choice = size_wire(task, series or "awg", BARE_RULES)
    if as_json:
        print_json(_size_result(choice, task))
        return
    click.echo(f"{choice.reason}; {show(task.allowed_drop_v, VOLTAGE)} may be lost")
    if choice.chosen and choice.fuse:
        click.echo(f"{show(choice.chosen.drop_v, VOLTAGE)} lost, {show(choice.chosen.load_v, VOLTAGE)} at the device")
        rating = choice.fuse.rating_a
        click.echo(f"fuse: {f'{rating:g} A, ' if rating else ''}{choice.fuse.reason}")


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


def _size_result(choice: SizeChoice, task: WireTask) -> dict[str, Any]:
    chosen = choice.chosen
    return {
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


def _size_job(job: Path, stage: Stage, circuits: tuple[str, ...], series: Series | None, *, as_json: bool) -> None:
    vehicle = vehicle_in(job, stage)
    unknown = [each for each in circuits if each not in vehicle.circuits]
    if unknown:
        known = ", ".join(vehicle.circuits)
        raise click.BadParameter(f'there is no "{unknown[0]}"; this job has {known}', param_hint="'--circuit'")
    found = recommend(vehicle, HouseRules(), circuits or None, series)
    if as_json:
        print_json(_job_result(found))
        return
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
        click.echo(f"{contact.designation}: {f'{rated:g} A contact, ' if rated else ''}{contact.choice.reason}")
    for circuit in found.circuits:
        figures = f"{show(circuit.drop_v, VOLTAGE)} lost of {show(circuit.allowed_drop_v, VOLTAGE)} allowed"
        said = f"; {circuit.problem}: {', or '.join(circuit.ways_out)}" if circuit.problem else ""
        click.echo(f"{circuit.name}: {figures}{said}")
    click.echo(f"copper: {found.copper_kg:.3g} kg, now {found.present_copper_kg:.3g} kg")


def _job_result(found: Recommendation) -> dict[str, Any]:
    return {
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


@click.command()
@click.option("--size", type=Size(), required=True, help='For example "16 AWG", "2/0" or "10 mm2".')
@click.option("--insulation", type=InsulationOrLimit(), default="105C", show_default=True)
@click.option("--ambient", type=Quantity(TEMPERATURE), default="30C", show_default=True, help="Of the air.")
@click.option("--bundle", type=click.IntRange(1, 100), default=1, show_default=True, help="Loaded wires together.")
@click.option(
    "--current", "currents", type=Quantity(CURRENT), multiple=True, help="Also tell how warm it gets at this."
)
@as_json
def ampacity(
    size: ConductorSize,
    insulation: Insulation | float,
    ambient: float,
    bundle: int,
    currents: tuple[float, ...],
    as_json: bool,
) -> None:
    """What a wire may carry for long, by table and by the thermal model, and how warm it gets."""
    wire = _cable(size, insulation)
    if ambient >= wire.limit_c:
        message = f"air of {ambient:g} °C is as hot as the insulation stands ({wire.limit_c:g} °C)"
        raise click.BadParameter(message, param_hint="'--ambient'")
    by_table = table_ampacity_a(size, limit_c=wire.limit_c, air_c=ambient, bundle=bundle)
    by_model = float(ampacity_a(wire, ambient, bundle))
    asked = (*currents, by_table, by_model)
    warm = {f"{amps:.6g}": float(temperature_c(wire, amps, ambient, bundle)) for amps in asked}
    if as_json:
        at = {amps: copper if copper < float("inf") else None for amps, copper in warm.items()}
        print_json({"table_a": by_table, "model_a": by_model, "limit_c": wire.limit_c, "temperature_c_at": at})
        return
    click.echo(f"{size.name} in {ambient:g} °C air: {by_table:.3g} A by table, {by_model:.3g} A by the thermal model")
    for amps, copper in warm.items():
        click.echo(f"{float(amps):.3g} A: " + ("melts" if copper == float("inf") else f"{copper:.0f} °C"))


def _cable(size: ConductorSize, insulation: Insulation | float) -> Cable:
    if isinstance(insulation, float):
        return Cable(size, family(usual_insulation(size.area_mm2)).wall_mm(size.area_mm2), insulation)
    kind = family(insulation)
    if not kind.is_made_in(size.area_mm2):
        message = f"{insulation} is made from {kind.thinnest_mm2:g} to {kind.thickest_mm2:g} mm², not in {size.name}"
        raise click.BadParameter(message, param_hint="'--insulation'")
    return Cable(size, kind.wall_mm(size.area_mm2), kind.limit_c)
