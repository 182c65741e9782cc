"""What the database gave up half-way is tried again as a whole: a deadlock, a lost connection, nodes that disagreed.

Nothing of it was written, or what was is known by its key: each write can be sent twice, as browsers do.
"""

import time
from collections.abc import Callable
from random import uniform

from django.http import HttpRequest, HttpResponse

PASSING = (
    *(1205, 1213, 1180),  # a lock waited for too long; a deadlock, also between nodes; the commit failed for one
    *(1047, 1053, 1927),  # a node that does not take part, or is going down; it ended the connection
    *(2006, 2013, 2055),  # the connection was lost
)
PAUSES_S = (0.05, 0.2, 0.8)
_GAVE_UP = "percorso_database_gave_up"


def note_failure(request: HttpRequest, error: Exception) -> None:
    """Remember that the database gave up on a request, where that may pass."""
    setattr(request, _GAVE_UP, bool(error.args) and error.args[0] in PASSING)


class TriedAgain:
    """Middleware around the views alone."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer, after a pause once more where the database gave up."""
        response = self._get_response(request)
        for pause_s in PAUSES_S:
            if not getattr(request, _GAVE_UP, False) or not _can_be_read_again(request):
                break
            setattr(request, _GAVE_UP, False)
            time.sleep(pause_s * uniform(0.5, 1.5))  # two that met do not meet again
            response = self._get_response(request)
        return response


def _can_be_read_again(request: HttpRequest) -> bool:
    """Whether what was sent is still there; files are wound back. A body that was read as a stream is gone."""
    files = getattr(request, "_files", None)
    for each in files.values() if files else ():
        each.seek(0)
    return bool(files) or hasattr(request, "_body") or not getattr(request, "_read_started", False)
