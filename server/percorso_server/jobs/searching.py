"""Jobs found by the beginnings of words: of vehicle, name and wish, of circuits, parts and points, and of notes.

The words of a job are rows of their own, so that neither ten thousand jobs nor a million readings are read for it.
"""

import re
from collections.abc import Iterable
from uuid import UUID

from django.db.models import Exists, Model, OuterRef, QuerySet

from percorso_server.jobs.models import WORD_LENGTH, Circuit, Device, Job, JobWord, Point, Segment

MOST_WORDS = 8  # of one search
NAMED: dict[type[Model], tuple[str, ...]] = {
    Circuit: ("name", "device"),
    Device: ("designation", "name"),
    Segment: ("designation",),
    Point: ("name",),
}


def words_of(texts: Iterable[str]) -> set[str]:
    """The words of some texts, whichever way they are written large or small."""
    found = (each for text in texts for each in re.findall(r"\w+", text.casefold()))
    return {each[:WORD_LENGTH] for each in found}


def index_job(job: Job) -> None:
    """Write the words of a job and its network anew, as far as they are others than before."""
    first, *others = (
        model._default_manager.filter(job=job, live=True).values_list(column)
        for model, columns in NAMED.items()
        for column in columns
    )
    named = [text for (text,) in first.union(*others)]
    now = words_of([job.name, job.vehicle, job.wish, *named])
    before = set(_words(job.pk, "job").values_list("word", flat=True))
    if before - now:
        _words(job.pk, "job").filter(word__in=before - now).delete()
    if now - before:
        _write(job.pk, "job", now - before)


def index_note(job_id: UUID, note: str) -> None:
    """Add the words of a note that was written while measuring; notes are never taken back."""
    words = words_of([note])
    if words:
        _write(job_id, "note", words)


def _words(job_id: UUID, of: str) -> QuerySet[JobWord]:
    return JobWord.objects.filter(job_id=job_id, of=of)


def _write(job_id: UUID, of: str, words: set[str]) -> None:
    rows = [JobWord(job_id=job_id, of=of, word=each) for each in sorted(words)]
    JobWord.objects.bulk_create(rows, ignore_conflicts=True)


def found_by(jobs: QuerySet[Job], text: str) -> QuerySet[Job]:
    """Those of some jobs that have for each word of a text one that begins with it."""
    for word in sorted(words_of([text]), key=len, reverse=True)[:MOST_WORDS]:
        beginning = {"word__gte": word, "word__lt": word[:-1] + chr(ord(word[-1]) + 1)}
        jobs = jobs.filter(Exists(JobWord.objects.filter(job=OuterRef("pk"), **beginning)))
    return jobs
