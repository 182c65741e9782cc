"""The private database and the commands around it, run for real in a folder that is thrown away."""

import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase, mock

import MySQLdb

from ops.application import ROOT, Application
from ops.database.server import Database
from ops.processes.ports import free_port
from ops.trials.started import end, lay_started, said_until_served, start


def run_ops(state: Path, *arguments: str, answer: str = "") -> subprocess.CompletedProcess[str]:
    environment = {**os.environ, "PERCORSO_STATE": str(state), "PERCORSO_PORT": str(free_port())}
    command = [sys.executable, "-m", "ops", *arguments]
    return subprocess.run(command, cwd=ROOT, env=environment, input=answer, text=True, capture_output=True, check=False)


class InAFolder(TestCase):
    def setUp(self) -> None:
        self.state, self.port = Path(tempfile.mkdtemp(prefix="percorso-ops-")), free_port()
        self.addCleanup(shutil.rmtree, self.state, ignore_errors=True)


class PrivateDatabase(InAFolder):
    def setUp(self) -> None:
        super().setUp()
        self.database = Database(self.state)
        self.addCleanup(self.database.stop)
        self.database.start()

    def _connect(self, user: str, password: str) -> MySQLdb.Connection:
        return MySQLdb.connect(unix_socket=str(self.database.socket), user=user, password=password)

    def test_only_the_account_with_the_password_gets_in(self) -> None:
        password = self.database.environment["PERCORSO_DB_PASSWORD"]
        self._connect("percorso", password).close()
        for user, word in (("root", ""), ("", ""), ("percorso", ""), ("percorso", "guess")):
            with self.subTest(user=user), self.assertRaises(MySQLdb.OperationalError):
                self._connect(user, word)

    def test_secrets_are_readable_by_their_owner_alone(self) -> None:
        for name in ("database-password", "accounts.sql"):
            self.assertEqual((self.state / name).stat().st_mode & 0o777, 0o600)
        self.assertEqual(self.database.sockets.stat().st_mode & 0o777, 0o700)

    def test_it_listens_on_the_loopback_address_only(self) -> None:
        command = str(self.database.process and self.database.process.args)
        self.assertIn("--bind-address=127.0.0.1", command)
        self.assertIn("--innodb-flush-log-at-trx-commit=1", command)

    def test_a_server_of_a_killed_parent_that_does_not_end_is_ended(self) -> None:
        assert self.database.process
        self.database.process.send_signal(signal.SIGSTOP)  # as one that waits for itself
        again = Database(self.state)
        self.addCleanup(again.stop)
        with mock.patch("ops.database.server.ENDS_SECONDS", 0.5):
            again.start()
        self.assertEqual(self.database.process.wait(5), -signal.SIGKILL)
        again.connect().close()

    def test_data_outlives_a_restart_and_a_kill(self) -> None:
        password = self.database.environment["PERCORSO_DB_PASSWORD"]
        with self._connect("percorso", password) as connection:
            cursor = connection.cursor()
            cursor.execute("CREATE TABLE percorso.kept (value INT)")
            cursor.execute("INSERT INTO percorso.kept VALUES (42)")
            connection.commit()
        assert self.database.process
        self.database.process.kill()
        self.database.start()
        with self._connect("percorso", password) as connection:
            cursor = connection.cursor()
            cursor.execute("SELECT value FROM percorso.kept")
            self.assertEqual(cursor.fetchone(), (42,))


class Commands(InAFolder):
    def test_a_taken_port_is_said_and_nothing_is_started(self) -> None:
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            application = Application(self.state, taken.getsockname()[1], demo=False)
            with self.assertRaisesRegex(RuntimeError, "PERCORSO_PORT"):
                application.start()
        self.assertFalse((self.state / "mariadb").exists())

    def test_reset_asks_first(self) -> None:
        (self.state / "mariadb").mkdir()
        refused = run_ops(self.state, "reset", answer="no\n")
        self.assertEqual(refused.returncode, 1)
        self.assertTrue((self.state / "mariadb").exists())
        self.assertEqual(run_ops(self.state, "reset", answer="yes\n").returncode, 0)
        self.assertFalse(self.state.exists())

    def test_a_person_is_added_only_while_percorso_runs(self) -> None:
        refused = run_ops(self.state, "person", answer="Officina\nanna\n")
        self.assertEqual(refused.returncode, 1)
        self.assertIn("start it first", refused.stderr)

    def test_a_state_directory_that_cannot_be_written_is_said(self) -> None:
        refused = run_ops(Path("/proc/percorso"), "people")
        self.assertEqual((refused.returncode, "Traceback" in refused.stderr), (1, False))
        self.assertIn("PERCORSO_STATE", refused.stderr)

    def test_an_unknown_command_says_what_there_is(self) -> None:
        result = run_ops(self.state, "dance")
        self.assertEqual(result.returncode, 2)
        self.assertIn("demo | start", result.stderr)

    def test_a_running_percorso_is_not_started_twice_and_stops_cleanly(self) -> None:
        lay_started(self.state)
        first = start("demo", self.state, self.port)
        said = said_until_served(first)
        self.assertIn(f"http://127.0.0.1:{self.port}", said)
        self.assertIn("valbruna / market-van-round", said)
        second = run_ops(self.state, "start")
        self.assertEqual((second.returncode, "already running" in second.stdout), (0, True))
        self.assertEqual(run_ops(self.state, "reset", answer="yes\n").returncode, 1)
        self.assertEqual(end(first), 0)
        self.assertEqual(socket.socket().connect_ex(("127.0.0.1", self.port)) == 0, False)
