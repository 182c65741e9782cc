"""The command ``percorso tests``: what is to be measured, in which order, and what one should read."""

from pathlib import Path
from typing import Any

import click

from percorso.house_rules import HouseRules
from percorso.study import Study
from percorso.vehicle.model import Stage, Vehicle
from percorso.verification.checks.asked import Check
from percorso.verification.judging.expected import Expected
from percorso.verification.measured.instruments import UNITS
from percorso_cli.options import as_json, job_argument, print_json, rules, stage_option, whole_vehicle_in


@click.command()
@job_argument
@click.option("--circuit", help="Of one circuit alone, by its id or name.")
@stage_option
@rules
@as_json
def tests(job: Path, circuit: str | None, stage: Stage, rules: HouseRules, as_json: bool) -> None:
    """What is to be measured in a safe and cheap order, with what one should read on sound metal."""
    study = Study(whole_vehicle_in(job), rules)
    asked = study.checks(stage, _circuit_id(study.vehicle, circuit)) if study.vehicle.points else ()
    told = list(zip(asked, study.judge.expected([each.measurement for each in asked]), strict=True))
    if as_json:
        print_json([_row(*each) for each in told])
        return
    group = None
    for one, expected in told:
        if one.group != group:
            group = one.group
            click.echo(f"{group}:")
        if one.only_if is None:
            click.echo(f"  {one.title}: {_said(one, expected)} ({one.minutes:g} min). {one.how} {one.caution}".rstrip())


def _circuit_id(vehicle: Vehicle, text: str | None) -> str | None:
    if text is None:
        return None
    found = next((each.id for each in vehicle.circuits.values() if text in (each.id, each.name)), None)
    if found is None:
        names = ", ".join(each.name for each in vehicle.circuits.values()) or "none"
        raise click.BadParameter(f'there is no circuit "{text}"; there is {names}', param_hint="'--circuit'")
    return found


def _said(asked: Check, expected: Expected) -> str:
    if expected.low is None or expected.high is None:
        return expected.outcome or expected.why_not
    unit = UNITS[asked.measurement.quantity]
    limit = f", {asked.target.kind} {asked.target.value:g} {unit}" if asked.target else ""
    return f"{expected.low:.3g} to {expected.high:.3g} {unit}{limit}"


def _row(asked: Check, expected: Expected) -> dict[str, Any]:
    measurement = asked.measurement.model_dump(mode="json", by_alias=True, exclude={"value", "outcome"})
    return {
        "id": asked.id,
        "about": asked.about,
        "circuit": asked.circuit_id,
        "title": asked.title,
        "group": asked.group,
        **measurement,
        "instrument": asked.measurement.with_what,
        "expected": _expected(expected),
        "target": {"kind": asked.target.kind, "value": asked.target.value} if asked.target else None,
        "only_if": asked.only_if,
        "minutes": asked.minutes,
        "how": asked.how,
        "caution": asked.caution,
    }


def _expected(expected: Expected) -> dict[str, Any]:
    if expected.value is None:
        return {"outcome": expected.outcome, "why_not": expected.why_not}
    outcome = {} if expected.outcome is None else {"outcome": expected.outcome}
    return {"value": expected.value, "low": expected.low, "high": expected.high, **outcome}
