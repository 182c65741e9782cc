"""Clears what nobody needs: ended sessions, old wrong tries, changes too old to be undone, files of no photo."""

from datetime import timedelta
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.utils import timezone

from percorso_server.jobs.models import Edit
from percorso_server.verification.photos.keeping import clear_left
from percorso_server.workshop.models import KnownAddress, WrongTries

TRIES_DAYS, KNOWN_DAYS, UNDO_DAYS = 7, 180, 180


class Command(BaseCommand):
    """Safe at any time, while people work."""

    help = "Clear what is old"

    def handle(self, *args: Any, **options: Any) -> None:
        """Clear, and say how much."""
        call_command("clearsessions")
        now = timezone.now()
        KnownAddress.objects.filter(last_at__lt=now - timedelta(days=KNOWN_DAYS)).delete()
        tries, _ = WrongTries.objects.filter(last_at__lt=now - timedelta(days=TRIES_DAYS)).delete()
        edits, _ = Edit.objects.filter(made_at__lt=now - timedelta(days=UNDO_DAYS)).delete()
        files = clear_left()
        cleared = f"{tries} old wrong tries, {edits} changes too old to be undone, {files} files of no photo"
        self.stdout.write(f"cleared: ended sessions, {cleared}")
