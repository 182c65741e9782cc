"""The cluster under load while its parts are killed: nothing acknowledged is lost or doubled, and pauses are short.

It takes some minutes and is run by itself: `make cluster-test`.
"""

import os
import re
import shutil
import signal
import subprocess
import tempfile
import threading
import time
import urllib.error
from collections import Counter
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path
from typing import Any, ClassVar
from unittest import TestCase
from uuid import uuid4

import MySQLdb

from e2e.test_resilience import Person
from ops.application import Application
from ops.database import free_port
from ops.started import end, said_until_served, start

WRITERS = 8
SECONDS = 60.0
KILLS_AT = (10.0, 27.0, 44.0)  # s
LONGEST_PAUSE = 5.0  # s, as asked
REFUSALS = range(400, 501)  # which another try does not change
SAME_MOMENT = 200  # writes on one node, each looked for on another at once


class Writer(threading.Thread):
    """Somebody who writes without a pause, and sends what was not acknowledged again under the same key."""

    def __init__(self, application: Application, job: str, until: float) -> None:
        super().__init__()
        self._person, self._job, self._until = Person(application), job, until
        self.points: list[str] = []
        self.notes: list[str] = []
        self.acknowledged_at: list[float] = []
        self.answers: Counter[str] = Counter()

    def run(self) -> None:
        while time.monotonic() < self._until:
            name = f"Point {uuid4()}"
            edit = {"edits": [{"do": "add point", "name": name, "id": str(uuid4())}]}
            if self._send(f"/jobs/{self._job}/edits", edit):
                self.points.append(name)
            note = f"note {uuid4()}"
            measured = {"quantity": "voltage", "value": "12.6 V", "situation": {"stage": "found", "state": "off"}}
            measured |= dict(zip(("red_point", "black_point"), self._ends(), strict=True))
            reading = {"id": str(uuid4()), "measurement": measured, "note": note}
            if self._send(f"/jobs/{self._job}/readings", reading):
                self.notes.append(note)

    def _ends(self) -> tuple[str, str]:
        if not hasattr(self, "_two"):
            points = self._person.call("GET", f"/jobs/{self._job}")["points"]
            self._two = points[0]["id"], points[1]["id"]
        return self._two

    def _send(self, path: str, body: Any) -> bool:
        """Whether it was acknowledged at last."""
        while True:
            try:
                self._person.call("POST", path, body)
            except urllib.error.HTTPError as refusal:
                with refusal:
                    said = f"{refusal.code} {refusal.read()[:200]!r}"
                self.answers[said] += 1
                if refusal.code in REFUSALS:
                    return False
            except OSError as error:
                self.answers[type(error).__name__] += 1
            else:
                self.answers["acknowledged"] += 1
                self.acknowledged_at.append(time.monotonic())
                return True
            time.sleep(0.1)


class Cluster(TestCase):
    state: ClassVar[Path]
    application: ClassVar[Application]
    process: ClassVar[subprocess.Popen[str]]

    @classmethod
    def setUpClass(cls) -> None:
        cls.state = Path(tempfile.mkdtemp(prefix="percorso-cluster-"))
        cls.addClassCleanup(shutil.rmtree, cls.state, ignore_errors=True)
        port = free_port()
        cls.process = start("cluster", cls.state, port)
        cls.addClassCleanup(end, cls.process)
        said_until_served(cls.process)
        cls.application = Application(cls.state, port, demo=False)

    def test_what_one_server_wrote_the_other_sees_at_once(self) -> None:
        text = (self.state / "haproxy" / "haproxy.cfg").read_text()
        ports = [int(each) for each in re.findall(r"server server-\d 127\.0\.0\.1:(\d+)", text)]
        one, other = (Person(Application(self.state, port, demo=False)) for port in ports)
        job = one.call("POST", "/jobs", {"name": "Seen", "vehicle": "Van", "id": str(uuid4())})["id"]
        for writes, reads in ((one, other), (other, one)) * 10:
            name = f"Point {uuid4()}"
            writes.call("POST", f"/jobs/{job}/edits", {"edits": [{"do": "add point", "name": name}]})
            self.assertIn(name, [each["name"] for each in reads.call("GET", f"/jobs/{job}")["points"]])

    def test_what_one_node_acknowledged_every_node_has(self) -> None:
        nodes = [self._connected(each) for each in self._nodes()]
        with nodes[0].cursor() as cursor:
            cursor.execute("CREATE TABLE seen (number INT PRIMARY KEY)")
        for number in range(SAME_MOMENT):
            writes, reads = nodes[number % 3], nodes[(number + 1) % 3]
            with writes.cursor() as cursor:
                cursor.execute("INSERT INTO seen VALUES (%s)", [number])
            with reads.cursor() as cursor:
                self.assertEqual(cursor.execute("SELECT number FROM seen WHERE number = %s", [number]), 1)
        with nodes[0].cursor() as cursor:
            cursor.execute("DROP TABLE seen")
        for each in nodes:
            each.close()

    def test_under_eight_writers_nothing_is_lost_while_parts_are_killed(self) -> None:
        person = Person(self.application)
        jobs = [person.call("POST", "/jobs", {"name": f"Written {place}", "vehicle": "Van", "id": str(uuid4())})["id"]
                for place in range(2)]  # fmt: skip
        for job in jobs:
            ends = [{"do": "add point", "name": name} for name in ("Post", "Body")]
            person.call("POST", f"/jobs/{job}/edits", {"edits": ends})
        until = time.monotonic() + SECONDS
        writers = [Writer(self.application, jobs[place % len(jobs)], until) for place in range(WRITERS)]
        began = time.monotonic()
        for each in writers:
            each.start()
        kills: tuple[Callable[[], int], ...] = (self._other_node, self._web_process, self._writers_node)
        for at, victim in zip(KILLS_AT, kills, strict=True):
            time.sleep(max(began + at - time.monotonic(), 0.0))
            os.kill(victim(), signal.SIGKILL)
        for each in writers:
            each.join()
        answers = sum((each.answers for each in writers), Counter[str]())
        pauses = [max(self._pause(each, began + at) for each in writers) for at in KILLS_AT]
        print(f"\nanswers: {dict(answers)}; longest pauses: {', '.join(f'{each:.1f} s' for each in pauses)}")
        self.assertFalse([each for each in answers if each.startswith(("4", "500"))], answers)
        self.assertLess(max(pauses), LONGEST_PAUSE)
        self._all_there_once(jobs, writers)

    def _all_there_once(self, jobs: list[str], writers: list[Writer]) -> None:
        person = Person(self.application)
        points, notes = Counter[str](), Counter[str]()
        for job in jobs:
            points += Counter(each["name"] for each in person.call("GET", f"/jobs/{job}")["points"])
            notes += Counter(each["note"] for each in person.call("GET", f"/jobs/{job}/readings"))
        for each in writers:
            self.assertEqual([name for name in each.points if points[name] != 1], [])
            self.assertEqual([note for note in each.notes if notes[note] != 1], [])
        self.assertGreater(sum(len(each.points) for each in writers), 10 * WRITERS)

    @staticmethod
    def _pause(writer: Writer, kill: float) -> float:
        """The longest time between two acknowledgements from a kill until the next, s."""
        acknowledged = [kill, *(each for each in writer.acknowledged_at if kill <= each < kill + 16)]
        return max((after - before for before, after in pairwise(acknowledged)), default=16.0)

    def _nodes(self) -> list[Path]:
        return sorted((self.state / "galera").glob("node-?"))

    @staticmethod
    def _connected(node: Path) -> MySQLdb.Connection:
        """A connection to one node, past the balancer."""
        settings = (node / "node.cnf").read_text()
        socket = re.search(r"^socket = (.*)$", settings, re.MULTILINE)
        assert socket
        password = (node / "database-password").read_text()
        return MySQLdb.connect(unix_socket=socket[1], user="percorso", password=password, database="percorso",
                               autocommit=True)  # fmt: skip

    def _asked(self, node: Path) -> int:
        """How many connections of servers a node has."""
        connection = self._connected(node)
        with connection.cursor() as cursor:
            cursor.execute("SELECT COUNT(*) FROM information_schema.processlist WHERE host LIKE '127.%'")
            [(count,)] = cursor.fetchall()
        connection.close()
        return int(count)

    def _process_of(self, node: Path) -> int:
        settings = (node / "node.cnf").read_text()
        [file] = re.findall(r"^pid-file = (.*)$", settings, re.MULTILINE)
        return int(Path(file).read_text())

    def _writers_node(self) -> int:
        return self._process_of(max(self._nodes(), key=self._asked))

    def _other_node(self) -> int:
        return self._process_of(min(self._nodes(), key=self._asked))

    def _web_process(self) -> int:
        found = subprocess.run(["pgrep", "-f", "-P", str(self.process.pid), "config.serve"], check=True,
                               capture_output=True, text=True)  # fmt: skip
        return int(found.stdout.split()[0])
