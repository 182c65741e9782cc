"""Keeps pictures: made anew, in the storage that Django is told to use, under the id of their row."""

from typing import Any

from django.core.files.base import ContentFile

from verification.models import Photo
from verification.pictures import picture


def photo_of(sent: bytes, **columns: Any) -> Photo:
    """A row for a photo that was sent, with its pictures stored and itself not saved yet. Raises PictureError."""
    made = picture(sent)
    row = Photo(sha256=made.sha256, width=made.width, height=made.height, **columns)
    row.picture.save(f"{row.pk}.jpg", ContentFile(made.full), save=False)
    row.thumbnail.save(f"{row.pk}-small.jpg", ContentFile(made.thumbnail), save=False)
    return row
