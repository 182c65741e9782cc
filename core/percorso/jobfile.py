"""The open JSON format of a job: what a file must hold, and the vehicle it describes."""

from dataclasses import replace
from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError, ValidationInfo

from percorso.errors import JobFileError
from percorso.names import Designation, Name, Note
from percorso.quantities import CURRENT, PERCENT, VOLTAGE
from percorso.specs import ZONE_TEMPERATURE_C, KeepsTyped, SegmentSpec, Typed, Zone, typed
from percorso.vehicle import Circuit, Family, Point, Segment, State, Target, TargetKind, Vehicle, check_circuit

Identifier = Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[A-Za-z0-9._-]+$")]
READING_VOLTAGE = replace(VOLTAGE, above_lowest=False)
Nominal = Literal[6, 12, 16, 24, 48]
DesignCurrent = Annotated[float, typed(CURRENT)]
SourceVoltage = Annotated[float, typed(VOLTAGE)]
MeasuredVoltage = Annotated[float, typed(READING_VOLTAGE)]
ZoneTemperatures = dict[Zone, Annotated[float, Field(ge=-60, le=300)]]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class FilePoint(_Part):
    """A point."""

    id: Identifier
    name: Name


class FileSegment(_Part):
    """A segment between two points of the file."""

    id: Identifier
    designation: Designation
    from_point: Identifier
    to_point: Identifier
    spec: SegmentSpec


def _target_value(value: object, info: ValidationInfo) -> object:
    percent = info.data.get("target_kind") == "max_drop_percent"
    return Typed(PERCENT if percent else VOLTAGE).read(value)


class CircuitValues(KeepsTyped):
    """What a person says of a circuit, apart from its path; ``target_value`` is V, or % of nominal."""

    name: Name
    family: Family
    device: Name
    design_current_a: DesignCurrent
    source_v: SourceVoltage
    state: State = "idle"
    target_kind: TargetKind
    target_value: Annotated[float, BeforeValidator(_target_value, json_schema_input_type=float | str)]


class FileCircuit(CircuitValues):
    """A circuit as ordered segment ids."""

    id: Identifier
    source_point: Identifier | None
    supply: list[Identifier]
    return_point: Identifier
    return_path: list[Identifier]


class FileReading(_Part):
    """A logged voltage drop; never edited, superseded by a later one."""

    id: Identifier
    circuit: Identifier
    red_point: Identifier
    black_point: Identifier
    value_v: MeasuredVoltage
    current_a: DesignCurrent
    lead_offset_v: MeasuredVoltage = 0.0
    instrument: Note = ""
    note: Note = ""
    taken_at: datetime
    supersedes: Identifier | None = None


class JobFile(_Part):
    """A whole job."""

    format: Literal["percorso-job"]
    version: Literal[1]
    name: Name
    vehicle: Name
    wish: Note = ""
    nominal_v: Nominal
    zone_temperature_c: ZoneTemperatures = dict(ZONE_TEMPERATURE_C)
    points: list[FilePoint]
    segments: list[FileSegment]
    circuits: list[FileCircuit]
    readings: list[FileReading] = []


def read_job_file(text: str | bytes) -> JobFile:
    """Read and fully check a job file. Raises JobFileError listing every problem with its place."""
    try:
        job = JobFile.model_validate_json(text)
    except ValidationError as error:
        problems = (f"{'.'.join(map(str, item['loc']))}: {item['msg']}" for item in error.errors())
        raise JobFileError("; ".join(problems)) from error
    for circuit in vehicle_of(job).circuits.values():
        check_circuit(vehicle_of(job), circuit)
    return job


def vehicle_of(job: JobFile) -> Vehicle:
    """The model of the vehicle a job file describes."""
    return Vehicle(
        nominal_v=job.nominal_v,
        points={point.id: Point(point.id, point.name) for point in job.points},
        segments={
            part.id: Segment(part.id, part.designation, part.from_point, part.to_point, part.spec)
            for part in job.segments
        },
        circuits={part.id: _circuit(part) for part in job.circuits},
        zone_temperature_c=job.zone_temperature_c,
    )


def _circuit(part: FileCircuit) -> Circuit:
    return circuit_from(
        part,
        id=part.id,
        source_point=part.source_point,
        supply=tuple(part.supply),
        return_point=part.return_point,
        return_path=tuple(part.return_path),
    )


def circuit_from(
    values: CircuitValues,
    *,
    id: str,
    source_point: str | None,
    supply: tuple[str, ...],
    return_point: str,
    return_path: tuple[str, ...],
) -> Circuit:
    """The model's circuit from its values and its path."""
    return Circuit(
        id=id,
        name=values.name,
        family=values.family,
        device=values.device,
        design_current_a=values.design_current_a,
        source_v=values.source_v,
        target=Target(values.target_kind, values.target_value),
        source_point=source_point,
        supply=supply,
        return_point=return_point,
        return_path=return_path,
        state=values.state,
        typed=values.typed,
    )
