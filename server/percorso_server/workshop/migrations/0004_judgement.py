import django.core.validators
from django.db import migrations, models


def take_the_lower(apps, schema_editor):
    """By table was what nobody had chosen; the lower of table and model is never less severe."""
    apps.get_model("workshop", "Shop").objects.filter(ampacity_rule="table").update(ampacity_rule="lower of both")


class Migration(migrations.Migration):

    dependencies = [
        ('workshop', '0003_charging_reserve'),
    ]

    operations = [
        migrations.AddField(
            model_name='shop',
            name='said_targets',
            field=models.JSONField(blank=True, default=dict),
        ),
        migrations.AddField(
            model_name='shop',
            name='school',
            field=models.CharField(choices=[('light', 'light'), ('usual', 'usual'), ('generous', 'generous')], default='usual', max_length=20),
        ),
        migrations.AddField(
            model_name='shop',
            name='wire_load_fraction',
            field=models.FloatField(default=0.85, validators=[django.core.validators.MinValueValidator(0.01), django.core.validators.MaxValueValidator(1.0)]),
        ),
        migrations.AddField(
            model_name='shop',
            name='wire_rise_k',
            field=models.FloatField(default=40.0),
        ),
        migrations.AlterField(
            model_name='shop',
            name='ampacity_rule',
            field=models.CharField(choices=[('lower of both', 'lower of both'), ('table', 'table'), ('thermal model', 'thermal model')], default='lower of both', max_length=20),
        ),
        migrations.RunPython(take_the_lower, migrations.RunPython.noop),
    ]
