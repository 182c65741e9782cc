"""Gives a person a new password, and their way in again if they had been disabled."""

from typing import Any

from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser

from percorso_server.workshop.management.asking import asked_password, person_called, refusal


class Command(BaseCommand):
    """Ask for the password; whoever is signed in with the old one is signed out."""

    help = "Give a person a new password"

    def add_arguments(self, parser: CommandParser) -> None:
        """To whom."""
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        """Ask and write."""
        person = person_called(options["name"])
        try:
            person.set_password(asked_password(person))
        except ValidationError as error:
            raise CommandError(refusal(error)) from error
        person.is_active = True
        person.save(update_fields=["password", "is_active"])
        self.stdout.write(f"{person.username} of {person.shop} can sign in with the new password")
