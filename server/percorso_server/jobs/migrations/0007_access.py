"""How one gets at points, segments and devices, where somebody said so."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0006_fixed_inputs")]
    operations = [
        migrations.AddField(name, "access", models.CharField(max_length=20, null=True))
        for name in ("device", "point", "segment")
    ]
