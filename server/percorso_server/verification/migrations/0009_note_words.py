"""The words of the notes that are there, by which their jobs are found."""

from django.db import migrations

from percorso_server.jobs.searching import words_of


def index_notes(apps, schema_editor):
    word = apps.get_model("jobs", "JobWord")
    noted = apps.get_model("readings", "Reading").objects.exclude(note="").values_list("job_id", "note")
    for job_id, note in noted.iterator(500):
        rows = [word(job_id=job_id, of="note", word=each) for each in sorted(words_of([note]))]
        word.objects.bulk_create(rows, ignore_conflicts=True)


class Migration(migrations.Migration):
    dependencies = [("readings", "0008_mended"), ("jobs", "0008_words")]
    operations = [migrations.RunPython(index_notes, migrations.RunPython.noop)]
