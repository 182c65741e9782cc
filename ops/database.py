"""Where the data are: a private MariaDB with its own directory, port and socket; or one elsewhere, by its address."""

import getpass
import os
import random
import secrets
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from abc import ABC, abstractmethod
from contextlib import closing, suppress
from pathlib import Path
from typing import Any, ClassVar

import dj_database_url
import MySQLdb

from ops import child
from ops.private import make_private, private_folder
from ops.supervised import Supervised

MARIADBD = "/usr/sbin/mariadbd"  # Debian keeps it outside an ordinary user's PATH
READY_SECONDS = 60
ENDS_SECONDS = 10.0  # in which a server ends that was asked to
FIRST_PORT, LAST_PORT = 10_000, 32_000  # Linux takes those from 32768 on by itself
_given: set[int] = set()  # ports
# Tables that say who changes the others, and what was begun with them; they are part of no backup.
UPGRADING, UNDER_WAY = "percorso_upgrading", "percorso_under_way"
OUR_TABLES = ("auth_", "django_", "workshop_", "jobs_", "readings_", "axes_")  # what their names begin with, ever


class DatabaseError(RuntimeError):
    """The database server cannot be started."""


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

    def client_options(self) -> list[str]:
        """How MariaDB's programs reach it; the password goes by their environment."""
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


class Database(AnyDatabase):
    """One MariaDB server whose data lives under ``state``; ``durable`` is for real data, not for tests."""

    def __init__(self, state: Path, *, durable: bool = True) -> None:
        self.state = state.absolute()
        self.durable = durable
        self.data = self.state / "mariadb"
        self.log = self.state / "mariadb.log"
        # A socket's path may hold 107 bytes at most, so it cannot lie under an arbitrarily deep state directory.
        self.sockets = private_folder(Path(tempfile.gettempdir()), self.state)
        self.socket = self.sockets / "db.sock"
        self.port = free_port()
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def environment(self) -> dict[str, str]:
        """What Django needs to connect."""
        return {
            "PERCORSO_DB_SOCKET": str(self.socket),
            "PERCORSO_DB_USER": "percorso",
            "PERCORSO_DB_PASSWORD": self.password,
        }

    @property
    def settings(self) -> dict[str, Any]:
        """By its socket."""
        return {
            "unix_socket": str(self.socket),
            "user": "percorso",
            "password": self.password,
            "database": "percorso",
            "charset": "utf8mb4",
        }

    def start(self) -> None:
        """Create the data directory if there is none, start the server and wait until it answers."""
        self.launch()
        self.wait_until_ready()

    def launch(self) -> None:
        """The same without waiting."""
        self.state.mkdir(parents=True, exist_ok=True, mode=0o700)
        make_private(self.sockets)
        self.end_predecessors()
        self.socket.unlink(missing_ok=True)  # so that the next one to appear is the new server's
        if not (self.data / "mysql").is_dir():
            self._install()
        self.process = child.start(self._command(), self.log)

    def stop(self) -> None:
        """Stop the server cleanly."""
        if self.process is not None:
            child.stop(self.process, seconds=60)

    def parts(self) -> list[Supervised]:
        """The server."""
        return [Supervised("database", lambda: self.alive, self.start)]

    @property
    def alive(self) -> bool:
        """Whether our server process is running."""
        return self.process is not None and self.process.poll() is None

    def _install(self) -> None:
        """Make the data directory beside its place, so that it is there whole or not at all."""
        for left in self.state.glob("mariadb.new-*"):  # by a start that was interrupted
            shutil.rmtree(left, ignore_errors=True)
        made = Path(tempfile.mkdtemp(prefix="mariadb.new-", dir=self.state))
        command = [
            "mariadb-install-db",
            "--no-defaults",
            "--auth-root-authentication-method=normal",
            "--skip-test-db",
            f"--datadir={made}",
            f"--user={getpass.getuser()}",
        ]
        done = subprocess.run(command, capture_output=True, text=True, check=False)
        if done.returncode:
            raise DatabaseError(f"mariadb-install-db failed:\n{done.stdout}{done.stderr}")
        made.rename(self.data)

    def _command(self) -> list[str]:
        settings = {**self.server_settings, "init-file": self._accounts()}
        return [MARIADBD, "--no-defaults", *(f"--{name}={value}" for name, value in settings.items())]

    @property
    def server_settings(self) -> dict[str, Any]:
        """How MariaDB serves, by the names of its options."""
        settings = {
            "datadir": self.data,
            "bind-address": "127.0.0.1",
            "port": self.port,
            "socket": self.socket,
            "pid-file": self.sockets / "db.pid",
            "skip-name-resolve": "ON",
            "character-set-server": "utf8mb4",
            "collation-server": "utf8mb4_bin",
            "transaction-isolation": "READ-COMMITTED",
            "innodb-lock-wait-timeout": 10,
            "innodb-flush-log-at-trx-commit": 1 if self.durable else 0,
        }
        thrown_away = {} if self.durable else {"innodb-doublewrite": "OFF", "sync-binlog": 0}
        return {**settings, **thrown_away, **({"user": "root"} if os.getuid() == 0 else {})}

    def _accounts(self) -> Path:
        """A file of SQL that is run at every start."""
        path = self.state / "accounts.sql"
        write_secret(path, "\n".join([*self.accounts(self.password), ""]))
        return path

    def accounts(self, password: str) -> list[str]:
        """Statements that leave one account with a password for us, and none without."""
        return [
            "CREATE DATABASE IF NOT EXISTS percorso CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;",
            f"CREATE USER IF NOT EXISTS 'percorso'@'localhost' IDENTIFIED BY '{password}';",
            "GRANT ALL ON percorso.* TO 'percorso'@'localhost';",
            "GRANT ALL ON `test\\_percorso%`.* TO 'percorso'@'localhost';",
            "DELETE FROM mysql.global_priv WHERE User IN ('', 'root');",
            "FLUSH PRIVILEGES;",
        ]

    @property
    def password(self) -> str:
        """Of the only account, made when first asked for."""
        path = self.state / "database-password"
        if not path.exists():
            write_secret(path, secrets.token_hex(24))
        return path.read_text()

    def end_predecessors(self) -> None:
        """Wait for servers on this directory to end whose parent was killed; one that does not end is killed.

        One that is asked to end while it starts may wait for itself for ever. Nothing is lost: what it wrote is in its
        log. Raises DatabaseError where one outlives even that: two on one directory must not be.
        """
        began = time.monotonic()
        while left := _serving(self.state):
            waited = time.monotonic() - began
            if waited > READY_SECONDS:
                raise DatabaseError(f"another server still uses {self.data}; stop it first")
            if waited > ENDS_SECONDS:
                for each in left:
                    with suppress(ProcessLookupError):
                        os.kill(each, signal.SIGKILL)
            time.sleep(0.1)

    def wait_until_ready(self) -> None:
        """Return when it answers. Raises DatabaseError."""
        deadline = time.monotonic() + READY_SECONDS
        while self.alive and time.monotonic() < deadline:
            with socket.socket(socket.AF_UNIX) as probe:
                if self.socket.exists() and probe.connect_ex(str(self.socket)) == 0:
                    return
            time.sleep(0.05)
        self.stop()
        raise DatabaseError(f"the database did not start; see {self.log}")


def free_port() -> int:
    """A loopback port that nobody listens on, another one each time, and none that an outgoing connection may take.

    Chosen by the system's chance: processes of one parent do not choose alike.
    """
    chance = random.SystemRandom()
    while len(_given) < LAST_PORT - FIRST_PORT:
        port = chance.randrange(FIRST_PORT, LAST_PORT)
        with socket.socket() as probe:
            if port not in _given and probe.connect_ex(("127.0.0.1", port)) != 0:
                _given.add(port)
                return port
    raise DatabaseError("there is no port left to listen on")


def _serving(state: Path) -> list[int]:
    """The processes of MariaDB that work on what lies there, and those that copy a node there."""
    found = []
    for each in Path("/proc").glob("[0-9]*/cmdline"):
        with suppress(OSError):
            words = each.read_text().split("\0")
            is_ours = words[0] == MARIADBD or any("/wsrep_sst_" in word for word in words[:4])
            if is_ours and any(f"{state}/" in word for word in words):
                found.append(int(each.parent.name))
    return found


def write_secret(path: Path, text: str) -> None:
    """Write a file only its owner can read; it is there whole or not at all."""
    made = path.with_name(f"{path.name}.new")
    with os.fdopen(os.open(made, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
        file.write(text)
        file.flush()
        os.fsync(file.fileno())
    made.replace(path)
