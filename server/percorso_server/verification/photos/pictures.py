"""Makes a photo from outside anew: upright, of a size one can work with, and without what it tells of its maker."""

import hashlib
from dataclasses import dataclass
from io import BytesIO
from threading import Lock

from PIL import Image, ImageOps

from percorso.errors import PercorsoError

KINDS = ("JPEG", "PNG", "WEBP")
MOST_BYTES = 15_000_000
MOST_PIXELS = 24_000_000  # that are read at once
DRAFTED = 8  # times as many in a JPEG, of which only every second pixel each way, or fewer, has to be read
LONGEST, THUMBNAIL = 2048, 320  # pixels of the longer side
QUALITY = 85


_ONE_AT_A_TIME = Lock()


class PictureError(PercorsoError):
    """What was sent is no picture that can be kept."""

    code = "picture"


@dataclass(frozen=True)
class Picture:
    """A photo and its thumbnail as JPEG, and what tells it apart."""

    full: bytes
    thumbnail: bytes
    width: int
    height: int

    @property
    def sha256(self) -> str:
        """Of the photo as it is kept."""
        return hashlib.sha256(self.full).hexdigest()


def picture(sent: bytes) -> Picture:
    """The photo in some bytes. Raises PictureError. One at a time: a large one takes a hundred megabytes meanwhile."""
    if len(sent) > MOST_BYTES:
        raise PictureError(f"the photo is larger than {MOST_BYTES // 1_000_000} MB", field=("file",))
    with _ONE_AT_A_TIME:
        try:
            upright = _upright(sent)
            small = upright.copy()
            small.thumbnail((THUMBNAIL, THUMBNAIL))
            return Picture(_jpeg(upright), _jpeg(small), upright.width, upright.height)
        except PictureError:
            raise
        except Exception as error:  # whatever the library makes of what was sent
            raise PictureError("this is no JPEG, PNG or WebP picture, or not a whole one", field=("file",)) from error


def _upright(sent: bytes) -> Image.Image:
    """The picture made small and turned. A JPEG is read no larger than it is needed, which takes most of the memory."""
    with Image.open(BytesIO(sent), formats=KINDS) as opened:
        whole = opened.width * opened.height
        opened.draft("RGB", (LONGEST, LONGEST))
        read = whole if opened.info.get("progressive") else opened.width * opened.height
        if read > MOST_PIXELS or whole > MOST_PIXELS * DRAFTED:
            said = f"the photo has {whole / 1e6:.0f} million pixels, too many to read: take it smaller"
            raise PictureError(said, field=("file",))
        coloured = opened.convert("RGB") if opened.mode in ("1", "P") else opened
        coloured.thumbnail((LONGEST, LONGEST))
        return ImageOps.exif_transpose(coloured).convert("RGB")


def _jpeg(image: Image.Image) -> bytes:
    bare = Image.new("RGB", image.size)
    bare.paste(image)  # the pixels alone
    into = BytesIO()
    bare.save(into, "JPEG", quality=QUALITY)
    return into.getvalue()
