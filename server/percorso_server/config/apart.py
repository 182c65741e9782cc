"""Has what takes long computed by processes apart, so that those that answer boards and saves are free.

The same application runs there, on Unix sockets of our own, and is asked the same. Some rooms always take long;
whatever else only reads is begun here, and handed on where it turns out to (workshop/turns.py). A job always comes to
the same process, which knows what it computed of it before. Once nobody waits for an answer it is given up.
"""

import json
from collections.abc import Callable
from contextlib import closing
from hashlib import sha256
from http.client import HTTPConnection, HTTPException
from select import select
from socket import AF_UNIX, socket
from time import monotonic

from django.conf import settings
from django.core.exceptions import MiddlewareNotUsed
from django.http import HttpRequest, HttpResponse

from percorso.patience import NobodyWaitsError
from percorso_server.workshop.turns import is_handed_on

ROOMS = ("under-way", "trace", "proof", "pulled", "sheets")  # of a job, /api/jobs/ID/ROOM; all of them only read
MOST_SECONDS = 200.0  # that an answer is waited for; the process itself gives up much earlier
LOOKS_SECONDS = 0.2  # between two looks whether somebody still waits
TRIES = 2  # what a process was asked as it ended is asked the one in its place
_OF_THE_CONNECTION = {"connection", "keep-alive", "transfer-encoding", "date"}


class Apart:
    """Middleware around everything."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        if not settings.APART:
            raise MiddlewareNotUsed
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer, or have it answered."""
        _, _, things, _, room, *_ = [*request.path.split("/"), "", "", "", ""]
        if things != "jobs" or room not in ROOMS:
            response = self._get_response(request)
            if not is_handed_on(response):
                return response
        return _answered(request)


def _answered(request: HttpRequest) -> HttpResponse:
    for _ in range(TRIES):
        try:
            return _ask(_process_for(request.path), request)
        except (HTTPException, ConnectionError):
            continue
        except (NobodyWaitsError, TimeoutError):
            break
    said = {"code": "away", "message": "what computes this was started anew: ask once more", "problems": []}
    return HttpResponse(json.dumps(said), "application/json", 503, headers={"Retry-After": "1"})


def _process_for(path: str) -> str:
    """The socket of the process that computes what is asked of a job or a circuit, /api/jobs/ID or /api/circuits/ID."""
    digest = sha256("/".join(path.split("/")[:4]).lower().encode()).digest()
    return str(settings.APART[digest[0] % len(settings.APART)])


def _ask(socket_path: str, request: HttpRequest) -> HttpResponse:
    """What a process apart answers. Raises NobodyWaitsError, HTTPException and OSError."""
    connection = HTTPConnection("localhost", timeout=MOST_SECONDS)
    with closing(connection):
        connection.sock = socket(AF_UNIX)
        connection.sock.connect(socket_path)
        headers = {**request.headers, "Connection": "close"}
        connection.request(request.method or "GET", request.get_full_path(), request.body or None, headers)
        _wait(connection.sock, request.META.get("waitress.client_disconnected", bool))
        answer = connection.getresponse()
        response = HttpResponse(answer.read(), status=answer.status, headers=None)
        del response["Content-Type"]
        for name, value in answer.getheaders():
            if name.lower() not in _OF_THE_CONNECTION:
                response.headers[name] = value
        return response


def _wait(connection: socket, is_gone: Callable[[], bool]) -> None:
    """Return once something has come. Raises NobodyWaitsError and TimeoutError."""
    ends_s = monotonic() + MOST_SECONDS
    while not select([connection], [], [], LOOKS_SECONDS)[0]:
        if is_gone():
            raise NobodyWaitsError
        if monotonic() > ends_s:
            raise TimeoutError
