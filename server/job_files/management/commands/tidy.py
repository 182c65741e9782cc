"""Clears what nobody needs any more: sessions that ended, old wrong tries to sign in, changes too old to be undone."""

from datetime import timedelta
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.utils import timezone

from jobs.models import Edit
from workshop.models import WrongTries

TRIES_DAYS, UNDO_DAYS = 7, 180


class Command(BaseCommand):
    """Safe at any time, while people work."""

    help = "Clear what is old"

    def handle(self, *args: Any, **options: Any) -> None:
        """Clear, and say how much."""
        call_command("clearsessions")
        now = timezone.now()
        tries, _ = WrongTries.objects.filter(last_at__lt=now - timedelta(days=TRIES_DAYS)).delete()
        edits, _ = Edit.objects.filter(made_at__lt=now - timedelta(days=UNDO_DAYS)).delete()
        self.stdout.write(f"cleared: ended sessions, {tries} old wrong tries, {edits} changes too old to be undone")
