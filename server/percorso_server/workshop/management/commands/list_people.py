"""Lists who can sign in, by shop."""

from typing import Any

from django.core.management.base import BaseCommand

from percorso_server.workshop.models import Person


class Command(BaseCommand):
    """One line for each person."""

    help = "List the people"

    def handle(self, *args: Any, **options: Any) -> None:
        """Print shop, name, when they last signed in, and whether they may not any more."""
        for each in Person.objects.order_by("shop__name", "username"):
            seen = f"last signed in {each.last_login:%Y-%m-%d}" if each.last_login else "never signed in"
            self.stdout.write(f"{each.shop}: {each.username}, {seen}{'' if each.is_active else ', disabled'}")
