"""Computes, while somebody measures, what the next answer of tracing needs: one answer's at a time, the latest.

Only while the process has nothing else to do: whoever asks for something comes first.
"""

import logging
from concurrent.futures import ThreadPoolExecutor
from threading import Event

from percorso.tracing.answer import Trace
from percorso.tracing.trace import Tracer
from percorso_server.workshop.turns import TURNS

_log = logging.getLogger(__name__)


class Prefetcher:
    """What a process computes ahead, in a thread of its own."""

    def __init__(self) -> None:
        self._thread = ThreadPoolExecutor(1, "ahead")
        self._wanted = Event()  # while the answer before it is the latest; each has one of its own

    def pause(self) -> None:
        """Leave what was begun at its next piece: somebody asks."""
        self._wanted.clear()

    def start(self, tracer: Tracer, found: Trace) -> None:
        """Begin with what comes after an answer."""
        self.pause()
        self._wanted = Event()
        self._wanted.set()
        self._thread.submit(_compute, tracer, found, self._wanted)

    def wait(self) -> None:
        """Return once all of it is computed."""
        self._thread.submit(lambda: None).result()


def _compute(tracer: Tracer, found: Trace, wanted: Event) -> None:
    try:
        for _ in tracer.ahead(found):
            TURNS.wait_until_idle(lambda: not wanted.is_set())
            if not wanted.is_set():
                break
    except Exception:
        _log.exception("what comes after an answer was not computed")


PREFETCHER = Prefetcher()
