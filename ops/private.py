"""Folders of ours outside of the state directory, each named after it."""

import hashlib
import os
from pathlib import Path


def private_folder(parent: Path, state: Path) -> Path:
    """Where such a folder of a state directory is, or is to be: the same each time, and short."""
    digest = hashlib.sha256(str(state.resolve()).encode()).hexdigest()[:12]
    return parent / f"percorso-{os.getuid()}-{digest}"


def make_private(folder: Path) -> None:
    """Make it, for us alone. Raises RuntimeError where somebody else did."""
    folder.mkdir(mode=0o700, exist_ok=True)
    if folder.stat().st_uid != os.getuid():
        raise RuntimeError(f"{folder} belongs to someone else; remove it")
