"""Makes a photo from outside anew: upright, of a size one can work with, and without what it tells of its maker."""

import hashlib
from dataclasses import dataclass
from io import BytesIO

from PIL import Image, ImageOps, UnidentifiedImageError

from percorso.errors import PercorsoError

KINDS = ("JPEG", "PNG", "WEBP")
MOST_BYTES = 15_000_000
MOST_PIXELS = 60_000_000
LONGEST, THUMBNAIL = 2048, 320  # pixels of the longer side
QUALITY = 85


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
    """The photo in some bytes. Raises PictureError."""
    if len(sent) > MOST_BYTES:
        raise PictureError(f"the photo is larger than {MOST_BYTES // 1_000_000} MB", field=("file",))
    try:
        with Image.open(BytesIO(sent), formats=KINDS) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                raise PictureError(
                    f"the photo has more than {MOST_PIXELS // 1_000_000} million pixels", field=("file",)
                )
            upright = ImageOps.exif_transpose(opened).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        if isinstance(error, PictureError):
            raise
        raise PictureError("this is no JPEG, PNG or WebP picture, or not a whole one", field=("file",)) from error
    upright.thumbnail((LONGEST, LONGEST))
    small = upright.copy()
    small.thumbnail((THUMBNAIL, THUMBNAIL))
    return Picture(_jpeg(upright), _jpeg(small), upright.width, upright.height)


def _jpeg(image: Image.Image) -> bytes:
    bare = Image.new("RGB", image.size)
    bare.paste(image)  # the pixels alone
    into = BytesIO()
    bare.save(into, "JPEG", quality=QUALITY)
    return into.getvalue()
