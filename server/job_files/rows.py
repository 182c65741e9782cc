"""A job file into the rows of a new job, and a job's rows into its file."""

from uuid import UUID, uuid4

from django.db import transaction

from jobs.models import Job
from network.assembly import network_of
from network.copying import fill_job
from percorso.files.job_file import FileReading, JobFile, JobHead, job_file_of, vehicle_of
from percorso.vehicle.ids import Ids, same_ids, with_ids
from verification.models import Reading
from workshop.models import Person


def write_job(file: JobFile, person: Person, job_id: UUID | None = None) -> Job:
    """Open a new job in the person's shop with everything a checked file holds: all of it, or nothing."""
    with transaction.atomic():
        job = Job.objects.create(
            id=job_id or uuid4(),
            shop=person.shop,
            name=file.name,
            vehicle=file.vehicle,
            wish=file.wish,
            nominal_v=file.nominal_v,
            zone_temperature_c=file.zone_temperature_c,
        )
        vehicle = vehicle_of(file)
        new = fill_job(job, vehicle, same_ids(vehicle))
        _write_readings(file, person, new)
    return job


def _write_readings(file: JobFile, person: Person, new: Ids) -> None:
    written: dict[str, Reading] = {}
    for reading in sorted(file.readings, key=lambda each: each.taken_at):
        written[reading.id] = Reading.objects.create(
            file_id=reading.id,
            circuit_id=new.circuits[reading.circuit],
            stage=reading.stage,
            red_point_id=new.points[reading.red_point],
            black_point_id=new.points[reading.black_point],
            value_v=reading.value_v,
            current_a=reading.current_a,
            lead_offset_v=reading.lead_offset_v,
            instrument=reading.instrument,
            note=reading.note,
            taken_at=reading.taken_at,
            taken_by=person,
            supersedes=written[reading.supersedes] if reading.supersedes else None,
        )


def read_job(job: Job) -> JobFile:
    """The job file of a stored job."""
    stored = network_of(job)
    rows = Reading.objects.filter(circuit__job=job, circuit__live=True, red_point__live=True, black_point__live=True)
    readings = [_file_reading(row) for row in rows.select_related("circuit", "red_point", "black_point", "supersedes")]
    head = JobHead(name=job.name, vehicle=job.vehicle, wish=job.wish)
    return job_file_of(head, with_ids(stored.vehicle, stored.ids_in_files), readings)


def _file_reading(row: Reading) -> FileReading:
    return FileReading(
        id=row.file_id,
        circuit=row.circuit.file_id,
        stage=row.stage,
        red_point=row.red_point.file_id,
        black_point=row.black_point.file_id,
        value_v=row.value_v,
        current_a=row.current_a,
        lead_offset_v=row.lead_offset_v,
        instrument=row.instrument,
        note=row.note,
        taken_at=row.taken_at,
        supersedes=row.supersedes.file_id if row.supersedes else None,
    )
