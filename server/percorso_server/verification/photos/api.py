"""HTTP API of photos: taken in with a reading, a point, a segment or a device, and shown to their shop alone."""

from typing import Annotated, Any, Literal
from uuid import UUID, uuid4

from django.db import IntegrityError
from django.http import FileResponse, Http404
from ninja import File, Form, Router, Schema, UploadedFile
from pydantic import Field

from percorso.names import Note
from percorso_server.jobs.asked import asked_job
from percorso_server.jobs.models import Device, Job, Point, Segment
from percorso_server.verification.models import Photo, Reading
from percorso_server.verification.photos.keeping import check_room, keep_photo, path_of
from percorso_server.verification.photos.pictures import MOST_BYTES, PictureError
from percorso_server.workshop.signed_in import SignedInRequest

router = Router(tags=["photos"])
Subject = Literal["reading", "point", "segment", "device"]
SUBJECTS: dict[Subject, type[Any]] = {"reading": Reading, "point": Point, "segment": Segment, "device": Device}


class PhotoValues(Schema):
    """Of what a photo is. Sent twice with the same id it is kept once."""

    id: UUID = Field(default_factory=uuid4)
    of: Subject
    subject_id: UUID
    caption: Note = ""


class PhotoOut(Schema):
    """A photo as it is listed; its picture is at ``/api/photos/{id}``, small at ``/api/photos/{id}/thumbnail``."""

    id: str
    of: Subject
    subject_id: str
    caption: str
    width: int
    height: int


@router.get("/jobs/{job_id}/photos", response=list[PhotoOut])
def list_photos(request: SignedInRequest, job_id: UUID) -> list[PhotoOut]:
    """Every photo of a job, the oldest first."""
    return [_out(each) for each in Photo.objects.filter(job=asked_job(request, job_id))]


@router.post("/jobs/{job_id}/photos", response=PhotoOut)
def take_photo(
    request: SignedInRequest,
    job_id: UUID,
    values: Annotated[PhotoValues, Form()],
    file: Annotated[UploadedFile, File()],
) -> PhotoOut:
    """Keep a photo, made anew from what was sent."""
    job = asked_job(request, job_id)
    known = Photo.objects.filter(pk=values.id, job=job).first()
    if known is not None:
        return _out(known)
    if not SUBJECTS[values.of].objects.filter(pk=values.subject_id, job=job).exists():
        raise PictureError(f"this job has no such {values.of}", field=("subject_id",))
    if (file.size or 0) > MOST_BYTES:
        raise PictureError(f"the photo is larger than {MOST_BYTES // 1_000_000} MB", field=("file",))
    return _out(_kept_once(request, job, values, file.read()))


def _kept_once(request: SignedInRequest, job: Job, values: PhotoValues, sent: bytes) -> Photo:
    links = {f"{values.of}_id": values.subject_id}
    check_room(request.user.shop)
    try:
        return keep_photo(sent, id=values.id, job=job, caption=values.caption, taken_by=request.user, **links)
    except IntegrityError:
        same = Photo.objects.filter(pk=values.id, job=job).first()
        if same is None:
            raise
        return same


@router.get("/photos/{photo_id}")
def read_photo(request: SignedInRequest, photo_id: UUID) -> FileResponse:
    """A photo of the person's shop."""
    return _file(_photo(request, photo_id).picture)


@router.get("/photos/{photo_id}/thumbnail")
def read_thumbnail(request: SignedInRequest, photo_id: UUID) -> FileResponse:
    """The same, small."""
    return _file(_photo(request, photo_id).thumbnail)


def _photo(request: SignedInRequest, photo_id: UUID) -> Photo:
    found = Photo.objects.filter(job__shop=request.user.shop, pk=photo_id).first()
    if found is None:
        raise Http404
    return found


def _file(stored: Any) -> FileResponse:
    try:
        return FileResponse(path_of(stored).open("rb"), content_type="image/jpeg")
    except FileNotFoundError as error:
        raise Http404 from error


def _out(row: Photo) -> PhotoOut:
    subject: Subject = next(each for each in SUBJECTS if getattr(row, f"{each}_id") is not None)
    return PhotoOut(
        id=str(row.id),
        of=subject,
        subject_id=str(getattr(row, f"{subject}_id")),
        caption=row.caption,
        width=row.width,
        height=row.height,
    )
