"""One server process, which answers on a listening socket: `python -m percorso_server.config.serve SOCKET GATE [NICE]`.

It reads in what it is made of, then waits until the pipe at whose end it is handed is closed: by then the database is
there, and its tables are as they should be.

One that computes apart (config/apart.py) is nicer to the others than these are to it (``NICE``).

A request is read whole before a thread takes it up, and an answer is sent on while the thread is free again: who sends
or reads slowly, or says nothing at all, keeps nobody else waiting.
"""

import gc
import os
import signal
import socket
import sys
import time
from contextlib import suppress
from importlib import import_module
from pathlib import Path
from threading import Thread
from typing import NoReturn

from django.conf import settings
from waitress.server import create_server

from percorso_server.config.wsgi import application
from percorso_server.verification.photos.pictures import MOST_BYTES

THREADS, THREADS_APART = 48, 24  # most of which wait for their turn (workshop/turns.py), or for what is computed apart
BEATS_SECONDS = 1.0
CONNECTIONS = 1000  # at once; beyond them the next ones wait for one to end
IDLE_SECONDS = 60  # after which a connection that says nothing is ended
MOST_BODY_BYTES = MOST_BYTES + 1_000_000  # a photo with what is sent around it


def serve(listening: socket.socket, gate: int, nice: int = 0) -> None:
    """Answer once the gate opens until the process is asked to end, then finish what was begun."""
    _be_nice(nice)
    import_module(settings.ROOT_URLCONF)  # before the first request asks for it
    gc.collect()
    gc.freeze()  # what is read in stays: to look through it again holds every request up, a tenth of a second each time
    os.read(gate, 1)
    if "PERCORSO_BEATS" in os.environ:
        Thread(target=_beat, args=(Path(os.environ["PERCORSO_BEATS"], str(os.getpid())),), daemon=True).start()
    signal.signal(signal.SIGTERM, _end)
    server = create_server(
        application,
        sockets=[listening],
        threads=THREADS if settings.APART else THREADS_APART,
        connection_limit=CONNECTIONS,
        channel_timeout=IDLE_SECONDS,
        max_request_body_size=MOST_BODY_BYTES,
        asyncore_use_poll=True,
        channel_request_lookahead=1,  # so that a client that has gone is noticed
        clear_untrusted_proxy_headers=False,  # Django counts the proxies it trusts, see PERCORSO_PROXIES
        ident=None,
    )
    server.run()


def _be_nice(nice: int) -> None:
    """Come after others where the processor is short: in its session, and as a session where Linux counts these."""
    os.nice(nice)
    with suppress(OSError):
        Path("/proc/self/autogroup").write_text(str(nice))


def _beat(file: Path) -> None:
    """Say again and again that this process is not frozen: no thread runs where one holds the interpreter for ever."""
    while True:
        file.touch()
        time.sleep(BEATS_SECONDS)


def _end(*_: object) -> NoReturn:
    raise SystemExit


if __name__ == "__main__":
    serve(socket.socket(fileno=int(sys.argv[1])), *map(int, sys.argv[2:]))
