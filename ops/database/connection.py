"""A database that Percorso keeps its data in, wherever it runs, and one elsewhere, by its address."""

import os
import subprocess
import time
from abc import ABC, abstractmethod
from collections.abc import Sequence
from contextlib import closing
from typing import IO, Any, ClassVar

import dj_database_url
import MySQLdb

from ops.processes.supervised import Supervised

READY_SECONDS = 60
# Tables that say who changes the others, and what was begun with them; they are part of no backup.
UPGRADING, UNDER_WAY = "percorso_upgrading", "percorso_under_way"
OUR_TABLES = ("auth_", "django_", "workshop_", "jobs_", "readings_", "axes_")  # what their names begin with, ever


class DatabaseError(RuntimeError):
    """The database cannot be started, or a program of it failed."""


class AnyDatabase(ABC):
    """A database that Percorso keeps its data in, wherever it runs; ``is_ours`` where nobody else has tables in it."""

    is_ours: ClassVar[bool] = True

    @property
    @abstractmethod
    def environment(self) -> dict[str, str]:
        """What Django needs to connect."""

    @property
    @abstractmethod
    def settings(self) -> dict[str, Any]:
        """The same as its driver takes it: host or unix_socket, user, password, database, ssl."""

    @abstractmethod
    def start(self) -> None:
        """Return when it answers. Raises DatabaseError."""

    @abstractmethod
    def stop(self) -> None:
        """Stop what was started."""

    @abstractmethod
    def parts(self) -> list[Supervised]:
        """What of it is started again when it dies."""

    def connect(self) -> MySQLdb.Connection:
        """A connection of our own, beside Django's."""
        return MySQLdb.connect(**self.settings)

    def wait_until_answers(self) -> None:
        """Return once somebody who asks as the server does is answered. Raises DatabaseError."""
        deadline = time.monotonic() + READY_SECONDS
        while True:
            try:
                self.connect().close()
                return
            except MySQLdb.Error as error:
                if time.monotonic() > deadline:
                    raise DatabaseError(f"the database does not answer: {error}") from error
                time.sleep(0.5)

    def is_unused(self) -> bool:
        """Whether nobody can sign in yet, so that there is nothing to lose."""
        with closing(self.connect()) as connection, connection.cursor() as cursor:
            try:
                cursor.execute("SELECT COUNT(*) FROM workshop_person")
            except MySQLdb.ProgrammingError:  # there is not even the table
                return True
            return bool(cursor.fetchone() == (0,))

    def empty(self) -> None:
        """Take out every table there is. Raises DatabaseError where they may be somebody else's."""
        if not self.is_ours and self._tables():
            raise DatabaseError("the database that was named has tables already; name an empty one")
        self.clear()

    def clear(self) -> None:
        """Take out our tables, and nobody else's."""
        ours = [name for name in self._tables() if self.is_ours or name.startswith(OUR_TABLES)]
        with closing(self.connect()) as connection, connection.cursor() as cursor:
            cursor.execute("SET foreign_key_checks = 0")
            for name in ours:
                cursor.execute(f"DROP TABLE `{name}`")

    def _tables(self) -> list[str]:
        with closing(self.connect()) as connection, connection.cursor() as cursor:
            cursor.execute("SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE()")
            return [name for (name,) in cursor.fetchall() if name not in (UPGRADING, UNDER_WAY)]

    def run_program(
        self,
        program: str,
        options: Sequence[str],
        source: IO[bytes] | None = None,
        output: IO[bytes] | None = None,
    ) -> None:
        """One of MariaDB's programs on it. Raises DatabaseError."""
        command = [program, *self._client_options(), *options, self.settings["database"]]
        # The password goes by the environment, which nobody else can read.
        environment = {"MYSQL_PWD": self.settings["password"], "PATH": os.defpath}
        done = subprocess.run(
            command, env=environment, stdin=source, stdout=output, stderr=subprocess.PIPE, check=False
        )
        if done.returncode:
            raise DatabaseError(f"{program} failed: {done.stderr.decode(errors='replace').strip()}")

    def _client_options(self) -> list[str]:
        """How MariaDB's programs reach it."""
        settings = self.settings
        named = {"socket": settings.get("unix_socket"), "host": settings.get("host"), "port": settings.get("port")}
        named |= {"user": settings["user"], "ssl-ca": settings.get("ssl", {}).get("ca")}
        verify = ["--ssl-verify-server-cert"] if named["ssl-ca"] else []
        return ["--no-defaults", *(f"--{name}={value}" for name, value in named.items() if value), *verify]


class DatabaseElsewhere(AnyDatabase):
    """A MariaDB that somebody else runs, by its address. What is in it is never taken out."""

    is_ours = False

    def __init__(self, url: str) -> None:
        self._url = url

    @property
    def environment(self) -> dict[str, str]:
        """Its address."""
        return {"PERCORSO_DATABASE_URL": self._url}

    @property
    def settings(self) -> dict[str, Any]:
        """As the address says."""
        named = dj_database_url.parse(self._url)
        host = {"unix_socket" if named["HOST"].startswith("/") else "host": named["HOST"]}
        taken = {**host, "user": named["USER"], "password": named["PASSWORD"], "database": named["NAME"]}
        port = {"port": int(named["PORT"])} if named["PORT"] else {}
        ssl = named.get("OPTIONS", {}).get("ssl")
        return {**taken, **port, "charset": "utf8mb4", **({"ssl": ssl, "ssl_mode": "VERIFY_IDENTITY"} if ssl else {})}

    def start(self) -> None:
        """Wait until it answers."""
        self.wait_until_answers()

    def stop(self) -> None:
        """It is not ours to stop."""

    def parts(self) -> list[Supervised]:
        """It is not ours to start again: the server's processes wait for it."""
        return []
