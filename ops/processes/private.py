"""Files and folders that nobody else may read."""

import hashlib
import os
from pathlib import Path


def private_folder(parent: Path, state: Path) -> Path:
    """Where a folder that belongs to a state directory is outside of it: the same each time, and short."""
    digest = hashlib.sha256(str(state.resolve()).encode()).hexdigest()[:12]
    return parent / f"percorso-{os.getuid()}-{digest}"


def make_private(folder: Path) -> None:
    """Make it, for us alone. Raises RuntimeError where somebody else did."""
    folder.mkdir(mode=0o700, exist_ok=True)
    if folder.stat().st_uid != os.getuid():
        raise RuntimeError(f"{folder} belongs to someone else; remove it")


def write_secret(path: Path, text: str) -> None:
    """Write a file only its owner can read; it is there whole or not at all."""
    made = path.with_name(f"{path.name}.new")
    with os.fdopen(os.open(made, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
        file.write(text)
        file.flush()
        os.fsync(file.fileno())
    made.replace(path)
