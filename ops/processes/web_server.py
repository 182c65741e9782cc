"""Server processes that share one listening socket, which outlives all; a spare takes the place of one that dies.

Beside them processes that compute what takes long, each on a socket of its own.
"""

import os
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Mapping
from contextlib import closing
from dataclasses import dataclass
from http.client import HTTPConnection
from pathlib import Path

from ops.processes import child
from ops.processes.supervised import Supervised

BACKLOG = 1024
READY_SECONDS = 30.0
NICE_APART = 10  # what computes apart comes last wherever the processor is short
FROZEN_SECONDS = 10.0  # without a beat of its heart after which a process is replaced
PREDECESSOR_SECONDS = 8.0  # in which the processes of one that was killed let go of the port


@dataclass(frozen=True)
class Seat:
    """Where a process of ours listens, and whether it computes for the others."""

    listening: socket.socket
    is_apart: bool = False


class WebServer:
    """So many processes (``workers``) on a loopback port, and so many (``apart``) that compute for them.

    ``environment`` is asked for when one starts.
    """

    def __init__(
        self,
        port: int,
        workers: int,
        log: Path,
        environment: Callable[[], Mapping[str, str]],
        apart: int = 0,
    ) -> None:
        self.port, self.log = port, log
        self._workers, self._environment, self._apart = workers, environment, apart
        self.processes: list[subprocess.Popen[bytes]] = []
        self._listening: socket.socket | None = None
        self._seats: list[Seat] = []
        self._told_apart = ""  # where those that compute listen, as the others are told
        self._beats = Path()
        self._gate, self._bar = os.pipe()  # processes wait at it until the bar is closed
        self._is_open = False
        self._spare: tuple[subprocess.Popen[bytes], int] | None = None  # with the bar of its own gate

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
        assert self._listening is not None
        self._beats = Path(self._environment()["PERCORSO_BEATS"])
        self._close_apart()
        paths = [self._beats / f"apart-{place}" for place in range(self._apart)]
        self._told_apart = ":".join(map(str, paths))
        computing = [Seat(_at(path), is_apart=True) for path in paths]
        self._seats = [*(Seat(self._listening) for _ in range(self._workers)), *computing]
        self.processes = [self._start_one(each, self._gate) for each in self._seats]

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
        if self._spare is None:
            self._spare = self._start_spare()

    def stop(self) -> None:
        """End the processes, and let go of the port."""
        every = [*self.processes, *([self._spare[0]] if self._spare else [])]
        for each in every:
            each.terminate()
        for each in every:
            child.stop(each)
        self._close_apart()
        if self._listening is not None:
            self._listening.close()

    def _close_apart(self) -> None:
        for each in self._seats[self._workers :]:
            each.listening.close()

    def parts(self) -> list[Supervised]:
        """The processes."""
        return [self._revived(place) for place in range(self._workers + self._apart)]

    def _revived(self, place: int) -> Supervised:
        heart, is_apart = Heart(self._beats), place >= self._workers

        def start() -> None:
            spare = None if is_apart else self._take_spare()
            self.processes[place] = spare or self._start_one(self._seats[place], self._gate)

        name = "process that computes apart" if is_apart else "web server"
        return Supervised(name, lambda: heart.beats_in(self.processes[place]), start)

    def _take_spare(self) -> subprocess.Popen[bytes] | None:
        """The process that has read in what it is made of already: it answers at once."""
        spare, self._spare = self._spare, None
        if spare is None or spare[0].poll() is not None:
            return None
        process, bar = spare
        os.close(bar)
        self._spare = self._start_spare()
        return process

    def _start_spare(self) -> tuple[subprocess.Popen[bytes], int]:
        gate, bar = os.pipe()
        process = self._start_one(self._seats[0], gate)
        os.close(gate)
        return process, bar

    def _start_one(self, seat: Seat, gate: int) -> subprocess.Popen[bytes]:
        handed = [seat.listening.fileno(), gate]
        command = [
            sys.executable,
            "-m",
            "percorso_server.config.serve",
            *map(str, handed),
            str(NICE_APART if seat.is_apart else 0),
        ]
        told = {} if seat.is_apart else {"PERCORSO_APART": self._told_apart}
        return child.start(command, self.log, {**self._environment(), **told}, handed)


def _at(path: Path) -> socket.socket:
    """A Unix socket that is listened at."""
    path.unlink(missing_ok=True)
    listening = socket.socket(socket.AF_UNIX)
    listening.bind(str(path))
    listening.listen(BACKLOG)
    return listening


class Heart:
    """Whether a process lives: one that shows no life for a while is ended, as it answers nobody."""

    def __init__(self, beats: Path) -> None:
        self._beats = beats
        self._last = (0, 0.0)  # of which process, when it beat last
        self._seen_s = 0.0

    def beats_in(self, process: subprocess.Popen[bytes]) -> bool:
        """Look once more. A process that has not begun to beat yet is still starting."""
        if process.poll() is not None:
            return False
        try:
            beat = process.pid, (self._beats / str(process.pid)).stat().st_mtime
        except OSError:
            return True
        now_s = time.monotonic()
        if beat != self._last:
            self._last, self._seen_s = beat, now_s
        if now_s - self._seen_s < FROZEN_SECONDS:
            return True
        print(f"A web server has answered nothing for {FROZEN_SECONDS:g} s; it is ended.", flush=True)
        process.kill()
        process.wait()
        return False


def status(port: int) -> int:
    """What /healthz answers on a loopback port; 0 for no answer."""
    with closing(HTTPConnection("127.0.0.1", port, timeout=1)) as asked:
        try:
            asked.request("GET", "/healthz")
            return asked.getresponse().status
        except OSError:
            return 0
