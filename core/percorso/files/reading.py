"""Reads a job file that comes from outside: everything wrong with it is found before anything is made of it."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import partial
from typing import Any

from pydantic import ValidationError

from percorso.errors import FileProblem, JobFileError, PercorsoError
from percorso.files.job_file import FORMAT, VERSION, JobFile, vehicle_of
from percorso.files.versions import carried_over
from percorso.json_text import JsonTextError, read_json, short
from percorso.plain import plain_message
from percorso.vehicle.model import Circuit, Vehicle
from percorso.vehicle.validity import (
    check_believable,
    check_circuit,
    check_device,
    check_drive,
    check_input,
    check_scenario,
    check_segment,
)

MAX_BYTES = 5_000_000
MOST_PROBLEMS = 100


def read_job_file(text: str | bytes) -> JobFile:
    """Read and fully check a job file. Raises JobFileError, whose ``problems`` list everything that is wrong."""
    document = _document(text)
    problems = _first([*_doubles(document), *_dangling(document)])
    try:
        job = JobFile.model_validate(document)
    except ValidationError as error:
        raise JobFileError(_first([*map(_of_pydantic, error.errors(include_url=False)), *problems])) from error
    problems = problems or _first([*_wrong_corrections(job), *_wrong_parts(job)])
    if problems:
        raise JobFileError(problems)
    return job


def _first(problems: list[FileProblem]) -> list[FileProblem]:
    """As many problems as anybody reads, and how many more there are."""
    more = len(problems) - MOST_PROBLEMS
    return problems if more <= 0 else [*problems[:MOST_PROBLEMS], FileProblem("$", f"and {more} more like these")]


def _document(text: str | bytes) -> Any:
    """The JSON document, if it is one that may be looked at: right encoding, size, depth, format and version."""
    if len(text) > MAX_BYTES:
        raise _whole(f"the file is larger than {MAX_BYTES // 1_000_000} MB; a job is not")
    try:
        decoded = text.decode("utf-8-sig") if isinstance(text, bytes) else text
    except UnicodeDecodeError as error:
        raise _whole(f"the file is not UTF-8 text (byte {error.start})") from error
    try:
        document = read_json(decoded)
    except JsonTextError as error:
        raise JobFileError([FileProblem(json_path(error.steps), str(error))]) from error
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise JobFileError([FileProblem("$.format", f'this is not a job file: its format is not "{FORMAT}"')])
    version = document.get("version")
    if isinstance(version, int) and version > VERSION:
        message = f"this file has version {version}; this Percorso reads up to {VERSION}: bring it up to date first"
        raise JobFileError([FileProblem("$.version", message)])
    return carried_over(document)


def _whole(message: str) -> JobFileError:
    return JobFileError([FileProblem("$", message)])


def json_path(steps: Iterable[str | int]) -> str:
    """A JSON path as people read it: ``$.segments[3].spec.length_m``."""
    return "$" + "".join(f"[{step}]" if isinstance(step, int) else f".{step}" for step in steps)


def _of_pydantic(item: Any) -> FileProblem:
    """Pydantic's finding with its JSON path, from which the kind of a spec is left out."""
    steps = list(item["loc"])
    if len(steps) > 3 and steps[2] == "spec":
        del steps[3]
    error = item.get("ctx", {}).get("error")
    if isinstance(error, PercorsoError):
        steps += error.field
    return FileProblem(json_path(steps), plain_message(item))


_UNIQUE: Mapping[str, tuple[str, ...]] = {  # what tells the parts of a job apart
    "inputs": ("id",),
    "points": ("id", "name"),
    "segments": ("id", "designation"),
    "devices": ("id", "designation"),
    "circuits": ("id", "name"),
    "scenarios": ("id", "name"),
    "drives": ("id", "name"),
    "readings": ("id",),
    "photos": ("id",),
}
_REFERENCES: Mapping[str, Mapping[tuple[str, ...], str]] = {  # which field names a part of which list
    "segments": {("from_point",): "points", ("to_point",): "points", ("spec", "coil"): "devices"},
    "devices": {("terminals",): "points", ("spec", "independent_of"): "devices"},
    "circuits": {
        ("device_id",): "devices",
        ("source_point",): "points",
        ("supply",): "segments",
        ("return_point",): "points",
        ("return_path",): "segments",
    },
    "readings": {
        ("circuit",): "circuits",
        ("red_point",): "points",
        ("black_point",): "points",
        ("segment",): "segments",
        ("device",): "devices",
        ("supersedes",): "readings",
    },
    "photos": {
        ("reading",): "readings",
        ("point",): "points",
        ("segment",): "segments",
        ("device",): "devices",
    },
}


def _parts(document: dict[str, Any], part: str) -> Iterator[tuple[int, dict[str, Any]]]:
    """(place, part) of everything in a list that is a part at all; the rest is the model's to complain of."""
    listed = document.get(part)
    for place, each in enumerate(listed if isinstance(listed, list) else []):
        if isinstance(each, dict):
            yield place, each


def _doubles(document: dict[str, Any]) -> Iterator[FileProblem]:
    """Ids, and names that must tell things apart, that stand there twice; a device and a segment are both parts."""
    segments = {each["id"]: at for at, each in _parts(document, "segments") if isinstance(each.get("id"), str)}
    for place, each in _parts(document, "devices"):
        if isinstance(each.get("id"), str) and each["id"] in segments:
            where = json_path(("segments", segments[each["id"]], "id"))
            yield FileProblem(json_path(("devices", place, "id")), f'"{short(each["id"])}" is already at {where}')
    for part, keys in _UNIQUE.items():
        for key in keys:
            first: dict[str, int] = {}
            for place, each in _parts(document, part):
                value = each.get(key)
                if not isinstance(value, str):
                    continue
                if value.strip() in first:
                    where = json_path((part, first[value.strip()], key))
                    yield FileProblem(json_path((part, place, key)), f'"{short(value)}" is already at {where}')
                first.setdefault(value.strip(), place)


def _dangling(document: dict[str, Any]) -> Iterator[FileProblem]:
    """References to parts that are not in the file."""
    known = {
        part: {each["id"] for _, each in _parts(document, part) if isinstance(each.get("id"), str)} for part in _UNIQUE
    }
    for part, fields in _REFERENCES.items():
        for place, each in _parts(document, part):
            for field, wanted in fields.items():
                for steps, name in _named(each, field):
                    if name not in known[wanted]:
                        path = json_path((part, place, *steps))
                        yield FileProblem(path, f'there is no {wanted.removesuffix("s")} "{short(name)}" in this file')


def _named(part: Any, field: tuple[str, ...]) -> Iterator[tuple[tuple[str | int, ...], str]]:
    """(path below the part, id) of every id in a field: one, a list of them, or one by terminal."""
    for step in field:
        part = part.get(step) if isinstance(part, dict) else None
    if isinstance(part, str):
        yield field, part
    places: Iterable[tuple[str | int, Any]] = ()
    if isinstance(part, list):
        places = enumerate(part)
    elif isinstance(part, dict):
        places = part.items()
    yield from (((*field, place), each) for place, each in places if isinstance(each, str))


def _wrong_corrections(job: JobFile) -> Iterator[FileProblem]:
    """Readings that supersede one not taken before them, or one that another supersedes already."""
    taken = {each.id: each.taken_at for each in job.readings}
    corrected: set[str] = set()
    for place, reading in enumerate(job.readings):
        wrong = reading.supersedes
        path = f"$.readings[{place}].supersedes"
        if wrong is None:
            continue
        if taken[wrong] >= reading.taken_at:
            yield FileProblem(path, f'"{wrong}" was not taken before')
        elif wrong in corrected:
            yield FileProblem(path, f'another reading supersedes "{wrong}" already')
        corrected.add(wrong)


def _wrong_parts(job: JobFile) -> Iterator[FileProblem]:
    """Segments, devices and circuits that are whole by themselves and do not fit the rest."""
    vehicle = vehicle_of(job)
    checks: Mapping[str, Callable[[Any], None]] = {
        "inputs": check_input,
        "segments": partial(check_segment, vehicle),
        "devices": partial(check_device, vehicle),
        "circuits": partial(_check_whole_circuit, vehicle),
        "scenarios": partial(check_scenario, vehicle),
        "drives": partial(check_drive, vehicle),
    }
    for part, check in checks.items():
        for place, each in enumerate(getattr(vehicle, part).values()):
            try:
                check(each)
            except PercorsoError as error:
                yield FileProblem(json_path((part, place, *error.field)), str(error))


def _check_whole_circuit(vehicle: Vehicle, circuit: Circuit) -> None:
    check_circuit(vehicle, circuit)
    check_believable(vehicle, circuit)
