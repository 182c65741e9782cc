from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('readings', '0007_cases'),
    ]

    operations = [
        migrations.AddField(
            model_name='case',
            name='mended',
            field=models.JSONField(default=list),
        ),
        migrations.AddField(
            model_name='case',
            name='suspected',
            field=models.JSONField(default=list),
        ),
    ]
