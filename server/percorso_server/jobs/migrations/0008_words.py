"""The words by which jobs are found, and those of the jobs that are there."""

import django.db.models.deletion
from django.db import migrations, models

from percorso_server.jobs.searching import NAMED, words_of


def index_all(apps, schema_editor):
    word = apps.get_model("jobs", "JobWord")
    for job in apps.get_model("jobs", "Job").objects.iterator(500):
        texts = [job.name, job.vehicle, job.wish]
        for model, columns in NAMED.items():
            rows = apps.get_model("jobs", model.__name__).objects.filter(job_id=job.pk, live=True)
            texts += [text for row in rows.values_list(*columns) for text in row]
        word.objects.bulk_create(word(job_id=job.pk, of="job", word=each) for each in sorted(words_of(texts)))


class Migration(migrations.Migration):
    dependencies = [("jobs", "0007_access")]
    operations = [
        migrations.CreateModel(
            "JobWord",
            [
                ("id", models.BigAutoField(primary_key=True, serialize=False)),
                ("of", models.CharField(choices=[("job", "job"), ("note", "note")], max_length=4)),
                ("word", models.CharField(max_length=40)),
                (
                    "job",
                    models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="+", to="jobs.job"),
                ),
            ],
            options={
                "indexes": [models.Index(fields=["word", "job"], name="jobs_jobwor_word_e83a07_idx")],
                "constraints": [models.UniqueConstraint(fields=("job", "word", "of"), name="word_once_of_a_job")],
            },
        ),
        migrations.RunPython(index_all, migrations.RunPython.noop),
    ]
