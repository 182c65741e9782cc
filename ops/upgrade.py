"""Brings the database's tables up to date: by one server, while others that start at the same time wait for it.

What holds the others off is a row, which nodes of a database agree on as on any other; a lock by name would be one
node's alone. Who has it renews it; one that was killed with it is waited for only so long.
"""

import subprocess
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from uuid import uuid4

import MySQLdb

from ops.database import UPGRADING, AnyDatabase

RENEWED_SECONDS = 2.0
GIVEN_UP_SECONDS = 600  # without a renewal; a single change of a table may hold up everything for minutes
TAKEN = (1062, 1205, 1213)  # there is such a row; it is being written; another node wrote it first
_TABLE = f"CREATE TABLE IF NOT EXISTS {UPGRADING} (one INT PRIMARY KEY, who CHAR(32) NOT NULL, at DATETIME NOT NULL)"
_TAKE = f"INSERT INTO {UPGRADING} VALUES (1, %s, UTC_TIMESTAMP())"
_GIVE_UP = f"DELETE FROM {UPGRADING} WHERE at < UTC_TIMESTAMP() - INTERVAL {GIVEN_UP_SECONDS} SECOND"
_RENEW = f"UPDATE {UPGRADING} SET at = UTC_TIMESTAMP() WHERE who = %s"
_LET_GO = f"DELETE FROM {UPGRADING} WHERE who = %s"

Run = Callable[[list[str]], subprocess.Popen[str]]


def bring_up_to_date(database: AnyDatabase, run: Run, back_up: Callable[[], object]) -> None:
    """Migrate, with a backup before where there is work to lose. Raises RuntimeError where a newer Percorso wrote it.

    ``run`` begins one of the server's commands, its output piped.
    """
    if _stands(run) == "same":
        return
    with _one_at_a_time(database) as renew:
        stands = _stands(run)  # the one before may have done it
        if stands == "same":
            return
        if stands == "newer":
            raise RuntimeError("a newer Percorso wrote the data, and this one cannot read them; nothing was changed")
        if not database.is_unused():
            print(f"Backed up before the tables change: {back_up()}", flush=True)
        elif database.is_ours:
            database.empty()  # a first start that was interrupted: half a database, in which there is nobody's work
        _finish(run(["migrate", "--verbosity=0"]), renew)


def _stands(run: Run) -> str:
    return _finish(run(["schema"]), lambda: None).strip()


def _finish(process: subprocess.Popen[str], meanwhile: Callable[[], None]) -> str:
    """What a command says until it ends. Raises CalledProcessError."""
    while True:
        try:
            said, _ = process.communicate(timeout=RENEWED_SECONDS)
        except subprocess.TimeoutExpired:
            meanwhile()
        else:
            break
    if process.returncode:
        raise subprocess.CalledProcessError(process.returncode, process.args)
    return said


@contextmanager
def _one_at_a_time(database: AnyDatabase) -> Iterator[Callable[[], None]]:
    """Wait until nobody else changes the tables; gives what says that we still do.

    In a database of our own nobody else can: its directory is held by one program at a time.
    """
    if database.is_ours:
        yield lambda: None
        return
    who = uuid4().hex
    _told(database, _TABLE)
    waits = False
    while not _take(database, who):
        if not waits:
            print("Another server brings the tables up to date; waiting for it …", flush=True)
        waits = True
        time.sleep(RENEWED_SECONDS)
    try:
        yield lambda: _told(database, _RENEW, who)
    finally:
        _told(database, _LET_GO, who)


def _take(database: AnyDatabase, who: str) -> bool:
    _told(database, _GIVE_UP)
    try:
        _told(database, _TAKE, who)
    except MySQLdb.Error as error:
        if error.args[0] not in TAKEN:
            raise
        return False
    return True


def _told(database: AnyDatabase, statement: str, *values: str) -> None:
    with closing(database.connect()) as connection, connection.cursor() as cursor:
        cursor.execute(statement, values)
        connection.commit()
