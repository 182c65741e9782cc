"""Copies a job, and fills a job with a vehicle's network under new ids."""

from collections.abc import Mapping
from dataclasses import fields
from uuid import UUID, uuid4

from django.db import transaction

from percorso.vehicle.ids import Ids, new_ids, with_ids
from percorso.vehicle.model import Vehicle
from percorso_server.jobs.models import Job
from percorso_server.network.differences import changes_between
from percorso_server.network.reading import network_of
from percorso_server.network.writing import write_changes


def copy_job(job: Job, new_id: UUID, name: str) -> Job:
    """A job with the same network under another name and new ids."""
    with transaction.atomic():
        made = Job.objects.create(
            id=new_id,
            shop=job.shop,
            name=name,
            vehicle=job.vehicle,
            wish=job.wish,
            nominal_v=job.nominal_v,
            zone_temperature_c=job.zone_temperature_c,
            came_in=job.came_in,
        )
        stored = network_of(job)
        fill_job(made, stored.vehicle, stored.ids_in_files)
    return made


def fill_job(job: Job, vehicle: Vehicle, file_ids: Ids) -> Ids:
    """Write a vehicle's network into an empty job under new ids, and say which; files will call it by ``file_ids``."""
    new = new_ids(vehicle, lambda: str(uuid4()))
    empty = Vehicle(vehicle.nominal_v, {}, {})
    called = {ours[old]: theirs[old] for ours, theirs in zip(_maps(new), _maps(file_ids), strict=True) for old in ours}
    write_changes(job, changes_between(empty, with_ids(vehicle, new)), called)
    return new


def _maps(ids: Ids) -> tuple[Mapping[str, str], ...]:
    return tuple(getattr(ids, each.name) for each in fields(Ids))
