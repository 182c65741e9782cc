"""Computes, while somebody measures, what the next answer of tracing needs: one answer's at a time, the latest."""

import logging
from concurrent.futures import ThreadPoolExecutor
from threading import Event

from percorso.tracing.answer import Trace
from percorso.tracing.trace import Tracer

_log = logging.getLogger(__name__)
_thread = ThreadPoolExecutor(1, "ahead")
_wanted = Event()  # by somebody who looks at an answer; each has one of their own


def give_way() -> None:
    """Somebody asks: what was begun for an earlier answer is left at its next piece."""
    _wanted.clear()


def compute_ahead(tracer: Tracer, found: Trace) -> None:
    """Begin with what comes after an answer."""
    global _wanted  # noqa: PLW0603  # the latest answer's
    give_way()
    _wanted = Event()
    _wanted.set()
    _thread.submit(_compute, tracer, found, _wanted)


def wait_for_it() -> None:
    """Return once all of it is computed."""
    _thread.submit(lambda: None).result()


def _compute(tracer: Tracer, found: Trace, wanted: Event) -> None:
    try:
        for _ in tracer.ahead(found):
            if not wanted.is_set():
                break
    except Exception:
        _log.exception("what comes after an answer was not computed")
