"""A disk that is really full: who looks is answered, the database is tried again, and comes back when there is room."""

import http.client
import os
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path
from unittest import skipUnless

from ops.application import ROOT
from ops.tests.test_ops import InAFolder
from ops.trials.started import end, said_until_served

ROOM = "300m"  # of which a new database takes some 200
METHODS = ("GET", "HEAD", "OPTIONS", "POST", "PUT", "PATCH", "DELETE", "BREW")
PATHS = ("/", "/api/session", "/api/jobs", "/metrics", "/nothing/of/it")
COMES_BACK_SECONDS = 60
A_DISK = 'mount -t tmpfs -o size="$0" tmpfs "$1" && exec "$2" -m ops start'
APART = ["unshare", "--map-root-user", "--mount", "sh", "-c"]  # with mounts of its own, that nobody else sees


def may_mount() -> bool:
    """Whether this machine lets us have a small disk of our own."""
    tried = [*APART, "mount -t tmpfs tmpfs /mnt"]
    return shutil.which("unshare") is not None and not subprocess.run(tried, check=False).returncode


@skipUnless(may_mount(), "this machine lets nobody have mounts of their own")
class FullDisk(InAFolder):
    def test_nothing_ends_but_the_database_which_comes_back(self) -> None:
        environment = {**os.environ, "PERCORSO_STATE": str(self.state), "PERCORSO_PORT": str(self.port)}
        command = [*APART, A_DISK, ROOM, str(self.state), sys.executable]
        begun = subprocess.Popen(command, cwd=ROOT, env=environment, stdout=subprocess.PIPE, text=True)
        self.addCleanup(end, begun)
        said_until_served(begun)
        fill = Path(f"/proc/{begun.pid}/root{self.state}/fill")
        with fill.open("wb") as file, self.assertRaisesRegex(OSError, "No space left"):
            while True:
                file.write(bytes(1_000_000))
                file.flush()
        [database] = subprocess.run(["pgrep", "-P", str(begun.pid), "mariadbd"], capture_output=True, text=True,
                                    check=True).stdout.split()  # fmt: skip
        os.kill(int(database), signal.SIGKILL)
        assert begun.stdout
        said = [begun.stdout.readline() for _ in range(4)]
        self.assertTrue(all("No space left" in each for each in said[1:]), said)
        for method in METHODS:
            for path in PATHS:
                self.assertLessEqual(answer(self.port, method, path), 503)
        fill.unlink()
        until = time.monotonic() + COMES_BACK_SECONDS
        while answer(self.port, "GET", "/healthz") != 200 and time.monotonic() < until:
            time.sleep(0.2)
        self.assertEqual(answer(self.port, "GET", "/healthz"), 200)
        begun.terminate()
        self.assertNotIn("web server", begun.communicate()[0])


def answer(port: int, method: str, path: str) -> int:
    """The status of an answer."""
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=30)
    connection.request(method, path)
    return connection.getresponse().status
