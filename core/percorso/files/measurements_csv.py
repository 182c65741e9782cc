"""Measurements as a CSV file, out and in: all in SI units, points and parts by name; every wrong line is named."""

from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import ValidationError

from percorso.csv_lines import Format, line_place, of_pydantic, read_lines
from percorso.errors import FileProblem, JobFileError, PercorsoError
from percorso.files.job_file import FileReading
from percorso.spreadsheet import csv_text
from percorso.vehicle.model import Device, Segment, Vehicle
from percorso.verification.measured.instruments import UNITS
from percorso.verification.measured.measurements import by_ids
from percorso.verification.measured.preparations import preparation, written

MOST_LINES = 2000


@dataclass(frozen=True)
class MeasurementRow:
    """One measurement as a line; an empty cell says nothing. ``value`` is in ``unit``: V, A or Ω.

    Inputs are ``heater=on`` apart by spaces, preparations ``pull F3`` apart by semicolons.
    """

    id: str
    taken_at: str
    circuit: str
    quantity: str
    red_point: str
    black_point: str
    segment: str
    device: str
    stage: str
    state: str
    inputs: str
    preparations: str
    value: str
    unit: str
    outcome: str
    current_a: str
    lead_offset: str
    instrument: str
    meter: str
    note: str
    supersedes: str


COLUMNS = tuple(MeasurementRow.__annotations__)
FORM = Format("file of measurements", "measurements", COLUMNS, ("quantity", "taken_at"), MOST_LINES)


def measurements_csv(readings: Iterable[FileReading], vehicle: Vehicle) -> str:
    """Measurements of a vehicle as CSV; reading it again adds nothing."""
    parts: list[Segment | Device] = [*vehicle.segments.values(), *vehicle.devices.values()]
    names = _Names(
        points={each: point.name for each, point in vehicle.points.items()},
        parts={each.id: each.designation for each in parts},
        circuits={each: circuit.name for each, circuit in vehicle.circuits.items()},
    )
    return csv_text([_row(each, names) for each in readings], MeasurementRow)


@dataclass(frozen=True)
class _Names:
    """What people call everything, by id."""

    points: Mapping[str, str]
    parts: Mapping[str, str]
    circuits: Mapping[str, str]


def _row(reading: FileReading, names: _Names) -> MeasurementRow:
    situation = reading.situation
    return MeasurementRow(
        id=reading.id,
        taken_at=reading.taken_at.isoformat(),
        circuit=_named(names.circuits, reading.circuit),
        quantity=reading.quantity,
        red_point=_named(names.points, reading.red_point),
        black_point=_named(names.points, reading.black_point),
        segment=_named(names.parts, reading.segment),
        device=_named(names.parts, reading.device),
        stage=situation.stage,
        state=situation.state,
        inputs=" ".join(f"{name}={position}" for name, position in situation.inputs.items()),
        preparations="; ".join(written(each) for each in situation.preparations),
        value=_figure(reading.value),
        unit=UNITS.get(reading.quantity, ""),
        outcome=reading.outcome or "",
        current_a=_figure(reading.current_a),
        lead_offset=_figure(reading.lead_offset or None),
        instrument=reading.with_what,
        meter=reading.meter,
        note=reading.note,
        supersedes=reading.supersedes or "",
    )


def _named(names: Mapping[str, str], each: str | None) -> str:
    return "" if each is None else names.get(each, each)


def _figure(value: float | None) -> str:
    return "" if value is None else repr(value).removesuffix(".0")


@dataclass(frozen=True)
class MeasurementLine:
    """One line that was read, and whether the job has it already; all in it goes by id."""

    line: int
    reading: FileReading
    does: Literal["add", "leave"]


def read_measurements_csv(
    text: str | bytes, vehicle: Vehicle, known: Collection[str], new_id: Callable[[], str]
) -> tuple[MeasurementLine, ...]:
    """Read a file of measurements of a vehicle; ``known`` are the ids of those the job has. Nothing is written.

    Raises JobFileError, whose problems list every wrong line by its number and column.
    """
    problems: list[FileProblem] = []
    lines: list[MeasurementLine] = []
    read: set[str] = set()
    for number, cells in read_lines(text, FORM):
        try:
            reading = _reading(cells, vehicle, new_id)
        except ValidationError as error:
            problems += [of_pydantic(number, item, FORM) for item in error.errors()]
            continue
        except PercorsoError as error:
            problems.append(FileProblem(line_place(number, error.field), str(error)))
            continue
        wrong = reading.supersedes
        if wrong is not None and wrong not in known and wrong not in read:
            message = f'"{wrong}" is not here: what is superseded comes before'
            problems.append(FileProblem(line_place(number, ("supersedes",)), message))
        if reading.id in read:
            problems.append(FileProblem(line_place(number, ("id",)), f'"{reading.id}" stands in the file already'))
        read.add(reading.id)
        lines.append(MeasurementLine(number, reading, "leave" if reading.id in known else "add"))
    if problems:
        raise JobFileError(problems)
    return tuple(lines)


def _reading(cells: Mapping[str, str], vehicle: Vehicle, new_id: Callable[[], str]) -> FileReading:
    said = {name: text for name, text in cells.items() if text}
    situation: dict[str, Any] = {name: said.pop(name) for name in ("stage", "state") if name in said}
    situation["inputs"] = dict(each.partition("=")[::2] for each in said.pop("inputs", "").split())
    done = [each.strip() for each in said.pop("preparations", "").split(";") if each.strip()]
    situation["preparations"] = tuple(map(preparation, done))
    unit = said.pop("unit", "")
    values: dict[str, Any] = {**said, "situation": situation}
    if "value" in said:
        values["value"] = _number(said["value"], unit)
    for name in ("current_a", "lead_offset"):
        if name in said:
            values[name] = _number(said[name], "")
    values["circuit"] = _circuit_id(vehicle, said.get("circuit"))
    values.setdefault("id", new_id())
    read = _FileByName.model_validate(values)
    found = by_ids(vehicle, read)
    return FileReading.model_validate(found.model_dump(by_alias=True))


class _FileByName(FileReading):
    """A reading whose points and parts go by name."""

    red_point: str | None = None
    black_point: str | None = None
    segment: str | None = None
    device: str | None = None


def _number(text: str, unit: str) -> float | str:
    """A bare number is in SI; with a unit it is read as people type it."""
    try:
        bare = float(text)
    except ValueError:
        return text
    return bare if unit in ("", *UNITS.values()) else f"{text} {unit}"


def _circuit_id(vehicle: Vehicle, name: str | None) -> str | None:
    if name is None:
        return None
    found = next((each.id for each in vehicle.circuits.values() if name in (each.id, each.name)), None)
    if found is None:
        raise PercorsoError(f'there is no circuit "{name}" in this job', field=("circuit",))
    return found
