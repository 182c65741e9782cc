"""What is begun with the whole database stands in it beforehand: the next start finds what was cut short."""

from contextlib import closing
from dataclasses import astuple, dataclass
from typing import Literal

import MySQLdb

from ops.database.connection import UNDER_WAY, AnyDatabase

_TABLE = (
    f"CREATE TABLE IF NOT EXISTS {UNDER_WAY} (one INT PRIMARY KEY, what VARCHAR(10) NOT NULL, "
    "backup VARCHAR(1000) NOT NULL, tries INT NOT NULL, put_back BOOL NOT NULL)"
)
_READ = f"SELECT what, backup, tries, put_back FROM {UNDER_WAY}"
_WRITE = f"REPLACE INTO {UNDER_WAY} VALUES (1, %s, %s, %s, %s)"


@dataclass(frozen=True)
class UnderWay:
    """An upgrade or a restore that was begun ``tries`` times and not finished.

    ``backup`` is what an upgrade goes back to, "" where there was nobody's work, or what a restore puts back; with
    ``put_back`` everything is as it was before the upgrade again.
    """

    what: Literal["upgrade", "restore"]
    backup: str
    tries: int
    put_back: bool = False


def under_way(database: AnyDatabase) -> UnderWay | None:
    """What was begun and not finished, if anything."""
    with closing(database.connect()) as connection, connection.cursor() as cursor:
        try:
            cursor.execute(_READ)
        except MySQLdb.ProgrammingError:  # nothing was ever begun
            return None
        row = cursor.fetchone()
    return UnderWay(row[0], row[1], row[2], bool(row[3])) if row else None


def note(database: AnyDatabase, begun: UnderWay) -> None:
    """Write down what is begun."""
    with closing(database.connect()) as connection, connection.cursor() as cursor:
        cursor.execute(_TABLE)
        cursor.execute(_WRITE, astuple(begun))
        connection.commit()


def finish(database: AnyDatabase) -> None:
    """What was begun is done."""
    with closing(database.connect()) as connection, connection.cursor() as cursor:
        cursor.execute(f"DROP TABLE IF EXISTS {UNDER_WAY}")
