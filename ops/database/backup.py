"""A backup of everything in one file, taken while Percorso runs, checked after writing; and put back where nothing is.

It holds the database as of one moment, the photos, and a list of both with their digests, signed by the installation.
No key and no session is in it; the hashes of passwords are.
"""

import hashlib
import hmac
import json
import shutil
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path, PurePosixPath

from ops.database.connection import AnyDatabase, DatabaseError
from ops.database.dump import DumpError, check_dump, read_dump, write_dump
from ops.database.under_way import UnderWay, finish, note, under_way

DUMP, LIST, SIGNATURE, MEDIA = "database.sql", "list.json", "signature", "media"
NIGHTLY, BEFORE_UPGRADE = "percorso-", "before-upgrade-"  # how the files are named, which are put away apart
KEPT = 14  # backups of each kind in the usual place
PIECE = 1 << 20  # bytes
MOST_LISTED = 100_000_000  # bytes of a list
_UNFINISHED = "unfinished-"


class BackupError(RuntimeError):
    """A backup cannot be made, read or put back."""


def back_up(database: AnyDatabase, media: Path, folder: Path, key: bytes, kind: str = NIGHTLY) -> Path:
    """Write a backup into a folder; the oldest of its kind beyond KEPT go. Raises BackupError."""
    begun = under_way(database)
    if begun is not None and not begun.put_back:
        raise BackupError("the tables are being changed; try again when Percorso is served")
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    made = folder / f"{kind}{datetime.now(UTC):%Y%m%d-%H%M%S}.tar.gz"
    with _scratch(folder) as scratch:
        dump = scratch / DUMP
        try:
            write_dump(database, dump)  # before the photos: what it names is there by then
        except DatabaseError as error:
            raise BackupError(str(error)) from error
        files = {DUMP: dump, **{f"{MEDIA}/{each.relative_to(media)}": each for each in _files_in(media)}}
        listed, signed = scratch / LIST, scratch / SIGNATURE
        listed.write_text(json.dumps({name: _digest(path) for name, path in files.items()}))
        signed.write_text(_signature(listed.read_bytes(), key))
        whole = scratch / made.name
        with tarfile.open(whole, "w:gz", compresslevel=6) as archive:
            for name, path in {LIST: listed, SIGNATURE: signed, **files}.items():
                archive.add(path, name, recursive=False)
        check(whole)
        whole.chmod(0o600)
        whole.rename(made)
    for old in sorted(folder.glob(f"{kind}*.tar.gz"))[:-KEPT]:
        old.unlink()
    return made


def clear_unfinished(*folders: Path) -> None:
    """Take away what backups and restores left that were killed."""
    for folder in folders:
        for left in [*folder.glob(f"{_UNFINISHED}*"), *folder.glob("tmp????????")]:  # the latter by older releases
            shutil.rmtree(left, ignore_errors=True)


def check(file: Path) -> None:
    """Raise BackupError unless a backup holds everything that it lists, as it was, and nothing else."""
    try:
        with tarfile.open(file, "r:gz") as archive:
            listed = json.loads(_first(file, archive)[0])
            found = {each.name: _digest_in(archive, each) for each in archive if each.name not in (LIST, SIGNATURE)}
            outside = [each.name for each in archive if not _belongs(each)]
    except (tarfile.TarError, EOFError, OSError, ValueError, RecursionError) as error:
        raise BackupError(f"{file} cannot be read as a backup: {error}") from error
    if outside:
        raise BackupError(f"{file} holds what no backup of Percorso holds: {outside[0][:100]!r}")
    if DUMP not in found:
        raise BackupError(f"{file} holds no database")
    if found != listed:
        raise BackupError(f"{file} does not hold what it lists: it is damaged")


def is_signed(file: Path, key: bytes) -> bool:
    """Whether this installation wrote a backup, which has been checked."""
    with tarfile.open(file, "r:gz") as archive:
        listed, signature = _first(file, archive)
    return hmac.compare_digest(signature, _signature(listed, key))


def restore(file: Path, database: AnyDatabase, media: Path) -> None:
    """Put a backup back where there is nothing yet; the database runs, and holds nobody. Raises BackupError."""
    check(file)
    begun = under_way(database)
    again = begun is not None and begun.what == "restore"
    if not again and (not database.is_unused() or any(_files_in(media))):
        raise BackupError("there is something here already; restore into an empty PERCORSO_STATE, or make reset first")
    if not again:
        database.empty()
    with _scratch(media.parent) as scratch:
        _extract(file, scratch)
        _check_dump(file, scratch / DUMP)
        note(database, UnderWay("restore", str(file), 1))
        _replace(database, scratch / DUMP)
        shutil.rmtree(media, ignore_errors=True)  # of empty folders, or of a restore that was cut short
        if (scratch / MEDIA).is_dir():
            (scratch / MEDIA).rename(media)
    finish(database)


def put_tables_back(file: Path, database: AnyDatabase, beside: Path) -> None:
    """The database as a backup holds it, whatever became of its tables since; photos stay. Raises BackupError."""
    check(file)
    with _scratch(beside) as scratch:
        _extract(file, scratch, only=DUMP)
        _check_dump(file, scratch / DUMP)
        _replace(database, scratch / DUMP)


def _replace(database: AnyDatabase, dump: Path) -> None:
    database.clear()
    try:
        read_dump(database, dump)
    except (DatabaseError, DumpError) as error:
        database.clear()  # all of it, or nothing
        raise BackupError(str(error)) from error


def _check_dump(file: Path, dump: Path) -> None:
    try:
        check_dump(dump)
    except DumpError as error:
        raise BackupError(f"{file}: {error}") from error


def _extract(file: Path, into: Path, only: str = "") -> None:
    with tarfile.open(file, "r:gz") as archive:
        members = [each for each in archive if each.name == only or not only]
        archive.extractall(into, members, filter="data")


@contextmanager
def _scratch(beside: Path) -> Iterator[Path]:
    """A folder that is thrown away; what a kill leaves of it is cleared at the next start."""
    beside.mkdir(parents=True, exist_ok=True, mode=0o700)
    with tempfile.TemporaryDirectory(dir=beside, prefix=_UNFINISHED) as made:
        yield Path(made)


def _first(file: Path, archive: tarfile.TarFile) -> tuple[bytes, str]:
    """The list, and its signature: "" where there is none, as in older backups. Raises BackupError."""
    listed, signed = archive.next(), archive.next()
    if listed is None or listed.name != LIST or not listed.isfile() or listed.size > MOST_LISTED:
        raise BackupError(f"{file} is no backup of Percorso")
    if signed is None or signed.name != SIGNATURE or not signed.isfile():
        return _content(archive, listed), ""
    return _content(archive, listed), _content(archive, signed).decode(errors="replace")[:100]


def _content(archive: tarfile.TarFile, member: tarfile.TarInfo) -> bytes:
    file = archive.extractfile(member)
    return file.read(MOST_LISTED) if file else b""


def _belongs(member: tarfile.TarInfo) -> bool:
    """Whether a member is a plain file with a place in a backup."""
    parts = PurePosixPath(member.name).parts
    is_photo = parts[:1] == (MEDIA,) and len(parts) > 1 and ".." not in parts
    return member.isfile() and (member.name in (DUMP, LIST, SIGNATURE) or is_photo)


def _signature(listed: bytes, key: bytes) -> str:
    return hmac.new(key, listed, "sha256").hexdigest()


def _files_in(folder: Path) -> Iterator[Path]:
    return (each for each in sorted(folder.rglob("*")) if each.is_file()) if folder.is_dir() else iter(())


def _digest(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _digest_in(archive: tarfile.TarFile, member: tarfile.TarInfo) -> str:
    """Of a file in an archive, read piece by piece: a dump may be larger than memory."""
    file, digest = archive.extractfile(member) if member.isfile() else None, hashlib.sha256()
    while file is not None and (piece := file.read(PIECE)):
        digest.update(piece)
    return digest.hexdigest()
