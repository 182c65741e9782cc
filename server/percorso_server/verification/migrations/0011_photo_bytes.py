"""How much room each photo takes."""

from pathlib import Path

from django.conf import settings
from django.db import migrations, models


def measure(apps, schema_editor):
    photo = apps.get_model("readings", "Photo")
    for row in photo.objects.iterator(500):
        paths = [Path(settings.MEDIA_ROOT, name) for name in (row.picture.name, row.thumbnail.name)]
        row.bytes = sum(each.stat().st_size for each in paths if each.is_file())
        row.save(update_fields=["bytes"])


class Migration(migrations.Migration):
    dependencies = [("readings", "0010_case_steps")]

    operations = [
        migrations.AddField("photo", "bytes", models.PositiveIntegerField(default=0)),
        migrations.RunPython(measure, migrations.RunPython.noop),
    ]
