"""Computes, while somebody measures, what the next answer of tracing needs: one answer's at a time, the latest."""

import logging
from concurrent.futures import ThreadPoolExecutor
from itertools import count

from percorso.tracing.answer import Trace
from percorso.tracing.trace import Tracer

_log = logging.getLogger(__name__)
_thread = ThreadPoolExecutor(1, "ahead")
_answers = count()
_latest = 0


def compute_ahead(tracer: Tracer, found: Trace) -> None:
    """Begin with what comes after an answer; what was begun for an earlier one is left at its next piece."""
    global _latest  # noqa: PLW0603  # the answer that somebody looks at now
    _latest = next(_answers)
    _thread.submit(_compute, tracer, found, _latest)


def wait_for_it() -> None:
    """Return once all of it is computed."""
    _thread.submit(lambda: None).result()


def _compute(tracer: Tracer, found: Trace, answer: int) -> None:
    try:
        for _ in tracer.ahead(found):
            if answer != _latest:
                break
    except Exception:
        _log.exception("what comes after an answer was not computed")
