"""Loads the demo shop from the job files under demo/, once."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction

from jobs.copying import fill_job
from jobs.models import Job
from percorso.importing import read_job_file
from percorso.jobfile import JobFile, vehicle_of
from readings.models import Reading
from workshop.demo import DEMO_PASSWORD, DEMO_SHOP, DEMO_USERNAME
from workshop.models import Person, Shop

FOLDER: Path = settings.ROOT / "demo"


class Command(BaseCommand):
    """Create the demo shop, its person and its jobs unless they are there; ``--say`` only prints the sign-in."""

    help = "Load the demo shop"

    def add_arguments(self, parser: CommandParser) -> None:
        """Declare --say."""
        parser.add_argument("--say", action="store_true", help="print the demo sign-in and load nothing")

    def handle(self, *args: Any, **options: Any) -> None:
        """Load, or say."""
        if options["say"]:
            self.stdout.write(f"Demo sign-in: {DEMO_USERNAME} / {DEMO_PASSWORD}")
            return
        with transaction.atomic():
            shop, is_new = Shop.objects.get_or_create(name=DEMO_SHOP)
            if not is_new:
                return
            person = Person.objects.create_user(DEMO_USERNAME, password=DEMO_PASSWORD, shop=shop)
            for path in sorted(FOLDER.glob("*.json")):
                _load(read_job_file(path.read_bytes()), person)


def _load(file: JobFile, person: Person) -> None:
    job = Job.objects.create(
        shop=person.shop,
        name=file.name,
        vehicle=file.vehicle,
        wish=file.wish,
        nominal_v=file.nominal_v,
        zone_temperature_c=file.zone_temperature_c,
    )
    new = fill_job(job, vehicle_of(file))
    written: dict[str, Reading] = {}
    for reading in file.readings:
        written[reading.id] = Reading.objects.create(
            circuit_id=new.circuits[reading.circuit],
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
