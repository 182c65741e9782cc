"""Says how the tables of the database stand to this program: none, same, older or newer."""

from typing import Any

from django.core.management.base import BaseCommand
from django.db import connection
from django.db.migrations.loader import MigrationLoader


class Command(BaseCommand):
    """One word, for the program that starts the server."""

    requires_system_checks = ()  # which would read in the whole server at every start
    help = "Say whether the tables are older or newer than this program"

    def handle(self, *args: Any, **options: Any) -> None:
        """Compare the migrations that were made with those that there are."""
        loader = MigrationLoader(connection)
        made, known = set(loader.applied_migrations), set(loader.disk_migrations)
        word = "none" if not made else "newer" if made - known else "older" if known - made else "same"
        self.stdout.write(word)
