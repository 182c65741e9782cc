"""Tests that are left out of a case."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("readings", "0011_photo_bytes")]
    operations = [migrations.AddField("case", "left_out", models.JSONField(default=list))]
