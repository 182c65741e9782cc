"""A private MariaDB server with its own directory, port and socket."""

import getpass
import os
import secrets
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

from ops.database.connection import READY_SECONDS, AnyDatabase, DatabaseError
from ops.processes import child
from ops.processes.ports import free_port
from ops.processes.private import make_private, private_folder, write_secret
from ops.processes.supervised import Supervised

MARIADBD = "/usr/sbin/mariadbd"  # Debian keeps it outside an ordinary user's PATH
ENDS_SECONDS = 10.0  # in which a server ends that was asked to


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
            f"--tmpdir={self.sockets}",
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
            "tmpdir": self.sockets,  # of its own: a server that starts clears away every temporary table in its folder
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
