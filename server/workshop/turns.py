"""Whose turn it is: a process works on a few requests at a time, and one person cannot keep everybody else waiting.

A thread that waits for its turn takes no processor. Of one person only so many are worked on at a time and only so many
wait; whoever asks for more is told to wait. Of those that wait, the person whose turn was longest ago comes next.
"""

import os
from collections import OrderedDict, deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Condition
from time import monotonic

from django.http import HttpRequest, HttpResponse, JsonResponse

from percorso.errors import PercorsoError
from percorso.patience import while_wanted
from workshop.throttle import address_of

AT_ONCE = 3  # requests that are worked on: more would only wait for one another
OF_ONE = 1  # of them of one person
MOST_SECONDS = 60.0  # that an answer is worked on
MOST_MB = 1500  # of memory that a process takes while an answer is worked on
LOOKS_SECONDS = 0.2  # between two looks whether somebody still waits for it
ONLY_READS = ("/what-if", "/trace")  # what is sent to these is not written
WAITING_OF_ONE = 8
WAITING = 18  # altogether; a few threads are always left for /healthz and files
MOST_KNOWN = 10_000  # sessions whose person is remembered
_TURN_OF = "_percorso_turn_of"
_BUSY = "too much is asked for at once; wait a moment and ask again"


class TooManyError(Exception):
    """One person asks for too much at once, or everybody together."""


class Turns:
    """The requests of one process that are worked on, and those that wait, by whose they are."""

    def __init__(self) -> None:
        self._changed = Condition()
        self._working: dict[str, int] = {}
        self._waiting: OrderedDict[str, deque[object]] = OrderedDict()  # who waits longest for a turn comes first

    @contextmanager
    def turn(self, whose: str) -> Iterator[None]:
        """Wait for a turn and have it. Raises TooManyError instead of waiting too long a line."""
        self._wait_for(whose)
        try:
            yield
        finally:
            self._let_go(whose)

    @contextmanager
    def apart(self, whose: str) -> Iterator[None]:
        """Let others work meanwhile: what is waited for is not this machine's."""
        self._let_go(whose)
        try:
            yield
        finally:
            self._wait_for(whose, is_known=True)

    def _wait_for(self, whose: str, *, is_known: bool = False) -> None:
        with self._changed:
            line = self._waiting.setdefault(whose, deque())
            if not is_known and (len(line) >= WAITING_OF_ONE or sum(map(len, self._waiting.values())) >= WAITING):
                if not line:
                    del self._waiting[whose]
                raise TooManyError
            mine = object()
            line.append(mine)
            self._changed.wait_for(lambda: self._is_next(whose, mine))
            line.popleft()
            del self._waiting[whose]
            if line:
                self._waiting[whose] = line  # behind everybody else who waits
            self._working[whose] = self._working.get(whose, 0) + 1
            self._changed.notify_all()

    def _is_next(self, whose: str, mine: object) -> bool:
        if sum(self._working.values()) >= AT_ONCE:
            return False
        able = (each for each in self._waiting if self._working.get(each, 0) < OF_ONE)
        return next(able, None) == whose and self._waiting[whose][0] is mine

    def _let_go(self, whose: str) -> None:
        with self._changed:
            self._working[whose] -= 1
            if not self._working[whose]:
                del self._working[whose]
            self._changed.notify_all()


TURNS = Turns()
_people: OrderedDict[str, str] = OrderedDict()  # of sessions that were seen


class InTurn:
    """Middleware around the views of the API."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer when it is this person's turn."""
        if not request.path.startswith("/api/"):
            return self._get_response(request)
        whose = _whose(request)
        setattr(request, _TURN_OF, whose)
        try:
            with TURNS.turn(whose), while_wanted(_wanted(request)):
                response = self._get_response(request)
        except TooManyError:
            refused = {"code": "too-many", "message": _BUSY, "problems": []}
            return JsonResponse(refused, status=429, headers={"Retry-After": "1"})
        _remember(request)
        return response


class TooLargeError(PercorsoError):
    """An answer takes more time or memory than it may."""

    code = "too-large"


class NobodyWaitsError(Exception):
    """Whoever asked has gone."""


def _wanted(request: HttpRequest) -> Callable[[], None]:
    """What long work asks between its pieces. What is written is written, whoever waits for it."""
    reads = request.method in ("GET", "HEAD") or request.path.endswith(ONLY_READS)
    is_gone = request.META.get("waitress.client_disconnected", bool)
    ends_s, looks_s = monotonic() + MOST_SECONDS, monotonic() + LOOKS_SECONDS

    def ask() -> None:
        nonlocal looks_s
        now_s = monotonic()
        if not reads or now_s < looks_s:
            return
        looks_s = now_s + LOOKS_SECONDS
        if is_gone():
            raise NobodyWaitsError
        if now_s > ends_s:
            raise TooLargeError(f"this was given up after {MOST_SECONDS:g} s: {_TOO_LARGE}")
        if resident_mb() > MOST_MB:
            for let_go in LET_GO:
                let_go()
            raise TooLargeError(f"this was given up as it takes more than {MOST_MB} MB: {_TOO_LARGE}")

    return ask


_TOO_LARGE = (
    "the job is too large for it. Put circuits that have nothing to do with one another into jobs of their own, or "
    "look at one circuit alone"
)
LET_GO: list[Callable[[], object]] = []  # what frees memory that is only kept so as not to compute something again


def resident_mb() -> float:
    """The memory that this process takes, MB."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def whose_turn(request: HttpRequest) -> str:
    """Whose turn a request has."""
    return str(getattr(request, _TURN_OF))


def _whose(request: HttpRequest) -> str:
    """The person, or as long as that is not known the session; where there is neither, where it comes from."""
    session = request.session.session_key
    return _people.get(session, session) if session else f"from {address_of(request)}"


def _remember(request: HttpRequest) -> None:
    session, person = request.session.session_key, getattr(request, "_cached_user", None)
    if session and person is not None and person.pk:
        _people[session] = f"person {person.pk}"
        while len(_people) > MOST_KNOWN:
            _people.popitem(last=False)
