"""The texts people give to things: what is accepted as a name or a note, the same at every entrance."""

import unicodedata
from typing import Annotated

from pydantic import AfterValidator, Field, StringConstraints

from percorso.errors import PercorsoError

MAX_NAME_LENGTH = 80
MAX_NOTE_LENGTH = 500


def _plain(text: str) -> str:
    """Refuse mark-up and control characters: a name is also printed on labels and sheets."""
    if "<" in text or ">" in text:
        raise PercorsoError('the signs "<" and ">" are not allowed here')
    if any(unicodedata.category(letter) in ("Cc", "Cs") and letter != "\n" for letter in text):
        raise PercorsoError("control characters are not allowed here")
    return text


def writable(text: str) -> str:
    """Refuse text that no file or database can hold: half of a character."""
    if any(unicodedata.category(letter) == "Cs" for letter in text):
        raise PercorsoError("there is half a character in this")
    return text


Name = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=MAX_NAME_LENGTH), AfterValidator(_plain)
]
Designation = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=20), AfterValidator(_plain)
]
TypedName = Annotated[str, StringConstraints(max_length=60), AfterValidator(_plain)]
Note = Annotated[str, StringConstraints(strip_whitespace=True, max_length=MAX_NOTE_LENGTH), AfterValidator(_plain)]
Identifier = Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[A-Za-z0-9._-]+$")]
