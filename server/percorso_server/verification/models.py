"""The log of what was measured and seen: written once, never changed; and photos of the metal."""

import uuid
from typing import Any

from django.conf import settings
from django.db import models

from percorso_server.jobs.models import Circuit, Device, Job, Point, Segment, new_file_id
from percorso_server.jobs.searching import index_note


class Reading(models.Model):
    """One measurement. A wrong one is superseded by a new one that names it.

    ``taken_at`` is when it was taken, ``received_at`` when it arrived: a phone without network keeps it meanwhile.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    file_id = models.CharField(max_length=64, default=new_file_id)  # its id in job files, for good
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="readings")
    circuit = models.ForeignKey(Circuit, null=True, on_delete=models.PROTECT, related_name="readings")
    quantity = models.CharField(max_length=12)
    red_point = models.ForeignKey(Point, null=True, on_delete=models.PROTECT, related_name="+")
    black_point = models.ForeignKey(Point, null=True, on_delete=models.PROTECT, related_name="+")
    segment = models.ForeignKey(Segment, null=True, on_delete=models.PROTECT, related_name="+")
    device = models.ForeignKey(Device, null=True, on_delete=models.PROTECT, related_name="+")
    situation = models.JSONField()  # stage, state, inputs, and preparations by the ids of rows
    instrument = models.CharField(max_length=12)
    value = models.FloatField(null=True)  # V, A or Ω
    outcome = models.CharField(max_length=12, null=True)
    current_a = models.FloatField(null=True)  # meanwhile, where somebody measured it
    lead_offset = models.FloatField(default=0.0)
    meter = models.CharField(max_length=500, blank=True)
    note = models.CharField(max_length=500, blank=True)
    taken_at = models.DateTimeField()
    received_at = models.DateTimeField(auto_now_add=True)
    taken_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    supersedes = models.OneToOneField("self", null=True, on_delete=models.PROTECT, related_name="superseded_by")

    class Meta:
        ordering = ["-taken_at", "-received_at"]
        indexes = [models.Index(fields=["job", "-taken_at"], name="reading_by_job_and_time")]
        constraints = [
            models.CheckConstraint(
                condition=models.Q(current_a__isnull=True) | models.Q(current_a__gt=0), name="reading_under_load"
            ),
            models.CheckConstraint(
                condition=models.Q(value__isnull=False) | models.Q(outcome__isnull=False), name="reading_says_something"
            ),
        ]

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Save once; a second time is a programming error."""
        if not self._state.adding:
            raise TypeError("a reading is never edited; log a new one that supersedes it")
        super().save(*args, **kwargs)
        index_note(self.job_id, self.note)

    def delete(self, *args: Any, **kwargs: Any) -> tuple[int, dict[str, int]]:
        """A reading is never deleted."""
        raise TypeError("a reading is never deleted; log a new one that supersedes it")


class Case(models.Model):
    """What is known where a job's vehicle is traced at a stage: what was said, which readings count or are doubted, in
    the order in which they were taken up, what was mended since, each with the readings that counted before,
    which parts somebody suspects, and which tests are left out. ``version`` grows with each step; ``keys`` are those of
    the last ones.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="cases")
    stage = models.CharField(max_length=8)
    said = models.JSONField(default=list)
    readings = models.JSONField(default=list)  # ids of readings
    doubted = models.JSONField(default=list)
    mended = models.JSONField(default=list)
    suspected = models.JSONField(default=list)  # designations
    left_out = models.JSONField(default=list)  # tests, and why
    version = models.PositiveIntegerField(default=0)
    keys = models.JSONField(default=list)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "stage"], name="one_case_of_a_stage")]


class Photo(models.Model):
    """A photo of a reading, a point, a segment or a device, as it was taken in: made anew, without what it told of its
    maker; ``sha256`` tells pictures apart.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    file_id = models.CharField(max_length=64, default=new_file_id)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="photos")
    reading = models.ForeignKey(Reading, null=True, on_delete=models.PROTECT, related_name="photos")
    point = models.ForeignKey(Point, null=True, on_delete=models.PROTECT, related_name="+")
    segment = models.ForeignKey(Segment, null=True, on_delete=models.PROTECT, related_name="+")
    device = models.ForeignKey(Device, null=True, on_delete=models.PROTECT, related_name="+")
    sha256 = models.CharField(max_length=64)
    caption = models.CharField(max_length=500, blank=True)
    picture = models.FileField(upload_to="photos", max_length=200)
    thumbnail = models.FileField(upload_to="photos", max_length=200)
    width = models.PositiveSmallIntegerField()
    height = models.PositiveSmallIntegerField()
    bytes = models.PositiveIntegerField(default=0)  # of both pictures
    taken_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    received_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["received_at"]
