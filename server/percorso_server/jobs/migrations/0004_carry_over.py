"""Carries rows over that were written before a network had devices and switches."""

from django.db import migrations
from django.db.models import CharField, F
from django.db.models.functions import Cast


def carry_over(apps, schema_editor):
    for name in ("Point", "Segment", "Circuit"):
        apps.get_model("jobs", name).objects.update(file_id=Cast(F("id"), CharField(max_length=64)))
    for segment in apps.get_model("jobs", "Segment").objects.filter(spec__kind__in=("contact", "joint")):
        segment.spec = renamed(segment.spec)
        segment.save(update_fields=["spec"])
    # Stored changes speak of rows as they were; they can no longer be undone.
    apps.get_model("jobs", "Edit").objects.all().delete()


def renamed(spec):
    if spec["kind"] == "contact" and spec["condition"] == "relay":
        return spec | {"kind": "relay contact"}
    if spec["kind"] == "contact":
        return spec | {"kind": "switch", "closed_in": ["accessory", "on", "start"]}
    if spec["condition"] == "crimped splice":
        return spec | {"kind": "splice", "condition": "crimped"}
    return spec


class Migration(migrations.Migration):
    dependencies = [("jobs", "0003_network")]
    operations = [migrations.RunPython(carry_over, migrations.RunPython.noop)]
