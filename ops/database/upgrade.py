"""Brings the database's tables up to date: by one server, while others that start at the same time wait for it.

What holds the others off is a row, which nodes of a database agree on as on any other; a lock by name would be one
node's alone. Who has it renews it; one that was killed with it is waited for only so long.

Before the tables change it stands in the database from which backup they can be put back. A start that finds it there
knows that the one before was cut short, puts the tables back and tries again.
"""

import os
import subprocess
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from dataclasses import replace
from pathlib import Path
from uuid import uuid4

import MySQLdb

from ops.database.connection import UPGRADING, AnyDatabase
from ops.database.under_way import UnderWay, finish, note, under_way

TRIES = 3
AGAIN = "PERCORSO_TRY_AGAIN"  # in the environment: try once more what did not succeed three times
RENEWED_SECONDS = 2.0
GIVEN_UP_SECONDS = 600  # without a renewal; a single change of a table may hold up everything for minutes
TAKEN = (1062, 1205, 1213)  # there is such a row; it is being written; another node wrote it first
_TABLE = f"CREATE TABLE IF NOT EXISTS {UPGRADING} (one INT PRIMARY KEY, who CHAR(32) NOT NULL, at DATETIME NOT NULL)"
_TAKE = f"INSERT INTO {UPGRADING} VALUES (1, %s, UTC_TIMESTAMP())"
_GIVE_UP = f"DELETE FROM {UPGRADING} WHERE at < UTC_TIMESTAMP() - INTERVAL {GIVEN_UP_SECONDS} SECOND"
_RENEW = f"UPDATE {UPGRADING} SET at = UTC_TIMESTAMP() WHERE who = %s"
_LET_GO = f"DELETE FROM {UPGRADING} WHERE who = %s"

Run = Callable[[list[str]], subprocess.Popen[str]]


class Upgrade:
    """How one installation brings its tables up to date.

    ``run`` begins one of the server's commands, its output piped; ``back_up`` makes a backup and says where it is;
    ``put_back`` makes the tables what they are in one, or takes them out where it is handed none.
    """

    def __init__(
        self,
        database: AnyDatabase,
        run: Run,
        back_up: Callable[[], Path],
        put_back: Callable[[Path | None], None],
    ) -> None:
        self._database, self._run, self._back_up, self._put_back = database, run, back_up, put_back

    def bring_up_to_date(self) -> None:
        """Migrate, with a backup before where there is work to lose. Raises RuntimeError where that cannot be."""
        if under_way(self._database) is None and self._stands() == "same":
            return
        with _one_at_a_time(self._database) as renew:
            before = self._cut_short()
            stands = self._stands()  # the one before may have done it
            if stands == "newer":
                raise RuntimeError(
                    "a newer Percorso wrote the data, and this one cannot read them; nothing was changed"
                )
            if stands != "same":
                self._migrate(before, renew)
            finish(self._database)

    def _stands(self) -> str:
        return _finish(self._run(["schema"]), lambda: None).strip()

    def _cut_short(self) -> UnderWay | None:
        """What was tried before, with everything put back that it left half done. Raises RuntimeError."""
        begun = under_way(self._database)
        if begun is None:
            return None
        if begun.what == "restore":
            raise RuntimeError(
                f"putting back {begun.backup} was cut short; do it again: make restore FILE={begun.backup}"
            )
        if not begun.put_back:
            print("An upgrade of the tables was cut short; putting them back as they were before …", flush=True)
            self._put_back(Path(begun.backup) if begun.backup else None)
        if begun.tries < TRIES:
            return begun
        note(self._database, replace(begun, put_back=True))
        if not os.environ.get(AGAIN):
            raise RuntimeError(
                f"the tables could not be brought up to date in {begun.tries} tries. Nothing is lost: they are as they "
                f"were before, and in {begun.backup}. Go back to the release before this one, or try again with: "
                f"{AGAIN}=1 make start"
            )
        return None

    def _migrate(self, before: UnderWay | None, renew: Callable[[], None]) -> None:
        begun = UnderWay("upgrade", self._backup(before), before.tries + 1 if before else 1)
        note(self._database, begun)
        try:
            _finish(self._run(["migrate", "--verbosity=0"]), renew)
        except subprocess.CalledProcessError as error:
            self._put_back(Path(begun.backup) if begun.backup else None)
            note(self._database, replace(begun, put_back=True))
            raise RuntimeError(
                f"the tables could not be brought up to date (try {begun.tries} of {TRIES}, the reason stands above); "
                "they are as they were before"
            ) from error

    def _backup(self, before: UnderWay | None) -> str:
        """What to go back to; "" where nobody has worked yet, and then a first start may have left half a database."""
        if before and not before.put_back:
            return before.backup  # since which nobody can have worked
        if self._database.is_unused():
            if self._database.is_ours:
                self._database.empty()
            return ""
        made = self._back_up()
        print(f"Backed up before the tables change: {made}", flush=True)
        return str(made)


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
    _execute(database, _TABLE)
    waits = False
    while not _take(database, who):
        if not waits:
            print("Another server brings the tables up to date; waiting for it …", flush=True)
        waits = True
        time.sleep(RENEWED_SECONDS)
    try:
        yield lambda: _execute(database, _RENEW, who)
    finally:
        _execute(database, _LET_GO, who)


def _take(database: AnyDatabase, who: str) -> bool:
    _execute(database, _GIVE_UP)
    try:
        _execute(database, _TAKE, who)
    except MySQLdb.Error as error:
        if error.args[0] not in TAKEN:
            raise
        return False
    return True


def _execute(database: AnyDatabase, statement: str, *values: str) -> None:
    with closing(database.connect()) as connection, connection.cursor() as cursor:
        cursor.execute(statement, values)
        connection.commit()
