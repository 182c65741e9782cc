"""Server processes that share one listening socket; each is started again when it dies, and the socket outlives all."""

import os
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Mapping
from contextlib import closing
from http.client import HTTPConnection
from pathlib import Path

from ops import child
from ops.revived import Revived

BACKLOG = 1024
READY_SECONDS = 30.0
PREDECESSOR_SECONDS = 8.0  # in which the processes of one that was killed let go of the port


class WebServer:
    """So many processes (``workers``) on a loopback port; ``environment`` is asked for when one starts."""

    def __init__(self, port: int, workers: int, log: Path, environment: Callable[[], Mapping[str, str]]) -> None:
        self.port, self.log = port, log
        self._workers, self._environment = workers, environment
        self.processes: list[subprocess.Popen[bytes]] = []
        self._listening: socket.socket | None = None
        self._gate, self._bar = os.pipe()  # processes wait at it until the bar is closed
        self._is_open = False

    def listen(self) -> None:
        """Take the port. Raises RuntimeError where somebody else has it."""
        listening = socket.socket()
        listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        deadline = time.monotonic() + PREDECESSOR_SECONDS
        while True:
            try:
                listening.bind(("127.0.0.1", self.port))
                listening.listen(BACKLOG)
            except OSError as error:
                if time.monotonic() > deadline:
                    listening.close()
                    taken = f"port {self.port} is taken; choose another with PERCORSO_PORT=8001"
                    raise RuntimeError(taken) from error
                time.sleep(0.1)
            else:
                self._listening = listening
                return

    def prepare(self) -> None:
        """Start the processes: they read in what they are made of, and wait."""
        self.processes = [self._start_one() for _ in range(self._workers)]

    def start(self) -> None:
        """Let the processes answer, and wait until one does. Raises RuntimeError where none does."""
        if all(each.poll() is not None for each in self.processes):
            self.prepare()
        if not self._is_open:
            os.close(self._bar)
            self._is_open = True
        deadline = time.monotonic() + READY_SECONDS
        while not status(self.port):
            if time.monotonic() > deadline or all(each.poll() is not None for each in self.processes):
                raise RuntimeError(f"the web server did not start; see {self.log}")
            time.sleep(0.05)

    def stop(self) -> None:
        """End the processes, and let go of the port."""
        for each in self.processes:
            each.terminate()
        for each in self.processes:
            child.stop(each)
        if self._listening is not None:
            self._listening.close()

    def parts(self) -> list[Revived]:
        """The processes."""
        return [self._revived(place) for place in range(self._workers)]

    def _revived(self, place: int) -> Revived:
        def start() -> None:
            self.processes[place] = self._start_one()

        return Revived("web server", lambda: self.processes[place].poll() is None, start)

    def _start_one(self) -> subprocess.Popen[bytes]:
        assert self._listening is not None
        handed = [self._listening.fileno(), self._gate]
        command = [sys.executable, "-m", "config.serve", *map(str, handed)]
        return child.start(command, self.log, self._environment(), handed)


def status(port: int) -> int:
    """What /healthz answers on a loopback port; 0 for no answer."""
    with closing(HTTPConnection("127.0.0.1", port, timeout=1)) as asked:
        try:
            asked.request("GET", "/healthz")
            return asked.getresponse().status
        except OSError:
            return 0
