"""The log of what the meter said: written once, never changed."""

import uuid
from typing import Any

from django.conf import settings
from django.db import models

from jobs.models import Circuit, Point, new_file_id


class Reading(models.Model):
    """One voltage drop as measured. A wrong one is superseded by a new one that names it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    file_id = models.CharField(max_length=64, default=new_file_id)  # its id in job files, for good
    circuit = models.ForeignKey(Circuit, on_delete=models.PROTECT, related_name="readings")
    stage = models.CharField(max_length=8, default="planned")  # of the metal that was measured
    red_point = models.ForeignKey(Point, on_delete=models.PROTECT, related_name="+")
    black_point = models.ForeignKey(Point, on_delete=models.PROTECT, related_name="+")
    value_v = models.FloatField()
    current_a = models.FloatField()
    lead_offset_v = models.FloatField(default=0.0)
    instrument = models.CharField(max_length=500, blank=True)
    note = models.CharField(max_length=500, blank=True)
    taken_at = models.DateTimeField()
    taken_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    supersedes = models.OneToOneField("self", null=True, on_delete=models.PROTECT, related_name="superseded_by")

    class Meta:
        ordering = ["-taken_at"]
        constraints = [models.CheckConstraint(condition=models.Q(current_a__gt=0), name="reading_under_load")]

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Save once; a second time is a programming error."""
        if not self._state.adding:
            raise TypeError("a reading is never edited; log a new one that supersedes it")
        super().save(*args, **kwargs)

    def delete(self, *args: Any, **kwargs: Any) -> tuple[int, dict[str, int]]:
        """A reading is never deleted."""
        raise TypeError("a reading is never deleted; log a new one that supersedes it")
