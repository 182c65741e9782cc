"""Drops that were read become measurements of any kind; their values stay as they were."""

import django.db.models.deletion
from django.db import migrations, models
from django.db.models import F


def carry_over(apps, schema_editor):
    """A drop was read in the state in which its circuit is judged."""
    readings = apps.get_model("readings", "Reading").objects
    for row in readings.select_related("circuit").iterator():
        situation = {"stage": row.stage, "state": row.circuit.state, "inputs": {}, "preparations": []}
        readings.filter(pk=row.pk).update(job_id=row.circuit.job_id, situation=situation, received_at=F("taken_at"))


def link(name, target, **how):
    """A new foreign key of a reading."""
    field = models.ForeignKey(null=True, on_delete=django.db.models.deletion.PROTECT, related_name="+", to=target, **how)
    return migrations.AddField("reading", name, field)


class Migration(migrations.Migration):
    dependencies = [("readings", "0004_carry_over"), ("jobs", "0007_access")]
    operations = [
        migrations.RemoveConstraint("reading", "reading_under_load"),
        migrations.RenameField("reading", "value_v", "value"),
        migrations.RenameField("reading", "lead_offset_v", "lead_offset"),
        migrations.RenameField("reading", "instrument", "meter"),
        migrations.AddField("reading", "quantity", models.CharField(max_length=12, default="voltage"), False),
        migrations.AddField("reading", "instrument", models.CharField(max_length=12, default="multimeter"), False),
        migrations.AddField("reading", "outcome", models.CharField(max_length=12, null=True)),
        migrations.AddField("reading", "situation", models.JSONField(default=dict), False),
        migrations.AddField("reading", "received_at", models.DateTimeField(null=True)),
        link("segment", "jobs.segment"),
        link("device", "jobs.device"),
        migrations.AddField(
            "reading",
            "job",
            models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="readings", to="jobs.job"
            ),
        ),
        migrations.RunPython(carry_over, migrations.RunPython.noop),
        migrations.RemoveField("reading", "stage"),
        migrations.AlterField(
            "reading",
            "job",
            models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="readings", to="jobs.job"),
        ),
        migrations.AlterField("reading", "received_at", models.DateTimeField(auto_now_add=True)),
        migrations.AlterField(
            "reading",
            "circuit",
            models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.PROTECT, related_name="readings", to="jobs.circuit"
            ),
        ),
        *(
            migrations.AlterField(
                "reading",
                name,
                models.ForeignKey(
                    null=True, on_delete=django.db.models.deletion.PROTECT, related_name="+", to="jobs.point"
                ),
            )
            for name in ("red_point", "black_point")
        ),
        migrations.AlterField("reading", "value", models.FloatField(null=True)),
        migrations.AlterField("reading", "current_a", models.FloatField(null=True)),
        migrations.AlterModelOptions("reading", {"ordering": ["-taken_at", "-received_at"]}),
        migrations.AddIndex("reading", models.Index(fields=["job", "-taken_at"], name="reading_by_job_and_time")),
        migrations.AddConstraint(
            "reading",
            models.CheckConstraint(
                condition=models.Q(current_a__isnull=True) | models.Q(current_a__gt=0), name="reading_under_load"
            ),
        ),
        migrations.AddConstraint(
            "reading",
            models.CheckConstraint(
                condition=models.Q(value__isnull=False) | models.Q(outcome__isnull=False), name="reading_says_something"
            ),
        ),
    ]
