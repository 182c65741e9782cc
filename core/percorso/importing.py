"""Reads a job file that comes from outside: everything wrong with it is found before anything is made of it."""

import json
import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import partial
from itertools import accumulate
from typing import Any

from pydantic import ValidationError

from percorso.errors import FileProblem, JobFileError, PercorsoError
from percorso.jobfile import FORMAT, VERSION, JobFile, vehicle_of
from percorso.specs import RelayContact
from percorso.vehicle import check_circuit, check_device, check_input, check_segment

MAX_BYTES = 5_000_000
MAX_DEPTH = 12


def read_job_file(text: str | bytes) -> JobFile:
    """Read and fully check a job file. Raises JobFileError, whose ``problems`` list everything that is wrong."""
    document = _document(text)
    try:
        job = JobFile.model_validate(document)
    except ValidationError as error:
        raise JobFileError([_of_pydantic(item) for item in error.errors()]) from error
    problems = [*_doubles(job), *_dangling(job)] or list(_wrong_parts(job))
    if problems:
        raise JobFileError(problems)
    return job


def _document(text: str | bytes) -> Any:
    """The JSON document, if it is one that may be looked at: right encoding, size, depth, format and version."""
    if len(text) > MAX_BYTES:
        raise _whole(f"the file is larger than {MAX_BYTES // 1_000_000} MB; a job is not")
    try:
        decoded = text.decode("utf-8-sig") if isinstance(text, bytes) else text
    except UnicodeDecodeError as error:
        raise _whole(f"the file is not UTF-8 text (byte {error.start})") from error
    if _depth(decoded) > MAX_DEPTH:
        raise _whole(f"the file is nested more than {MAX_DEPTH} deep; a job is not")
    try:
        document = json.loads(decoded, parse_constant=_no_constant, object_pairs_hook=_once)
    except JobFileError:
        raise
    except json.JSONDecodeError as error:
        raise _whole(f"this is not complete JSON: line {error.lineno}, column {error.colno}: {error.msg}") from error
    except ValueError as error:
        raise _whole(f"a number in it is too long: {error}") from error
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise JobFileError([FileProblem("$.format", f'this is not a job file: its format is not "{FORMAT}"')])
    version = document.get("version")
    if isinstance(version, int) and version > VERSION:
        message = f"this file has version {version}; this Percorso reads up to {VERSION}: bring it up to date first"
        raise JobFileError([FileProblem("$.version", message)])
    return document


def _no_constant(name: str) -> Any:
    raise _whole(f"{name} is not a number a job can hold")


def _whole(message: str) -> JobFileError:
    return JobFileError([FileProblem("$", message)])


_STRING = re.compile(r'"(?:[^"\\\\]|\\\\.)*"')


def _depth(text: str) -> int:
    """How deep brackets nest, strings left out; found without recursion."""
    steps = (1 if bracket in "[{" else -1 for bracket in re.findall(r"[\[\]{}]", _STRING.sub("", text)))
    return max(accumulate(steps), default=0)


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    """An object whose keys each stand there once."""
    made = dict(pairs)
    if len(made) < len(pairs):
        names = [name for name, _ in pairs]
        twice = next(name for name in names if names.count(name) > 1)
        raise _whole(f'"{twice}" stands twice in one object')
    return made


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
    return FileProblem(json_path(steps), str(item["msg"]).removeprefix("Value error, "))


def _doubles(job: JobFile) -> Iterator[FileProblem]:
    """Ids, and names that must tell things apart, that stand there twice."""
    for part, keys in (
        ("inputs", ("id",)),
        ("points", ("id", "name")),
        ("segments", ("id", "designation")),
        ("devices", ("id", "designation")),
        ("circuits", ("id", "name")),
        ("readings", ("id",)),
    ):
        for key in keys:
            first: dict[str, int] = {}
            for place, each in enumerate(getattr(job, part)):
                value = getattr(each, key)
                if value in first:
                    where = f"$.{part}[{first[value]}].{key}"
                    yield FileProblem(f"$.{part}[{place}].{key}", f'"{value}" is already at {where}')
                first.setdefault(value, place)


def _dangling(job: JobFile) -> Iterator[FileProblem]:
    """References to points, segments, devices, circuits and readings that are not in the file."""
    known = {part: {each.id for each in getattr(job, part)} for part in ("points", "segments", "devices", "circuits")}
    for path, part, wanted in _references(job):
        if wanted not in known[part]:
            yield FileProblem(path, f'there is no {part.removesuffix("s")} "{wanted}" in this file')
    yield from _wrong_corrections(job)


def _wrong_corrections(job: JobFile) -> Iterator[FileProblem]:
    """Readings that supersede none taken before them, or one that another already supersedes."""
    taken = {each.id: each.taken_at for each in job.readings}
    corrected: set[str] = set()
    for place, reading in enumerate(job.readings):
        wrong = reading.supersedes
        path = f"$.readings[{place}].supersedes"
        if wrong is None:
            continue
        if wrong not in taken or taken[wrong] >= reading.taken_at:
            yield FileProblem(path, f'there is no reading "{wrong}" in this file that was taken before')
        elif wrong in corrected:
            yield FileProblem(path, f'another reading supersedes "{wrong}" already')
        corrected.add(wrong)


def _references(job: JobFile) -> Iterator[tuple[str, str, str]]:
    """(JSON path, list it points into, id) of every reference."""
    for place, segment in enumerate(job.segments):
        yield f"$.segments[{place}].from_point", "points", segment.from_point
        yield f"$.segments[{place}].to_point", "points", segment.to_point
        if isinstance(segment.spec, RelayContact) and segment.spec.coil:
            yield f"$.segments[{place}].spec.coil", "devices", segment.spec.coil
    for place, device in enumerate(job.devices):
        for terminal, point in device.terminals.items():
            yield f"$.devices[{place}].terminals.{terminal}", "points", point
    for place, circuit in enumerate(job.circuits):
        here = f"$.circuits[{place}]"
        if circuit.device_id:
            yield f"{here}.device_id", "devices", circuit.device_id
        if circuit.source_point:
            yield f"{here}.source_point", "points", circuit.source_point
        yield f"{here}.return_point", "points", circuit.return_point
        for name in ("supply", "return_path"):
            for step, segment_id in enumerate(getattr(circuit, name)):
                yield f"{here}.{name}[{step}]", "segments", segment_id
    for place, reading in enumerate(job.readings):
        yield f"$.readings[{place}].circuit", "circuits", reading.circuit
        yield f"$.readings[{place}].red_point", "points", reading.red_point
        yield f"$.readings[{place}].black_point", "points", reading.black_point


def _wrong_parts(job: JobFile) -> Iterator[FileProblem]:
    """Segments, devices and circuits that are whole by themselves and do not fit the rest."""
    vehicle = vehicle_of(job)
    checks: Mapping[str, Callable[[Any], None]] = {
        "inputs": check_input,
        "segments": partial(check_segment, vehicle),
        "devices": partial(check_device, vehicle),
        "circuits": partial(check_circuit, vehicle),
    }
    for part, check in checks.items():
        for place, each in enumerate(getattr(vehicle, part).values()):
            try:
                check(each)
            except PercorsoError as error:
                yield FileProblem(json_path((part, place, *error.field)), str(error))
