"""Says how the tables of the database stand to this program: none, same, older or newer."""

from pathlib import Path
from typing import Any

from django.apps import apps
from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import connection
from django.db.migrations.loader import MigrationLoader


class Command(BaseCommand):
    """One word, for the program that starts the server."""

    requires_system_checks = ()  # which would read in the whole server at every start
    help = "Say whether the tables are older or newer than this program"

    def handle(self, *args: Any, **options: Any) -> None:
        """Compare the migrations that were made with those that there are.

        Only an unknown migration of an app of ours makes the tables newer: a database that has been upgraded remembers
        those of libraries that are no longer used.
        """
        loader = MigrationLoader(connection)
        made, known = set(loader.applied_migrations), set(loader.disk_migrations)
        unknown = {app for app, _ in made - known} & our_apps()
        self.stdout.write("none" if not made else "newer" if unknown else "older" if known - made else "same")


def our_apps() -> set[str]:
    """The labels of the apps that lie in the server's own folder."""
    server = settings.ROOT / "server"
    return {each.label for each in apps.get_app_configs() if server in Path(each.path).parents}
