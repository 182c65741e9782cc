from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('jobs', '0005_loads'),
    ]

    operations = [
        migrations.AddField(
            model_name='input',
            name='fixed_in',
            field=models.JSONField(default=list),
        ),
    ]
