"""Disables a person: they are signed out everywhere, and cannot sign in until they are given a new password."""

from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from percorso_server.workshop.management.asking import person_called


class Command(BaseCommand):
    """Take away somebody's way in; what they wrote stays."""

    help = "Disable a person"

    def add_arguments(self, parser: CommandParser) -> None:
        """Whom."""
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        """A session of someone who is not active is nobody's from the next request on."""
        person = person_called(options["name"])
        person.is_active = False
        person.save(update_fields=["is_active"])
        self.stdout.write(f"{person.username} of {person.shop} cannot sign in any more")
