from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("workshop", "0006_people")]

    operations = [
        migrations.CreateModel(
            "KnownAddress",
            [
                ("of", models.CharField(max_length=64, primary_key=True, serialize=False)),
                ("last_at", models.DateTimeField(db_index=True)),
            ],
        ),
    ]
