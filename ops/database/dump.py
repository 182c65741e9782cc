"""The database as text: what is written of it, and what may stand in a text that is to be read back.

A backup comes from outside. Only the statements that our own dumps consist of are let through: tables made, rows put
in, nothing run.
"""

import re
from collections.abc import Iterator
from pathlib import Path
from typing import IO

from ops.database.connection import UNDER_WAY, UPGRADING, AnyDatabase

# Whoever could read a session in a backup would be signed in; wrong tries are of the moment.
WITHOUT_ROWS = (
    "django_session",
    "workshop_wrongtries",
    "workshop_knownaddress",
    "axes_accessattempt",
    "axes_accesslog",
    "axes_accessfailurelog",
)
NEEDED = {"django_migrations", "jobs_job", "workshop_person", "workshop_shop"}
_FORM = ["--single-transaction", "--quick", "--hex-blob", "--skip-comments", "--default-character-set=utf8mb4"]

# Each part of a pattern takes what it can and gives nothing back, so that no line takes long.
_VALUE = rb"(?:NULL|-?[0-9][0-9.e+-]*+|0x[0-9A-Fa-f]++|(?:_binary )?'(?:[^'\\]++|\\.)*+')"
_ROW = rb"\(" + _VALUE + rb"(?:," + _VALUE + rb")*+\)"
_ROWS = re.compile(_ROW + rb"(?:," + _ROW + rb")*+[,;]?")
_INSERT = re.compile(rb"INSERT INTO `(\w+)` (?:\([`\w, ]++\) )?VALUES ?")
_CREATE = re.compile(rb"CREATE TABLE `(\w+)` \(")
_COLUMN = re.compile(rb"  (?:`\w+` |PRIMARY KEY |UNIQUE KEY |KEY |CONSTRAINT )(?:'(?:[^'\\]++|\\.)*+'|[^;'#]++)++,?")
_CLOSING = re.compile(
    rb"\) ENGINE=InnoDB (?:AUTO_INCREMENT=\d+ )?DEFAULT CHARSET=\w+(?: COLLATE=\w+)?(?: ROW_FORMAT=\w+)?;"
)
_AROUND = re.compile(
    rb"/\*M?!999999\\- enable the sandbox mode \*/ ?"
    rb"|/\*!\d+ SET [^;*']*(?:'[\w,+:]*')?[^;*']*\*/;"
    rb"|/\*!\d+ ALTER TABLE `\w+` (?:DIS|EN)ABLE KEYS \*/;"
    rb"|(?:un)?lock tables(?: `\w+` write)?;|drop table if exists `\w+`;|set autocommit=[01];|commit;",
    re.IGNORECASE,
)


class DumpError(RuntimeError):
    """A text is none that may be read back."""


def write_dump(database: AnyDatabase, into: Path) -> None:
    """The database as of one moment, without holding anybody up (one transaction of InnoDB). Raises DatabaseError."""
    name = database.settings["database"]
    left_out = [f"--ignore-table={name}.{each}" for each in (UPGRADING, UNDER_WAY)]
    left_out += [f"--ignore-table-data={name}.{each}" for each in WITHOUT_ROWS]
    with into.open("wb") as dump:
        database.run_program("mariadb-dump", [*_FORM, *left_out], output=dump)


def read_dump(database: AnyDatabase, dump: Path) -> None:
    """Put in what stands in a dump, where it is one of ours. Raises DumpError, DatabaseError."""
    check_dump(dump)
    with dump.open("rb") as source:
        # The client runs no command that stands in the text, whatever got past the check.
        options = ["--sandbox", "--binary-mode", "--default-character-set=utf8mb4"]
        database.run_program("mariadb", options, source=source)


def check_dump(dump: Path) -> None:
    """Raise DumpError unless a text has our tables, and nothing but what our dumps have."""
    with dump.open("rb") as lines:
        made = set(_tables_made(lines))
    missing = sorted(NEEDED - made)
    if missing:
        raise DumpError(f"it is no dump of Percorso: it has no table {', '.join(missing)}")


def _tables_made(lines: IO[bytes]) -> Iterator[str]:
    """The name of each table that is made."""
    within = ""  # which statement goes on: "table" or "rows"
    for number, raw in enumerate(lines, 1):
        line = raw.rstrip(b"\r\n")
        if within == "table":
            within = _known(number, "" if _CLOSING.fullmatch(line) else "table" if _COLUMN.fullmatch(line) else None)
        elif within == "rows":
            within = _known(number, _after_rows(line))
        elif inserted := _INSERT.match(line):
            within = _known(number, _after_rows(line[inserted.end() :]))
        elif created := _CREATE.fullmatch(line):
            yield created[1].decode()
            within = "table"
        elif line.strip() and not _AROUND.fullmatch(line):
            _known(number, None)
    if within:
        raise DumpError("its dump is cut off")


def _after_rows(text: bytes) -> str | None:
    """Whether rows go on after a line of them, None where it is none."""
    if not text.strip():
        return "rows"
    return None if not _ROWS.fullmatch(text) else "" if text.endswith(b";") else "rows"


def _known(number: int, goes_on: str | None) -> str:
    if goes_on is None:
        raise DumpError(f"line {number} of its dump is nothing that Percorso writes; nothing of it was run")
    return goes_on
