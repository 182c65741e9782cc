"""Whether the front end that was built is of the code that lies here; `python -m ops.front_end` says that it is."""

import hashlib
from pathlib import Path

WEB = Path(__file__).resolve().parent.parent / "web"
BUILT_OF = WEB / "dist" / "built-of"
NOT_SOURCES = {"node_modules", "dist"}


def sources() -> str:
    """What tells the sources of the front end apart from any others."""
    digest = hashlib.sha256()
    for path in sorted(WEB.rglob("*")):
        place = path.relative_to(WEB)
        if path.is_file() and place.parts[0] not in NOT_SOURCES:
            digest.update(f"{place}\0{path.stat().st_size}\0".encode())
            digest.update(path.read_bytes())
    return digest.hexdigest()


def is_of_this_code() -> bool:
    """Whether what is served was built of the sources that lie here."""
    return BUILT_OF.is_file() and BUILT_OF.read_text() == sources()


if __name__ == "__main__":
    BUILT_OF.parent.mkdir(exist_ok=True)
    BUILT_OF.write_text(sources())
