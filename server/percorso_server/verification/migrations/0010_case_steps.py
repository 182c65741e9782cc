from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("readings", "0009_note_words")]

    operations = [
        migrations.AddField("case", "version", models.PositiveIntegerField(default=0)),
        migrations.AddField("case", "keys", models.JSONField(default=list)),
    ]
