"""Copies a job, and fills a job with a vehicle's network under new ids."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from uuid import UUID, uuid4

from django.db import transaction

from jobs.assembly import changes_between, network_of, write_changes
from jobs.models import Job
from percorso.vehicle import Vehicle


@dataclass(frozen=True)
class NewIds:
    """The new id of each old one, by what it names."""

    points: Mapping[str, str]
    segments: Mapping[str, str]
    circuits: Mapping[str, str]


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
        )
        fill_job(made, network_of(job).vehicle)
    return made


def fill_job(job: Job, vehicle: Vehicle) -> NewIds:
    """Write a vehicle's network into an empty job under new ids, and say which."""
    new = NewIds(_fresh(vehicle.points), _fresh(vehicle.segments), _fresh(vehicle.circuits))
    empty = replace(vehicle, points={}, segments={}, circuits={})
    write_changes(job, changes_between(empty, _renamed(vehicle, new)))
    return new


def _fresh(ids: Iterable[str]) -> dict[str, str]:
    return {old: str(uuid4()) for old in ids}


def _renamed(vehicle: Vehicle, new: NewIds) -> Vehicle:
    points = [replace(each, id=new.points[each.id]) for each in vehicle.points.values()]
    segments = [
        replace(
            each,
            id=new.segments[each.id],
            from_point=new.points[each.from_point],
            to_point=new.points[each.to_point],
        )
        for each in vehicle.segments.values()
    ]
    circuits = [
        replace(
            each,
            id=new.circuits[each.id],
            source_point=new.points[each.source_point] if each.source_point else None,
            supply=tuple(new.segments[segment] for segment in each.supply),
            return_point=new.points[each.return_point],
            return_path=tuple(new.segments[segment] for segment in each.return_path),
        )
        for each in vehicle.circuits.values()
    ]
    return replace(
        vehicle,
        points={each.id: each for each in points},
        segments={each.id: each for each in segments},
        circuits={each.id: each for each in circuits},
    )
