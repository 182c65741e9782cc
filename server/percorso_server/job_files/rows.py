"""A job file into the rows of a new job, and a job's rows into its file."""

from collections.abc import Collection, Iterable, Mapping
from types import MappingProxyType
from typing import Any
from uuid import UUID, uuid4

from django.db import transaction

from percorso.files.job_file import (
    FileCase,
    FileMended,
    FilePhoto,
    FileReading,
    JobFile,
    JobHead,
    job_file_of,
    vehicle_of,
)
from percorso.vehicle.ids import Ids, same_ids, with_ids
from percorso.verification.measured.renaming import renamed, with_new_ids
from percorso_server.jobs.models import Job
from percorso_server.network.copying import fill_job
from percorso_server.network.reading import network_of
from percorso_server.verification.models import Case, Photo, Reading
from percorso_server.verification.photos.keeping import keep_photo
from percorso_server.workshop.models import Person

NO_PICTURES: Mapping[str, bytes] = MappingProxyType({})


def write_job(
    file: JobFile, person: Person, job_id: UUID | None = None, pictures: Mapping[str, bytes] = NO_PICTURES
) -> Job:
    """Open a new job in the person's shop with everything a checked file holds: all of it, or nothing.

    A file only refers to photos: one is kept whose picture is given by the photo's id, or is in the shop already.
    """
    with transaction.atomic():
        job = Job.objects.create(
            id=job_id or uuid4(),
            shop=person.shop,
            name=file.name,
            vehicle=file.vehicle,
            wish=file.wish,
            nominal_v=file.nominal_v,
            zone_temperature_c=file.zone_temperature_c,
            came_in=file.came_in,
        )
        vehicle = vehicle_of(file)
        new = fill_job(job, vehicle, same_ids(vehicle))
        write_readings(file.readings, job, person, new)
        readings = dict(Reading.objects.filter(job=job).values_list("file_id", "id"))
        _write_photos(file, job, person, new, readings, pictures)
        _write_cases(file, job, readings)
    return job


def _write_cases(file: JobFile, job: Job, readings: Mapping[str, UUID]) -> None:
    for each in file.cases:
        Case.objects.create(
            job=job,
            stage=each.stage,
            said=[said.model_dump() for said in each.said],
            readings=[str(readings[one]) for one in each.readings],
            doubted=[str(readings[one]) for one in each.doubted],
            mended=[
                {"part": mended.part, "before": [str(readings[one]) for one in mended.before]} for mended in each.mended
            ],
            suspected=each.suspected,
        )


PICTURED = ("sha256", "picture", "thumbnail", "width", "height", "bytes")  # what photos of one picture have in common


def _write_photos(
    file: JobFile, job: Job, person: Person, new: Ids, readings: Mapping[str, UUID], pictures: Mapping[str, bytes]
) -> None:
    for each in file.photos:
        links = {
            "reading_id": readings.get(each.reading or ""),
            "point_id": new.points.get(each.point or ""),
            "segment_id": new.segments.get(each.segment or ""),
            "device_id": new.devices.get(each.device or ""),
        }
        columns: dict[str, Any] = {"job": job, "file_id": each.id, "caption": each.caption, "taken_by": person, **links}
        same = Photo.objects.filter(job__shop=job.shop, sha256=each.sha256).first()
        if each.id in pictures:
            keep_photo(pictures[each.id], **columns)
        elif same is not None:
            kept = {name: getattr(same, name) for name in PICTURED}
            Photo.objects.create(**columns, **kept)


def write_readings(readings: Iterable[FileReading], job: Job, person: Person, new: Ids) -> None:
    """Write measurements into a job whose rows ``new`` names by the ids that the file has."""
    listed = list(readings)
    earlier = [each.supersedes for each in listed if each.supersedes]
    written = {each.file_id: each for each in Reading.objects.filter(job=job, file_id__in=earlier)}
    for reading in sorted(listed, key=lambda each: each.taken_at):
        measured = with_new_ids(reading, new)
        written[reading.id] = Reading.objects.create(
            file_id=reading.id,
            job=job,
            circuit_id=None if reading.circuit is None else new.circuits[reading.circuit],
            quantity=reading.quantity,
            situation=measured.situation.model_dump(mode="json", by_alias=True),
            instrument=reading.with_what,
            supersedes=written[reading.supersedes] if reading.supersedes else None,
            taken_by=person,
            **{f"{name}_id": getattr(measured, name) for name in LINKS},
            **{name: getattr(reading, name) for name in COLUMNS},
        )


LINKS = ("red_point", "black_point", "segment", "device")
COLUMNS = ("value", "outcome", "current_a", "lead_offset", "meter", "note", "taken_at")  # as they are in a file


def read_job(job: Job) -> JobFile:
    """The job file of a stored job."""
    stored = network_of(job)
    readings = file_readings(job, stored.ids_in_files)
    head = JobHead(name=job.name, vehicle=job.vehicle, wish=job.wish)
    told = {each.id for each in readings}
    photos = [each for each in _file_photos(job) if each.reading is None or each.reading in told]
    cases = _file_cases(job, told)
    return job_file_of(head, with_ids(stored.vehicle, stored.ids_in_files), readings, photos, cases, job.came_in)


def _file_cases(job: Job, told: Collection[str]) -> list[FileCase]:
    """The cases of a job, with those readings that are in its file."""
    named = {str(each): file_id for each, file_id in Reading.objects.filter(job=job).values_list("id", "file_id")}

    def of(readings: list[str]) -> list[str]:
        return [named[each] for each in readings if named.get(each) in told]

    rows = Case.objects.filter(job=job)
    return [
        FileCase(
            stage=row.stage,
            said=row.said,
            readings=of(row.readings),
            doubted=of(row.doubted),
            mended=[FileMended(part=each["part"], before=of(each["before"])) for each in row.mended],
            suspected=row.suspected,
        )
        for row in rows
    ]


def _file_photos(job: Job) -> list[FilePhoto]:
    """The photos of what still lives in a job."""
    subjects = ("reading", "point", "segment", "device")
    found = []
    for row in Photo.objects.filter(job=job).select_related(*subjects):
        links = {name: linked.file_id for name in subjects if (linked := getattr(row, name)) is not None}
        if getattr(row.point or row.segment or row.device, "live", True):
            found.append(FilePhoto(id=row.file_id, sha256=row.sha256, caption=row.caption, **links))
    return found


def file_readings(job: Job, ids: Ids) -> list[FileReading]:
    """The measurements of what still lives in a job, under the ids that files have."""
    rows = Reading.objects.filter(job=job).select_related("circuit", "supersedes", *LINKS)
    return [_file_reading(row, ids) for row in rows if all(each is None or each.live for each in _linked(row))]


def _linked(row: Reading) -> tuple[Any, ...]:
    return row.circuit, *(getattr(row, name) for name in LINKS)


def _file_reading(row: Reading, ids: Ids) -> FileReading:
    links = {name: linked.file_id for name in LINKS if (linked := getattr(row, name)) is not None}
    values: dict[str, Any] = {name: getattr(row, name) for name in (*COLUMNS, "quantity", "instrument", "situation")}
    reading = FileReading(
        id=row.file_id,
        circuit=row.circuit.file_id if row.circuit else None,
        supersedes=row.supersedes.file_id if row.supersedes else None,
        **values,
        **links,
    )
    situation = renamed(reading.situation, ids)
    return reading.model_copy(update={"situation": situation})
