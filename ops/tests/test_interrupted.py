"""Percorso that is killed at any time, and its parts that die: every later start succeeds, and what died is revived."""

import os
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from contextlib import suppress
from functools import partial
from itertools import pairwise
from pathlib import Path
from unittest import TestCase, mock

from core.tests.support.in_time import in_time
from ops.application import Application
from ops.database.server import _serving
from ops.processes.supervised import FIRST_PAUSE_SECONDS, LONGEST_PAUSE_SECONDS, STAYS_SECONDS, Supervised
from ops.processes.web_server import Heart
from ops.tests.test_ops import InAFolder
from ops.trials.client import Client
from ops.trials.started import end, lay_started, said_until_served, start

START_SECONDS = 120
STALLED = 64
NEVER_S = 9.0  # who is kept waiting by what stalls or hangs waits for longer, whatever the machine


class Interrupted(InAFolder):
    def _begin(self, command: str = "start", *, at_first: bool = False) -> subprocess.Popen[str]:
        """``at_first``: with nothing there yet."""
        if not at_first and not any(self.state.iterdir()):
            lay_started(self.state)
        begun = start(command, self.state, self.port)
        self.addCleanup(end, begun)
        return begun

    def ask(self, path: str) -> bytes:
        """The first line of an answer."""
        with socket.create_connection(("127.0.0.1", self.port), timeout=10) as connection:
            connection.sendall(f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n\r\n".encode())
            return connection.recv(1000).splitlines()[0]

    def _serves(self, begun: subprocess.Popen[str]) -> None:
        """It greets, and answers."""
        said_until_served(begun)
        self.assertIn(b"200 OK", self.ask("/healthz"))

    def test_a_first_start_that_is_killed_in_any_phase_recovers(self) -> None:
        for phase in ("mariadb-install-db", "db.pid", "migrate", "percorso_server.config.serve"):
            begun = self._begin(at_first=True)
            self._process(phase)
            begun.kill()
            begun.wait()
        self._serves(self._begin())

    def test_what_was_begun_does_not_go_on_beside_the_next_start(self) -> None:
        first = self._begin(at_first=True)
        migrates = self._process("migrate")
        os.kill(migrates, signal.SIGSTOP)  # too slow to have noticed anything
        first.kill()
        first.wait()
        second = self._begin()
        self._process("migrate", other_than=migrates)
        os.kill(migrates, signal.SIGCONT)
        self._serves(second)

    def _process(self, word: str, other_than: int = 0) -> int:
        """Wait until a command with this word runs on what lies in our folder; its number."""
        deadline = time.monotonic() + START_SECONDS
        while time.monotonic() < deadline:
            for each in Path("/proc").glob("[0-9]*"):
                with suppress(OSError):
                    words = (each / "cmdline").read_text().split("\0")
                    named = f"{self.state}/".encode() in (each / "environ").read_bytes() + "".join(words).encode()
                    if named and any(part.endswith(word) for part in words) and int(each.name) != other_than:
                        return int(each.name)
            time.sleep(0.05)
        raise AssertionError(f"{word} was not run")

    def test_who_is_killed_can_be_started_at_once(self) -> None:
        first = self._begin()
        self._serves(first)
        first.kill()
        first.wait()
        self._serves(self._begin())

    def test_whoever_stalls_keeps_nobody_else_waiting(self) -> None:
        self._serves(self._begin("demo"))
        head = b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 500\r\n\r\n{"
        stalled = [socket.create_connection(("127.0.0.1", self.port)) for _ in range(3 * STALLED)]
        for each in stalled[:STALLED]:
            each.sendall(head)  # the body never comes
        for each in stalled[STALLED : 2 * STALLED]:
            each.sendall(head[:40])  # nor the rest of the head; the others say nothing at all
        for path in ("/healthz", "/", "/healthz", "/api/session"):
            self.assertIn(b"200 OK", in_time(NEVER_S, partial(self.ask, path)))
        client = Client(Application(self.state, self.port, demo=True))
        for job in client.call("GET", "/jobs"):
            board = in_time(NEVER_S, partial(client.call, "GET", f"/jobs/{job['id']}"))
            self.assertGreater(len(board["lines"]), 0, job["name"])
        for each in stalled:
            each.close()

    def test_a_database_that_hangs_is_said_to_be_away(self) -> None:
        self._serves(self._begin())
        [database] = _serving(self.state)
        os.kill(database, signal.SIGSTOP)
        self.addCleanup(os.kill, database, signal.SIGCONT)
        self.assertIn(b"503", in_time(NEVER_S, partial(self.ask, "/healthz")))
        os.kill(database, signal.SIGCONT)
        self.assertIn(b"200 OK", in_time(NEVER_S, partial(self.ask, "/healthz")))

    def test_who_asks_for_everything_at_once_keeps_nobody_else_waiting(self) -> None:
        """150 connections with eight exports each, written before an answer is read."""
        self._serves(self._begin("demo"))
        application = Application(self.state, self.port, demo=True)
        application.manage("shell", "--verbosity=0", "-c", ADD_OTHER)
        greedy, other = Client(application), Client(application, OTHER)
        van = greedy.call("GET", "/jobs")[0]["id"]
        head = "".join(f"{name}: {value}\r\n" for name, value in greedy.headers.items())
        asked = f"GET /api/jobs/{van}/sheets/wires.csv HTTP/1.1\r\nHost: 127.0.0.1\r\n{head}\r\n".encode() * 8
        connections = [socket.create_connection(("127.0.0.1", self.port)) for _ in range(150)]
        for each in connections:
            self.addCleanup(each.close)
            each.sendall(asked)
        for path in ("/jobs", f"/jobs/{other.call('POST', '/jobs', {'name': 'Quick', 'vehicle': 'Van'})['id']}"):
            in_time(NEVER_S, partial(other.call, "GET", path))
        self.assertIn(b"200 OK", in_time(NEVER_S, partial(self.ask, "/healthz")))


OTHER = {"username": "altra", "password": "una parola lunga"}
ADD_OTHER = """
from percorso_server.workshop.models import Person, Shop
Person.objects.create_user("altra", password="una parola lunga", shop=Shop.objects.create(name="Officina altra"))
"""


class WhatDies(TestCase):
    def test_a_process_without_a_beat_is_ended_and_one_that_starts_is_given_time(self) -> None:
        folder = Path(tempfile.mkdtemp(prefix="percorso-beats-"))
        self.addCleanup(shutil.rmtree, folder)
        process = subprocess.Popen(["sleep", "600"])
        self.addCleanup(process.kill)
        heart = Heart(folder)
        process.send_signal(signal.SIGSTOP)
        with (
            mock.patch("ops.processes.web_server.time.monotonic", side_effect=(100, 105, 109, 118, 120)),
            mock.patch("builtins.print"),
        ):
            self.assertTrue(heart.beats_in(process))
            beat = folder / str(process.pid)
            beat.touch()
            self.assertTrue(heart.beats_in(process))
            self.assertTrue(heart.beats_in(process))
            os.utime(beat, (1, 1))
            self.assertTrue(heart.beats_in(process))
            self.assertTrue(heart.beats_in(process))
            self.assertFalse(heart.beats_in(process))
        self.assertEqual(process.wait(10), -signal.SIGKILL)

    def test_it_is_started_again_after_longer_and_longer_pauses_until_it_stays(self) -> None:
        """A disk that is full for a while: nothing gives up, and each try is said."""
        alive, tries = False, list[float]()
        now = 0.0

        def start() -> None:
            tries.append(now)
            if now < 300:
                raise RuntimeError("the disk is full")

        part = Supervised("database", lambda: alive, start)
        with mock.patch("builtins.print") as said:
            while len(tries) == 0 or tries[-1] < 300:
                part.look(now)
                now += 0.1
        pauses = [after - before for before, after in zip([0.0, *tries], tries, strict=False)]
        self.assertAlmostEqual(pauses[0], FIRST_PAUSE_SECONDS, delta=0.3)
        self.assertTrue(all(after > before - 0.3 for before, after in pairwise(pauses)), pauses)
        self.assertAlmostEqual(pauses[-1], LONGEST_PAUSE_SECONDS, delta=0.3)
        self.assertIn("the disk is full", said.call_args.args[0])
        alive = True
        now += STAYS_SECONDS
        part.look(now)
        alive = False
        with suppress(RuntimeError), mock.patch("builtins.print") as said:
            part.look(now)
        self.assertIn(f"{FIRST_PAUSE_SECONDS:g} s", said.call_args.args[0])
