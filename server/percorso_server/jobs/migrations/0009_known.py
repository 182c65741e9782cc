"""How segments and devices are known: those that were there had all been described by somebody."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("jobs", "0008_words")]
    operations = [
        migrations.AddField(name, "known", models.CharField(max_length=8, default="seen"))
        for name in ("device", "segment")
    ]
