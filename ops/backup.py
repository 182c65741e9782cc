"""A backup of everything in one file, taken while Percorso runs, checked after writing; and put back where nothing is.

It holds the database as of one moment, the photos, and a list of both with their digests. No key is in it; the hashes
of passwords are.
"""

import hashlib
import json
import shutil
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import IO

from ops.database import UPGRADING, AnyDatabase

DUMP, LIST, MEDIA = "database.sql", "list.json", "media"
KEPT = 14  # backups in the usual place
PIECE = 1 << 20  # bytes


class BackupError(RuntimeError):
    """A backup cannot be made, read or put back."""


def back_up(database: AnyDatabase, media: Path, folder: Path) -> Path:
    """Write a backup into a folder; the oldest beyond KEPT go. Raises BackupError."""
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    made = folder / f"percorso-{datetime.now(UTC):%Y%m%d-%H%M%S}.tar.gz"
    with tempfile.TemporaryDirectory(dir=folder) as scratch:
        dump = Path(scratch, DUMP)
        _dump(database, dump)  # before the photos: what it names is there by then
        files = {DUMP: dump, **{f"{MEDIA}/{each.relative_to(media)}": each for each in _files_in(media)}}
        listed = Path(scratch, LIST)
        listed.write_text(json.dumps({name: _digest(path) for name, path in files.items()}))
        whole = Path(scratch, made.name)
        with tarfile.open(whole, "w:gz", compresslevel=6) as archive:
            for name, path in {LIST: listed, **files}.items():
                archive.add(path, name, recursive=False)
        check(whole)
        whole.chmod(0o600)
        whole.rename(made)
    for old in sorted(folder.glob("percorso-*.tar.gz"))[:-KEPT]:
        old.unlink()
    return made


def check(file: Path) -> None:
    """Raise BackupError unless a backup holds everything that it lists, as it was."""
    try:
        with tarfile.open(file, "r:gz") as archive:
            members = iter(archive)
            first = next(members, None)
            if first is None or first.name != LIST:
                raise BackupError(f"{file} is no backup of Percorso")
            content = archive.extractfile(first)
            listed = json.loads(content.read()) if content else {}
            found = {each.name: _digest_in(archive, each) for each in members}
    except (tarfile.TarError, EOFError, OSError, ValueError) as error:
        raise BackupError(f"{file} cannot be read as a backup: {error}") from error
    if found != listed:
        raise BackupError(f"{file} does not hold what it lists: it is damaged")


def restore(file: Path, database: AnyDatabase, media: Path) -> None:
    """Put a backup back where there is nothing yet; the database runs, and holds nobody. Raises BackupError."""
    check(file)
    if not database.is_unused() or any(_files_in(media)):
        raise BackupError("there is something here already; restore into an empty PERCORSO_STATE, or make reset first")
    database.empty()
    with tempfile.TemporaryDirectory(dir=media.parent) as scratch:
        with tarfile.open(file, "r:gz") as archive:
            archive.extractall(scratch, filter="data")
        try:
            with Path(scratch, DUMP).open("rb") as dump:
                _run(database, "mariadb", source=dump)
        except BackupError:
            database.empty()  # all of it, or nothing
            raise
        if Path(scratch, MEDIA).is_dir():
            if media.is_dir():
                shutil.rmtree(media)  # of empty folders
            Path(scratch, MEDIA).rename(media)


def _dump(database: AnyDatabase, into: Path) -> None:
    """The database as of one moment, without holding anybody up (one transaction of InnoDB)."""
    options = ["--single-transaction", "--quick", "--hex-blob", "--skip-comments", "--default-character-set=utf8mb4"]
    options.append(f"--ignore-table={database.settings['database']}.{UPGRADING}")
    with into.open("wb") as dump:
        _run(database, "mariadb-dump", options, output=dump)


def _run(
    database: AnyDatabase,
    program: str,
    options: Sequence[str] = (),
    source: IO[bytes] | None = None,
    output: IO[bytes] | None = None,
) -> None:
    """One of MariaDB's programs on our database. Raises BackupError."""
    settings = database.settings
    command = [program, *database.client_options(), *options, settings["database"]]
    environment = {"MYSQL_PWD": settings["password"], "PATH": "/usr/bin:/bin"}
    done = subprocess.run(command, env=environment, stdin=source, stdout=output, stderr=subprocess.PIPE, check=False)
    if done.returncode:
        raise BackupError(f"{program} failed: {done.stderr.decode(errors='replace').strip()}")


def _files_in(folder: Path) -> Iterator[Path]:
    return (each for each in sorted(folder.rglob("*")) if each.is_file()) if folder.is_dir() else iter(())


def _digest(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _digest_in(archive: tarfile.TarFile, member: tarfile.TarInfo) -> str:
    """Of a file in an archive, read piece by piece: a dump may be larger than memory."""
    file, digest = archive.extractfile(member), hashlib.sha256()
    while file is not None and (piece := file.read(PIECE)):
        digest.update(piece)
    return digest.hexdigest()
