"""Loads the demo shop from the job files under demo/, once."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction

from percorso.files.reading import read_job_file
from percorso_server.job_files.rows import write_job
from percorso_server.workshop.demo import DEMO_PASSWORD, DEMO_SHOP, DEMO_USERNAME
from percorso_server.workshop.models import Person, Shop

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
            for path in sorted(FOLDER.glob("*.json"), reverse=True):  # the last one loaded is listed first
                file = read_job_file(path.read_bytes())
                drawn = {each.id: FOLDER / "photos" / f"{path.stem}-{each.id}.png" for each in file.photos}
                write_job(file, person, pictures={name: picture.read_bytes() for name, picture in drawn.items()})
