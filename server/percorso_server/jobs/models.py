"""A job and its network as rows. A row that was deleted keeps its place with ``live`` NULL, so it can come back."""

import uuid
from typing import Any, ClassVar

from django.conf import settings
from django.db import models

from percorso.vehicle.segments import ZONE_TEMPERATURE_C
from percorso_server.workshop.models import Shop


def default_zone_temperatures() -> dict[str, float]:
    """A new job's ambient temperatures, °C by zone."""
    return {str(zone): temperature for zone, temperature in ZONE_TEMPERATURE_C.items()}


class Job(models.Model):
    """One piece of work on one vehicle."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    shop = models.ForeignKey(Shop, on_delete=models.PROTECT, related_name="jobs")
    name = models.CharField(max_length=80)
    vehicle = models.CharField(max_length=80)
    wish = models.CharField(max_length=500, blank=True)
    nominal_v = models.PositiveSmallIntegerField(default=12)
    zone_temperature_c = models.JSONField(default=default_zone_temperatures)
    came_in = models.JSONField(null=True)  # answers from which its vehicle was laid, by question
    archived = models.BooleanField(default=False)
    version = models.PositiveIntegerField(default=1)
    created_at = models.DateTimeField(auto_now_add=True)
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        indexes = [models.Index(fields=["shop", "archived", "-changed_at"])]

    def __str__(self) -> str:
        return self.name


WORD_LENGTH = 40  # of which a word is told apart


class JobWord(models.Model):
    """A word by which a job is found: of the job and its network, or of a note; see ``searching``."""

    id = models.BigAutoField(primary_key=True)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="+")
    of = models.CharField(max_length=4, choices=[("job", "job"), ("note", "note")])
    word = models.CharField(max_length=WORD_LENGTH)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "word", "of"], name="word_once_of_a_job")]
        indexes = [models.Index(fields=["word", "job"])]


def new_file_id() -> str:
    """What a new part is called in job files."""
    return str(uuid.uuid4())


class NetworkRow(models.Model):
    """What the parts of a network have in common; ``file_id`` is a part's id in job files, for good."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    file_id = models.CharField(max_length=64, default=new_file_id)
    job = models.ForeignKey(Job, on_delete=models.CASCADE)
    live = models.BooleanField(null=True, default=True)  # True or NULL: unique constraints hold among the living only
    version = models.PositiveIntegerField(default=1)

    objects: ClassVar[models.Manager[Any]] = models.Manager()

    class Meta:
        abstract = True


class Point(NetworkRow):
    """A named place where conductors meet; ``access`` is how one gets there, NULL as is usual."""

    name = models.CharField(max_length=80)
    access = models.CharField(max_length=20, null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "name", "live"], name="point_name_in_job")]


class Input(NetworkRow):
    """A named condition that drives switches; they know it by ``key``."""

    key = models.CharField(max_length=64)
    name = models.CharField(max_length=80)
    positions = models.JSONField()
    by_state = models.JSONField(default=dict)
    fixed_in = models.JSONField(default=list)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "key", "live"], name="input_key_in_job")]


class Part(NetworkRow):
    """What segments and devices have in common; ``spec`` holds what the core's union on ``kind`` holds.

    ``access`` is how one gets at it, NULL as is usual for its kind; ``known`` is how one knows what it is.
    """

    designation = models.CharField(max_length=20)
    origin = models.CharField(max_length=8, default="existing")
    fate = models.CharField(max_length=8, default="kept")
    access = models.CharField(max_length=20, null=True)
    known = models.CharField(max_length=8, default="seen")
    spec = models.JSONField()

    class Meta:
        abstract = True


class Device(Part):
    """What makes or uses power; DeviceTerminal says where its terminals are."""

    name = models.CharField(max_length=80)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "designation", "live"], name="device_designation_in_job")]


class DeviceTerminal(models.Model):
    """The point one terminal of a device is on."""

    device = models.ForeignKey(Device, on_delete=models.CASCADE, related_name="terminals")
    mark = models.CharField(max_length=4)
    point = models.ForeignKey(Point, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["device", "mark"], name="terminal_once_on_device")]


class Segment(Part):
    """One piece of a path."""

    from_point = models.ForeignKey(Point, on_delete=models.PROTECT, related_name="+")
    to_point = models.ForeignKey(Point, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["job", "designation", "live"], name="segment_designation_in_job"),
            models.CheckConstraint(
                condition=~models.Q(from_point=models.F("to_point")), name="segment_ends_at_two_points"
            ),
        ]


class Circuit(NetworkRow):
    """A purpose with a path, which CircuitSegment orders."""

    name = models.CharField(max_length=80)
    family = models.CharField(max_length=12)
    device = models.CharField(max_length=80)
    fed_device = models.ForeignKey(Device, null=True, on_delete=models.PROTECT, related_name="+")
    design_current_a = models.FloatField()
    source_v = models.FloatField()
    state = models.CharField(max_length=12)
    target_kind = models.CharField(max_length=20)
    target_value = models.FloatField()
    typed = models.JSONField(default=dict)
    source_point = models.ForeignKey(Point, null=True, on_delete=models.PROTECT, related_name="+")
    return_point = models.ForeignKey(Point, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["job", "name", "live"], name="circuit_name_in_job"),
            models.CheckConstraint(condition=models.Q(design_current_a__gt=0), name="circuit_carries_current"),
        ]


class CircuitSegment(models.Model):
    """The place of a segment on one side of a circuit."""

    circuit = models.ForeignKey(Circuit, on_delete=models.CASCADE, related_name="path")
    segment = models.ForeignKey(Segment, on_delete=models.PROTECT, related_name="+")
    side = models.CharField(max_length=6)
    order = models.PositiveSmallIntegerField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["circuit", "segment"], name="segment_once_in_circuit"),
            models.UniqueConstraint(fields=["circuit", "side", "order"], name="one_segment_per_place"),
        ]


class Scenario(NetworkRow):
    """Conditions of the job's own; ``duty_percent`` is by device id."""

    name = models.CharField(max_length=80)
    state = models.CharField(max_length=12)
    time = models.CharField(max_length=8)
    season = models.CharField(max_length=8)
    outside_c = models.FloatField()
    duty_percent = models.JSONField(default=dict)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "name", "live"], name="scenario_name_in_job")]


class Drive(NetworkRow):
    """A drive; ``spells`` are its name, minutes and scenario each: a standard one by its name, or a Scenario's id."""

    name = models.CharField(max_length=80)
    spells = models.JSONField()
    from_percent = models.FloatField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "name", "live"], name="drive_name_in_job")]


TABLES: dict[str, type[NetworkRow]] = {
    "point": Point,
    "input": Input,
    "device": Device,
    "segment": Segment,
    "circuit": Circuit,
    "scenario": Scenario,
    "drive": Drive,
}  # of a network, in an order in which they can be written: what others refer to comes first


class Edit(models.Model):
    """One change of a job's network, with the rows before and after, so that it can be undone and redone.

    ``key`` comes from the browser: a change sent twice after a lost answer is written once.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="edits")
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    key = models.UUIDField(default=uuid.uuid4)
    label = models.CharField(max_length=200)
    changes = models.JSONField()
    undone = models.BooleanField(default=False)
    step_key = models.UUIDField(null=True)  # of the undo or redo that last touched it
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "key"], name="edit_written_once")]
