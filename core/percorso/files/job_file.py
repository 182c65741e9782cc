"""The open JSON format of a job: what a file must hold, the vehicle it describes, and a vehicle as such a file."""

import json
from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass, fields
from datetime import UTC, datetime
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, AwareDatetime, BeforeValidator, Field, model_validator

from percorso.errors import PercorsoError
from percorso.names import Designation, Identifier, Name, Note
from percorso.tracing.symptoms import Said
from percorso.vehicle.access import Access
from percorso.vehicle.devices import DeviceKind
from percorso.vehicle.model import Circuit, Device, Fate, Known, Origin, Point, Segment, Stage, Vehicle
from percorso.vehicle.segments import ZONE_TEMPERATURE_C, SegmentSpec, Zone
from percorso.vehicle.values import (
    CircuitValues,
    DesignCurrent,
    DriveValues,
    InputValues,
    ScenarioValues,
    Values,
    circuit_from,
    drive_from,
    input_from,
    scenario_from,
)
from percorso.verification.measured.instruments import USUAL
from percorso.verification.measured.measurements import Measurement, read_value

FORMAT = "percorso-job"
VERSION = 3
MAX_PARTS = 5000
MOST_ANSWERS = 20  # of what is known of a vehicle that came in
MOST_SAID, MOST_COUNTED, MOST_MENDED, MOST_SUSPECTED = 5, 40, 10, 10  # of one case
Nominal = Literal[6, 12, 16, 24, 48]
ZoneTemperatures = dict[Zone, Annotated[float, Field(ge=-60, le=300)]]
AllZoneTemperatures = Annotated[ZoneTemperatures, AfterValidator(lambda said: {**ZONE_TEMPERATURE_C, **said})]


def _in_utc(moment: datetime) -> datetime:
    if not 1970 < moment.year < 2200:
        raise PercorsoError("this is not a time at which somebody measured")
    return moment.astimezone(UTC)


Timestamp = Annotated[AwareDatetime, AfterValidator(_in_utc)]


class FilePoint(Values):
    """A point."""

    id: Identifier
    name: Name
    access: Access | None = None


class FileSegment(Values):
    """A segment between two points of the file."""

    id: Identifier
    designation: Designation
    from_point: Identifier
    to_point: Identifier
    origin: Origin = "existing"
    fate: Fate = "kept"
    access: Access | None = None
    known: Known = "seen"
    spec: SegmentSpec


class FileDevice(Values):
    """A device; ``terminals`` are points of the file by terminal mark."""

    id: Identifier
    designation: Designation
    name: Name
    terminals: dict[str, Identifier]
    origin: Origin = "existing"
    fate: Fate = "kept"
    access: Access | None = None
    known: Known = "seen"
    spec: DeviceKind


class FileInput(InputValues):
    """A named condition."""

    id: Identifier


class FileScenario(ScenarioValues):
    """A scenario of the job's own."""

    id: Identifier


class FileDrive(DriveValues):
    """A drive of the job's own."""

    id: Identifier


class FileCircuit(CircuitValues):
    """A circuit as ordered segment ids; ``device_id`` is the device it feeds or drains."""

    id: Identifier
    device_id: Identifier | None = None
    source_point: Identifier | None
    supply: list[Identifier]
    return_point: Identifier
    return_path: list[Identifier]


class FileReading(Measurement):
    """A logged measurement of the metal as found or as planned; never edited, superseded by a later one.

    ``current_a`` is what flowed meanwhile, ``lead_offset`` what the instrument shows with its probes together, in the
    unit of the value; ``meter`` is which one it was.
    """

    id: Identifier
    circuit: Identifier | None = None
    red_point: Identifier | None = None
    black_point: Identifier | None = None
    segment: Identifier | None = None
    device: Identifier | None = None
    current_a: DesignCurrent | None = None
    lead_offset: Annotated[float, BeforeValidator(read_value, json_schema_input_type=float | str)] = 0.0
    meter: Note = ""
    note: Note = ""
    taken_at: Timestamp
    supersedes: Identifier | None = None

    @model_validator(mode="after")
    def _says_what_came(self) -> "FileReading":
        if self.value is None and self.outcome is None:
            raise PercorsoError("say what was read: a value or a word", field=("value",))
        return self


class FilePhoto(Values):
    """A photo of a reading, a point, a segment or a device; what tells its picture apart, which is not in the file."""

    id: Identifier
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    caption: Note = ""
    reading: Identifier | None = None
    point: Identifier | None = None
    segment: Identifier | None = None
    device: Identifier | None = None

    @model_validator(mode="after")
    def _is_of_one_thing(self) -> "FilePhoto":
        if sum(each is not None for each in (self.reading, self.point, self.segment, self.device)) != 1:
            raise PercorsoError("a photo is of one reading, point, segment or device", field=("point",))
        return self


class FileMended(Values):
    """A part that was mended, by its id or designation, and the readings that counted before."""

    part: Name
    before: Annotated[list[Identifier], Field(max_length=MOST_COUNTED)] = []


class FileCase(Values):
    """What is known where a vehicle is traced at a stage: what was said, which readings count or are doubted, what was
    mended since, and which parts somebody suspects.
    """

    stage: Stage
    said: Annotated[list[Said], Field(max_length=MOST_SAID)] = []
    readings: Annotated[list[Identifier], Field(max_length=MOST_COUNTED)] = []
    doubted: Annotated[list[Identifier], Field(max_length=MOST_COUNTED)] = []
    mended: Annotated[list[FileMended], Field(max_length=MOST_MENDED)] = []
    suspected: Annotated[list[Name], Field(max_length=MOST_SUSPECTED)] = []


class JobFile(Values):
    """A whole job; ``came_in`` are the answers from which its vehicle was laid as it came in, by question."""

    format: Literal["percorso-job"]
    version: Literal[3]
    name: Name
    vehicle: Name
    wish: Note = ""
    nominal_v: Nominal
    came_in: Annotated[dict[Name, Note], Field(max_length=MOST_ANSWERS)] | None = None
    zone_temperature_c: AllZoneTemperatures = dict(ZONE_TEMPERATURE_C)  # zones left out are as usual
    inputs: Annotated[list[FileInput], Field(max_length=100)] = []
    points: Annotated[list[FilePoint], Field(max_length=MAX_PARTS)]
    segments: Annotated[list[FileSegment], Field(max_length=MAX_PARTS)]
    devices: Annotated[list[FileDevice], Field(max_length=MAX_PARTS)] = []
    circuits: Annotated[list[FileCircuit], Field(max_length=MAX_PARTS)]
    scenarios: Annotated[list[FileScenario], Field(max_length=50)] = []
    drives: Annotated[list[FileDrive], Field(max_length=50)] = []
    readings: Annotated[list[FileReading], Field(max_length=MAX_PARTS)] = []
    photos: Annotated[list[FilePhoto], Field(max_length=MAX_PARTS)] = []
    cases: Annotated[list[FileCase], Field(max_length=2)] = []

    @model_validator(mode="after")
    def _cases_know_their_readings(self) -> "JobFile":
        known = {each.id for each in self.readings}
        for place, case in enumerate(self.cases):
            before = [one for each in case.mended for one in each.before]
            for name, listed in (("readings", case.readings), ("doubted", case.doubted), ("mended", before)):
                missing = [each for each in listed if each not in known]
                if missing:
                    raise PercorsoError(f'there is no reading "{missing[0]}"', field=("cases", place, name))
        return self


def vehicle_of(job: JobFile) -> Vehicle:
    """The model of the vehicle a job file describes."""
    return Vehicle(
        nominal_v=job.nominal_v,
        points={point.id: Point(point.id, point.name, point.access) for point in job.points},
        segments={
            part.id: Segment(
                part.id,
                part.designation,
                part.from_point,
                part.to_point,
                part.spec,
                origin=part.origin,
                fate=part.fate,
                access=part.access,
                known=part.known,
            )
            for part in job.segments
        },
        circuits={part.id: _circuit(part) for part in job.circuits},
        zone_temperature_c=job.zone_temperature_c,
        devices={
            part.id: Device(
                part.id,
                part.designation,
                part.name,
                part.terminals,
                part.spec,
                origin=part.origin,
                fate=part.fate,
                access=part.access,
                known=part.known,
            )
            for part in job.devices
        },
        inputs={each.id: input_from(each, each.id) for each in job.inputs},
        scenarios={each.id: scenario_from(each, each.id) for each in job.scenarios},
        drives={each.id: drive_from(each, each.id) for each in job.drives},
    )


def _circuit(part: FileCircuit) -> Circuit:
    return circuit_from(
        part,
        id=part.id,
        source_point=part.source_point,
        supply=tuple(part.supply),
        return_point=part.return_point,
        return_path=tuple(part.return_path),
        device_id=part.device_id,
    )


@dataclass(frozen=True)
class JobHead:
    """What a job is called and what it is about."""

    name: str
    vehicle: str
    wish: str


def job_file_of(
    head: JobHead,
    vehicle: Vehicle,
    readings: Iterable[FileReading],
    photos: Iterable[FilePhoto] = (),
    cases: Iterable[FileCase] = (),
    came_in: Mapping[str, str] | None = None,
) -> JobFile:
    """The job file of a vehicle; ``came_in`` are the answers from which it was laid."""
    return JobFile.model_validate(
        {
            "format": FORMAT,
            "version": VERSION,
            **asdict(head),
            "nominal_v": vehicle.nominal_v,
            "came_in": None if came_in is None else dict(came_in),
            "zone_temperature_c": dict(vehicle.zone_temperature_c),
            "inputs": [asdict(each) for each in vehicle.inputs.values()],
            "points": [asdict(each) for each in vehicle.points.values()],
            "segments": [_plain(each) for each in vehicle.segments.values()],
            "devices": [_plain(each) for each in vehicle.devices.values()],
            "circuits": [_plain_circuit(each) for each in vehicle.circuits.values()],
            "scenarios": [asdict(each) for each in vehicle.scenarios.values()],
            "drives": [asdict(each) for each in vehicle.drives.values()],
            "readings": [each.model_dump(by_alias=True) for each in readings],
            "photos": [each.model_dump() for each in photos],
            "cases": [each.model_dump() for each in cases],
        }
    )


def _plain(part: Segment | Device) -> dict[str, Any]:
    return {field.name: getattr(part, field.name) for field in fields(part)}


def _plain_circuit(circuit: Circuit) -> dict[str, Any]:
    values = asdict(circuit)
    target = values.pop("target")
    return values | {"target_kind": target["kind"], "target_value": target["value"]}


def write_job_file(job: JobFile) -> str:
    """The file's text, the same for the same job: lists in the order of their ids, readings as they were taken."""
    document = job.model_dump(mode="json", by_alias=True)
    for part in ("inputs", "points", "segments", "devices", "circuits", "scenarios", "drives", "photos"):
        document[part].sort(key=lambda each: each["id"])
    for reading in document["readings"]:
        reading["instrument"] = reading["instrument"] or USUAL[reading["quantity"]]
    document["readings"].sort(key=lambda each: (each["taken_at"], each["id"]))
    document["cases"].sort(key=lambda each: each["stage"])
    return json.dumps(document, ensure_ascii=False, indent=1) + "\n"


def job_file_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a job file."""
    schema = JobFile.model_json_schema(mode="validation")
    for definition in schema["$defs"].values():
        if "rated_a" in definition.get("required", ()) and "rated_w" in definition["properties"]:
            definition["required"].remove("rated_a")  # a name plate says amperes or watts
            definition["anyOf"] = [{"required": ["rated_a"]}, {"required": ["rated_w"]}]
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema, "title": "Percorso job file"}
