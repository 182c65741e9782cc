"""Gives every reading written before its own id in job files."""

from django.db import migrations
from django.db.models import CharField, F
from django.db.models.functions import Cast


def carry_over(apps, schema_editor):
    apps.get_model("readings", "Reading").objects.update(file_id=Cast(F("id"), CharField(max_length=64)))


class Migration(migrations.Migration):
    dependencies = [("readings", "0003_network")]
    operations = [migrations.RunPython(carry_over, migrations.RunPython.noop)]
