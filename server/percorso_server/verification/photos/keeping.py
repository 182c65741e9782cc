"""Keeps pictures: written aside first, and put in their place once their row is written.

A kill leaves at most a file aside. With a row it is taken to its place when it is next looked at; without one it is
cleared by ``make tidy``.
"""

import os
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

from django.conf import settings
from django.db import transaction
from django.db.models import Count, Sum
from django.db.models.fields.files import FieldFile

from percorso_server.verification.models import Photo
from percorso_server.verification.photos.pictures import PictureError, picture
from percorso_server.workshop.models import Shop

FOLDER, ASIDE = "photos", "aside"
LEFT_SECONDS = 3600  # after which nobody comes back to a file that has no row


def keep_photo(sent: bytes, **columns: Any) -> Photo:
    """Write a photo's row and its pictures: all of it or nothing. Raises PictureError, and OSError on a full disk."""
    made = picture(sent)
    size = len(made.full) + len(made.thumbnail)
    row = Photo(sha256=made.sha256, width=made.width, height=made.height, bytes=size, **columns)
    called = uuid4().hex  # of this try: another one may be under way for the same row
    row.picture.name, row.thumbnail.name = f"{FOLDER}/{called}.jpg", f"{FOLDER}/{called}-small.jpg"
    names = (row.picture.name, row.thumbnail.name)
    try:
        for name, content in zip(names, (made.full, made.thumbnail), strict=True):
            _write(_aside(name), content)
        with transaction.atomic():
            row.save(force_insert=True)
            transaction.on_commit(lambda: _put_in_place(*names), robust=True)  # they are aside yet, and found there
    except BaseException:
        for name in names:
            _aside(name).unlink(missing_ok=True)
        raise
    return row


def check_room(shop: Shop) -> None:
    """Raise PictureError where a shop has as many photos as are kept for one."""
    had = Photo.objects.filter(job__shop=shop).aggregate(count=Count("pk"), size=Sum("bytes"))
    if had["count"] >= settings.SHOP_PHOTOS:
        raise PictureError(f"your shop has {had['count']} photos, as many as are kept; {_ASK}", field=("file",))
    if (had["size"] or 0) >= settings.SHOP_PHOTO_MB * 1_000_000:
        room = settings.SHOP_PHOTO_MB
        raise PictureError(f"your shop's photos take {room} MB, all the room they have; {_ASK}", field=("file",))


_ASK = "whoever runs Percorso can allow more (docs/running.md)"


def path_of(stored: FieldFile) -> Path:
    """Where a picture lies, in its place by now. It may be gone."""
    path = Path(stored.path)
    if not path.exists():
        _put_in_place(stored.name or "")
    return path


def clear_left() -> int:
    """Remove the files that no row names any more, or never did; how many."""
    named = {name for pair in Photo.objects.values_list("picture", "thumbnail").iterator(5000) for name in pair}
    cleared = 0
    for path in _files():
        name = f"{FOLDER}/{path.name}"
        if name in named:
            _put_in_place(name)
        elif time.time() - path.stat().st_mtime > LEFT_SECONDS:
            path.unlink(missing_ok=True)
            cleared += 1
    return cleared


def _files() -> Iterator[Path]:
    for folder in (FOLDER, ASIDE):
        yield from (each for each in Path(settings.MEDIA_ROOT, folder).glob("*") if each.is_file())


def _aside(name: str) -> Path:
    return Path(settings.MEDIA_ROOT, ASIDE, Path(name).name)


def _write(path: Path, content: bytes) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    with path.open("wb") as file:
        file.write(content)
        file.flush()
        os.fsync(file.fileno())


def _put_in_place(*names: str) -> None:
    for name in names:
        place = Path(settings.MEDIA_ROOT, name)
        place.parent.mkdir(parents=True, exist_ok=True)
        if _aside(name).exists():
            _aside(name).replace(place)
