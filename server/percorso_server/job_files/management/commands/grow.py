"""Fills a shop with many small jobs and their readings, to see what a large database costs."""

import itertools
import random
from collections.abc import Iterator
from datetime import timedelta
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction
from django.utils import timezone

from percorso_server.jobs.models import Circuit, CircuitSegment, Device, DeviceTerminal, Job, JobWord, Point, Segment
from percorso_server.jobs.searching import words_of
from percorso_server.verification.models import Reading
from percorso_server.workshop.models import Person

AT_ONCE = 100  # jobs that are written together
VEHICLES = ("Delivery van", "Orchard tractor", "Village bus", "Milk lorry", "Road sweeper", "Fork lift", "Snow groomer")
DEVICES = ("Blower", "Pump", "Cold box", "Beacon", "Winch", "Heater", "Tail lift", "Wiper")
NOTES = ("", "", "", "corroded under its grease", "loose at the stud", "chafed at the bulkhead", "as it should be")
WIRES = 6  # in a row from the battery to the device and back


class Command(BaseCommand):
    """All in the shop of the first person there is; the same every time."""

    help = "Fill the database"

    def add_arguments(self, parser: CommandParser) -> None:
        """How many."""
        parser.add_argument("jobs", type=int, nargs="?", default=10_000)
        parser.add_argument("readings", type=int, nargs="?", default=1_000_000)

    def handle(self, *args: Any, **options: Any) -> None:
        """Write, so many jobs at once."""
        person = Person.objects.order_by("pk").first()
        if person is None:
            raise CommandError("add a person first")
        chance, each = random.Random(1), options["readings"] // max(options["jobs"], 1)
        numbers = iter(range(options["jobs"]))
        while together := list(itertools.islice(numbers, AT_ONCE)):
            with transaction.atomic():
                _write([_job(number, each, person, chance) for number in together])
            self.stdout.write(f"{together[-1] + 1} jobs", ending="\r")
        self.stdout.write(f"{options['jobs']} jobs with {each} readings each in {person.shop}")


def _write(jobs: list[list[Any]]) -> None:
    """Rows of one model after the other, in the order in which they refer to one another."""
    by_model: dict[type[Any], list[Any]] = {}
    for row in itertools.chain(*jobs):
        by_model.setdefault(type(row), []).append(row)
    for model, rows in by_model.items():
        model._default_manager.bulk_create(rows, batch_size=2_000)


def _job(number: int, readings: int, person: Person, chance: random.Random) -> list[Any]:
    """A job with one circuit: its rows."""
    vehicle, name = chance.choice(VEHICLES), chance.choice(DEVICES)
    job = Job(shop=person.shop, name=f"{name} {number}", vehicle=vehicle, wish=f"The {name.lower()} is weak in winter")
    points = [Point(job=job, name=f"{name} point {place}") for place in range(WIRES + 1)]
    wire = {"kind": "wire", "size": "4 mm2", "length_m": 2.0, "zone": "cabin"}
    segments = [
        Segment(job=job, designation=f"W{place + 1}", from_point=points[place], to_point=points[place + 1], spec=wire)
        for place in range(WIRES)
    ]
    load = {"kind": "resistive", "rated_v": 12.0, "rated_a": 10.0}
    battery = {"kind": "battery", "capacity_ah": 70.0, "cold_cranking_a": 600.0}
    middle = WIRES // 2
    device, source = (
        Device(job=job, designation=designation, name=called, spec=spec)
        for designation, called, spec in (("E1", name, load), ("G1", "Battery", battery))
    )
    segments.pop(middle)  # where the device sits
    ends = ((device, "+", middle), (device, "-", middle + 1), (source, "+", 0), (source, "-", WIRES))
    circuit = Circuit(
        job=job, name=f"{name} feed", family="feed", device=name, fed_device=device, design_current_a=10.0,
        source_v=12.6, state="on", target_kind="max_drop_v", target_value=0.6, source_point=points[0],
        return_point=points[middle + 1],
    )  # fmt: skip
    path = [
        CircuitSegment(
            circuit=circuit,
            segment=each,
            side="supply" if place < middle else "return",
            order=place if place < middle else place - middle,
        )
        for place, each in enumerate(segments)
    ]
    logged = list(_readings(job, segments, readings, person, chance))
    rows = [job, *points, *segments, device, source]
    texts = [job.name, job.vehicle, job.wish, circuit.name, "Battery", *(each.name for each in points)]
    texts += [each.designation for each in (*segments, device, source)]
    words = [JobWord(job=job, of="job", word=each) for each in sorted(words_of(texts))]
    words += [JobWord(job=job, of="note", word=each) for each in sorted(words_of(each.note for each in logged))]
    terminals = [DeviceTerminal(device=of, mark=mark, point=points[place]) for of, mark, place in ends]
    return [*rows, *terminals, circuit, *path, *words, *logged]


def _readings(
    job: Job, segments: list[Segment], count: int, person: Person, chance: random.Random
) -> Iterator[Reading]:
    now = timezone.now()
    for number in range(count):
        segment = segments[number % len(segments)]
        yield Reading(
            job=job, quantity="voltage", red_point_id=segment.from_point_id, black_point_id=segment.to_point_id,
            situation={"stage": "found", "state": "on", "inputs": {}, "preparations": []}, instrument="multimeter",
            value=round(chance.uniform(0.01, 0.4), 3), note=chance.choice(NOTES), taken_by=person,
            taken_at=now - timedelta(minutes=number), lead_offset=0.0,
        )  # fmt: skip
