"""How segments and devices are known (those that were there had all been described by somebody), and from which answers
a vehicle was laid that came in.
"""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0008_words")]
    operations = [
        migrations.AddField(name, "known", models.CharField(max_length=8, default="seen"))
        for name in ("device", "segment")
    ]
    operations.append(migrations.AddField("job", "came_in", models.JSONField(null=True)))
