"""The command ``percorso trace``: what is wrong, from what was read, and what to measure next."""

from dataclasses import asdict
from pathlib import Path
from typing import Annotated, Any, Literal

import click
from pydantic import BaseModel, ConfigDict, Discriminator, Tag, TypeAdapter

from percorso.errors import MeasurementError, PercorsoError
from percorso.faults.beyond import point_of
from percorso.faults.cures import Cure
from percorso.faults.library import FaultMode
from percorso.faults.wording import fault_name
from percorso.survey.mixture import MixedTrace, MixedTracer, NextLook
from percorso.survey.wirings import otherwise, wirings
from percorso.tracing.answer import Suspect, Trace
from percorso.tracing.mending import Mended
from percorso.tracing.next_check import NextCheck
from percorso.tracing.proof import Conclusion
from percorso.tracing.speaking import weighs
from percorso.tracing.symptoms import STILLS, SYMPTOMS, Still, Symptom, readings_of
from percorso.tracing.wording import beyond_says, fault_says
from percorso.vehicle.model import Stage, Vehicle
from percorso.verification.judging.expected import Expected
from percorso.verification.measured.measurements import Measurement, places
from percorso_cli.measure import read_listed, without_the_rest
from percorso_cli.options import (
    JOB_PATH,
    as_json,
    job_argument,
    job_in,
    names_of,
    print_json,
    stage_option,
    whole_vehicle_in,
)


class _MendedEntry(BaseModel):
    model_config = ConfigDict(extra="forbid")
    mended: str


class _LookEntry(BaseModel):
    model_config = ConfigDict(extra="forbid")
    quantity: Literal["look"]
    question: str
    outcome: str


def _kind(listed: Any) -> str:
    if not isinstance(listed, dict):
        return "reading"
    return "mended" if "mended" in listed else "look" if listed.get("quantity") == "look" else "reading"


_Entry = Annotated[
    Annotated[Measurement, Tag("reading")]
    | Annotated[_MendedEntry, Tag("mended")]
    | Annotated[_LookEntry, Tag("look")],
    Discriminator(_kind),
]
_READINGS: TypeAdapter[list[Measurement | _MendedEntry | _LookEntry]] = TypeAdapter(list[_Entry])


@click.command()
@job_argument
@click.option("--readings", type=JOB_PATH, help='A JSON list of what was read or seen, and mended: {"mended": "W4"}.')
@click.option("--symptom", "symptoms", type=click.Choice(SYMPTOMS), multiple=True, help="What the customer says.")
@click.option("--device", help="The device, or the fuse, that a symptom is of: M3.")
@click.option("--stood-h", type=click.FloatRange(1, 2000), help="Of a flat battery: how long it had stood, hours.")
@click.option("--still", type=click.Choice(STILLS), help="Of a flat battery: what it still did.")
@click.option("--suspect", "suspected", multiple=True, help="A part that somebody suspects: W9.")
@stage_option
@as_json
def trace(
    job: Path,
    readings: Path | None,
    symptoms: tuple[Symptom, ...],
    device: str | None,
    stood_h: float | None,
    still: Still | None,
    suspected: tuple[str, ...],
    stage: Stage,
    as_json: bool,
) -> None:
    """Suspects with their probability, what is acquitted and by what, the three next best tests, and when to stop."""
    vehicle = whole_vehicle_in(job)
    listed = read_listed(readings, _READINGS, "'--readings'", without_the_rest) if readings else []
    looked = {each.question: each.outcome for each in listed if isinstance(each, _LookEntry)}
    others = [each for each in listed if not isinstance(each, _LookEntry)]
    known = [Mended(each.mended) if isinstance(each, _MendedEntry) else each for each in others]
    try:
        answers = job_in(job).came_in
        tracer = MixedTracer(wirings(vehicle, answers, looked), stage, otherwise(vehicle, answers, looked))
        said = [
            each
            for symptom in symptoms
            for each in readings_of(tracer.vehicle, symptom, stage, device, stood_h=stood_h, still=still)
        ]
        mixed = tracer.trace([*said, *known], suspected=suspected)
        found = mixed.trace
    except MeasurementError as error:
        place = ".".join(map(str, error.field))
        hint = "'--suspect'" if error.field[:1] == ("suspected",) else "'--readings'"
        raise click.BadParameter(f"{place}: {error}", param_hint=hint) from error
    except PercorsoError as error:
        raise click.ClickException(str(error)) from error
    if as_json:
        print_json(_answer(found) | _of_wirings(mixed))
        return
    _print_wirings(mixed)
    _print(mixed.vehicle, found)


def _of_wirings(mixed: MixedTrace) -> dict[str, Any]:
    """The wirings, where questions are open, and a look that goes before every other test."""
    if len(mixed.wirings) < 2 and mixed.wirings[0].is_as_described:
        return {}
    tests = [_test(each) for each in mixed.trace.next]
    return {"wirings": [asdict(each) for each in mixed.wirings], "next": [*map(_look, mixed.looks), *tests]}


def _look(each: NextLook) -> dict[str, Any]:
    tells = [{"outcome": choice, "probability": share} for choice, share in each.tells.items()]
    asked = {"quantity": "look", "question": each.question, "asks": each.asks}
    return asked | {"minutes": each.minutes, "bits": each.bits, "tells": tells}


def _print_wirings(mixed: MixedTrace) -> None:
    for wiring in mixed.wirings:
        answers = ", ".join(f"{key}: {choice}" for key, choice in wiring.answers.items())
        if not wiring.is_as_described:
            click.echo(f"{wiring.probability:6.1%} not wired as described, by what was read: {answers}")
        elif len(mixed.wirings) > 1:
            click.echo(f"{wiring.probability:6.1%} wired like this: {answers or 'as described'}")
    for look in mixed.looks:
        click.echo(f"next: look: {look.asks} {look.minutes:g} min, {look.bits:.2f} bit")
        for choice, share in look.tells.items():
            click.echo(f"      {choice} ({share:.0%})")


def _answer(found: Trace) -> dict[str, Any]:
    return {
        "suspects": [_suspect(each) for each in found.suspects],
        "not_described": found.not_described,
        "beyond": found.beyond and _beyond(found.beyond),
        "sound": found.sound,
        "is_as_planned": found.is_as_planned,
        "pairs": [
            {"parts": each.parts, "faults": each.faults, "probability": each.probability} for each in found.pairs
        ],
        "acquitted": [{"part": each.part, "by": each.by} for each in found.acquitted],
        "next": [_test(each) for each in found.next],
        "fits": found.fits,
        "likely": found.likely and found.likely.part,
        "stop": found.stop and _stop(found.stop),
        "speaks": [asdict(each) for each in found.speaks],
        "doubtful": [asdict(each) for each in found.doubtful],
        "again": [{"reading": each.reading, "expected": _expected(each.expected)} for each in found.again],
    }


def _beyond(way: FaultMode) -> dict[str, Any]:
    return {"point": point_of(way.part), "does": way.fault, "other": way.other}


def _suspect(each: Suspect) -> dict[str, Any]:
    severity = None if each.severity is None else dict(zip(("low", "high"), each.severity, strict=True))
    of = {"ohm": None, "times": None} | {each.measure: severity}
    told = {"part": each.part, "fault": each.fault, "probability": each.probability} | of
    why = {"explains": list(each.explains), "because": list(each.because), "comes_and_goes": each.comes_and_goes}
    return told | {"other": each.other} | why


def _test(each: NextCheck) -> dict[str, Any]:
    tells = [{"outcome": one.outcome, "parts": one.parts, "then": one.probability} for one in each.meanings]
    asked = each.measurement.model_dump(mode="json", by_alias=True, exclude={"value", "outcome"})
    return asked | {"minutes": each.minutes, "bits": each.bits, "tells": tells}


def _stop(stop: Conclusion) -> dict[str, Any]:
    prove = stop.prove and stop.prove.model_dump(mode="json", by_alias=True, exclude={"value", "outcome"})
    told = {"part": stop.part, "prove": prove, "by": stop.by, "cures": [_cure(each) for each in stop.cures]}
    return told | {"also": stop.also and _stop(stop.also)}


def _cure(cure: Cure) -> dict[str, Any]:
    return asdict(cure) | {"edits": [each.model_dump(mode="json", exclude_none=True) for each in cure.edits]}


def _expected(one: Expected) -> dict[str, Any]:
    return {"value": one.value, "low": one.low, "high": one.high, "outcome": one.outcome}


def _print(vehicle: Vehicle, found: Trace) -> None:
    if found.is_as_planned:
        click.echo("the plan itself explains all of this: nothing has to be bad")
    for suspect in found.suspects[:8]:
        how_bad = suspect.how_bad and f", {suspect.how_bad}"
        click.echo(
            f"{suspect.probability:6.1%} {names_of(vehicle, [suspect.part])}: {fault_says(vehicle, suspect)}{how_bad}"
        )
    for pair in found.pairs[:3]:
        both = " and ".join(map(fault_name, pair.faults))
        click.echo(f"{pair.probability:6.1%} two at once: {names_of(vehicle, pair.parts)}, {both}")
    at = f": {beyond_says(vehicle, found.beyond)}" if found.beyond else ""
    click.echo(f"{found.not_described:6.1%} something that this job does not describe{at}")
    if found.sound > 0.001:
        click.echo(f"{found.sound:6.1%} nothing is bad: the plan itself explains it")
    if not found.fits:
        click.echo("no fault explains all of this well: read once more what does not fit, or it is not as described")
    if found.likely:
        click.echo(f"most likely {names_of(vehicle, [found.likely.part])}: look at it itself before it is called found")
    for each in found.doubtful:
        click.echo(f"reading {', '.join(str(place + 1) for place in each.readings)}: {each.why}")
    for speaks in found.speaks:
        part = names_of(vehicle, [next(iter(found.of_units()))])
        click.echo(f"reading {speaks.reading + 1}: {weighs(part, speaks)}")
    for test in found.next:
        _print_test(vehicle, test)
    if not (found.next or found.stop or found.is_as_planned):
        click.echo(f"follow every wire that ends there{at}" if at else "no measurement tells more than this")
    stop = found.stop
    while stop:
        _print_conclusion(vehicle, stop)
        stop = stop.also


def _print_test(vehicle: Vehicle, test: NextCheck) -> None:
    one = test.measurement
    where = " – ".join(places(vehicle, one))
    click.echo(f"next: {one.quantity} {where}, {one.situation.state}, {test.minutes:g} min, {test.bits:.2f} bit")
    for meaning in test.meanings:
        named = names_of(vehicle, [each for each in meaning.parts if each])
        part = named or ("something not described" if meaning.parts else "nothing")
        click.echo(f"      {meaning.outcome}: {part} ({meaning.probability:.0%})")


def _print_conclusion(vehicle: Vehicle, stop: Conclusion) -> None:
    click.echo(f"most likely {names_of(vehicle, [stop.part])}: {stop.cures[0].does}")
    for cure in stop.cures:
        copper = f", {cure.copper_g:.0f} g of copper" if cure.copper_g else ""
        condition = f"; {cure.condition}" if cure.condition else ""
        click.echo(f"      {cure.does}: about {cure.work_min:.0f} min{copper}{condition}")
