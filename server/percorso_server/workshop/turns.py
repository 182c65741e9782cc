"""Whose turn it is: a process works on a few requests at a time, and one person cannot keep everybody else waiting.

A thread that waits for its turn takes no processor. Of one person only so many are worked on at a time and only so many
wait; whoever asks for more is told to wait. Of those that wait, the shop whose turn was longest ago comes next, and of
it the person whose turn was longest ago. What is answered soon need not wait for what takes long anyway: what has been
worked on for a while lets what has been worked on for less go first, and of what takes long one comes after the other.
What takes longer still is handed on to a process that computes apart (config/apart.py), where there is one.
"""

import os
from bisect import bisect
from collections import Counter, OrderedDict, deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from threading import Condition
from time import monotonic, thread_time
from typing import NamedTuple

from django.conf import settings
from django.http import HttpRequest, HttpResponse, JsonResponse

from percorso.errors import PercorsoError
from percorso.patience import NobodyWaitsError, Waiting, while_wanted
from percorso_server.workshop.throttle import address_of

AT_ONCE = 3  # requests that have just begun: more would only wait for one another
MOST_AT_ONCE = 8  # with those that take long
OF_ONE = 1  # of them of one person
LEVELS_SECONDS = (0.3, 3.0)  # of the processor's time, after which a request takes long, and very long
HANDED_ON_SECONDS = 1.0  # the same, after which it is handed on
HELD_SECONDS, WORKS_SECONDS = 1.0, 0.2  # that it lets others go first at most, and then works at least
MOST_SECONDS = 60.0  # that an answer is worked on
MOST_MB = 1500  # of memory that a process takes while an answer is worked on
LOOKS_SECONDS = 0.2  # between two looks whether somebody still waits for it
UNDER_WAY = "/under-way"  # what asks how far the others are waits for none of them
ONLY_READS = ("/what-if", "/trace")  # what is sent to these is not written
WAITING_OF_ONE = 8
WAITING = 12  # altogether; a few threads are always left for /healthz and files
MOST_KNOWN = 10_000  # sessions whose person is remembered
_TURN_OF, _HANDED_ON = "_percorso_turn_of", "_percorso_handed_on"
_BUSY = "too much is asked for at once; wait a moment and ask again"


class TooManyError(Exception):
    """One person asks for too much at once, or everybody together."""


class Asker(NamedTuple):
    """Who asks. As long as that is not known each session is a shop of its own."""

    shop: str
    person: str


@dataclass(eq=False)
class Turn:
    """A request that is worked on."""

    whose: Asker
    path: str = ""
    level: int = 0  # how long it has been worked on already
    waiting: Waiting = field(default_factory=lambda: Waiting(lambda: None))


class Turns:
    """The requests of one process that are worked on, and those that wait, by whose they are."""

    def __init__(self) -> None:
        self._changed = Condition()
        self._working: list[Turn] = []
        self._waiting: OrderedDict[Asker, deque[Turn]] = OrderedDict()  # who waits longest for a turn comes first
        self._last: dict[str, int] = {}  # the number of the last turn that each shop had
        self._count = 0

    @contextmanager
    def turn(self, whose: Asker, path: str = "") -> Iterator[Turn]:
        """Wait for a turn and have it. Raises TooManyError instead of waiting too long a line."""
        turn = Turn(whose, path)
        self._wait_for(turn)
        try:
            yield turn
        finally:
            self._let_go(turn)

    @contextmanager
    def apart(self, turn: Turn) -> Iterator[None]:
        """Let others work meanwhile: what is waited for is not this machine's."""
        self._let_go(turn)
        try:
            yield
        finally:
            self._wait_for(turn, is_known=True)

    def of(self, whose: Asker) -> tuple[list[Turn], list[Turn]]:
        """The requests of somebody that are worked on, and those that wait."""
        with self._changed:
            return [each for each in self._working if each.whose == whose], [*self._waiting.get(whose, ())]

    def let_others_go_first(self, turn: Turn) -> bool:
        """Between pieces of what takes long: wait while something else comes first, but not for ever.

        Whether nothing else does any more.
        """
        if self._comes_first(turn):
            return True
        with self._changed:
            return self._changed.wait_for(lambda: self._comes_first(turn), HELD_SECONDS)

    def is_at(self, turn: Turn, level: int) -> None:
        """How long something has been worked on."""
        if level != turn.level:
            with self._changed:
                turn.level = level
                self._changed.notify_all()

    def _comes_first(self, turn: Turn) -> bool:
        return min(tuple(self._working), key=lambda each: each.level, default=turn) is turn  # the first of its level

    def wait_until_idle(self, given_up: Callable[[], bool]) -> None:
        """Return once nobody works and nobody waits, or what was to be done then is given up."""
        with self._changed:
            self._changed.wait_for(lambda: given_up() or not (self._working or self._waiting))

    def _wait_for(self, turn: Turn, *, is_known: bool = False) -> None:
        whose = turn.whose
        with self._changed:
            line = self._waiting.setdefault(whose, deque())
            if not is_known and (len(line) >= WAITING_OF_ONE or sum(map(len, self._waiting.values())) >= WAITING):
                if not line:
                    del self._waiting[whose]
                raise TooManyError
            line.append(turn)
            self._changed.wait_for(lambda: self._is_next(turn))
            line.popleft()
            del self._waiting[whose]
            if line:
                self._waiting[whose] = line  # behind everybody else who waits
            self._working.append(turn)
            self._count += 1
            self._last[whose.shop] = self._count
            self._changed.notify_all()

    def _is_next(self, turn: Turn) -> bool:
        fresh = sum(each.level == 0 for each in self._working)
        if fresh >= AT_ONCE or len(self._working) >= MOST_AT_ONCE or self._waiting[turn.whose][0] is not turn:
            return False
        at_work = Counter(each.whose for each in self._working)
        able = (each for each in self._waiting if at_work[each] < OF_ONE)
        return min(able, key=lambda each: self._last.get(each.shop, 0), default=None) == turn.whose

    def _let_go(self, turn: Turn) -> None:
        with self._changed:
            self._working.remove(turn)
            if not self._working and not self._waiting:
                self._last.clear()
            self._changed.notify_all()


TURNS = Turns()
_people: OrderedDict[str, Asker] = OrderedDict()  # of sessions that were seen


class InTurn:
    """Middleware around the views of the API."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer when it is this person's turn."""
        if not request.path.startswith("/api/") or request.path.endswith(UNDER_WAY):
            return self._get_response(request)
        try:
            with TURNS.turn(whose_turn(request), request.path) as turn:
                turn.waiting.ask = _wanted(request, turn)
                with while_wanted(turn.waiting):
                    setattr(request, _TURN_OF, turn)
                    response = self._get_response(request)
        except TooManyError:
            refused = {"code": "too-many", "message": _BUSY, "problems": []}
            return JsonResponse(refused, status=429, headers={"Retry-After": "1"})
        _remember(request)
        return response


class TooLargeError(PercorsoError):
    """An answer takes more time or memory than it may."""

    code = "too-large"


class TakesLongError(Exception):
    """What is asked for takes so long that it is computed apart."""


def _wanted(request: HttpRequest, turn: Turn) -> Callable[[], None]:
    """What long work asks between its pieces. What is written is written, whoever waits for it."""
    reads = request.method in ("GET", "HEAD") or request.path.endswith(ONLY_READS)
    is_gone = request.META.get("waitress.client_disconnected", bool)
    began_s, ends_s = thread_time(), monotonic() + MOST_SECONDS
    looks_s = held_s = 0.0  # when it looks again, and lets others go first again

    def ask() -> None:
        nonlocal looks_s, held_s
        worked_s = thread_time() - began_s
        if not reads or worked_s < LEVELS_SECONDS[0]:
            return
        TURNS.is_at(turn, bisect(LEVELS_SECONDS, worked_s))
        if settings.APART and worked_s > HANDED_ON_SECONDS:
            raise TakesLongError
        if monotonic() >= held_s and not TURNS.let_others_go_first(turn):
            held_s = monotonic() + WORKS_SECONDS
        now_s = monotonic()
        if now_s < looks_s:
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


def hand_on(response: HttpResponse) -> HttpResponse:
    """An answer in whose place another process gives one."""
    setattr(response, _HANDED_ON, True)
    return response


def is_handed_on(response: HttpResponse) -> bool:
    """Whether another process is to answer."""
    return getattr(response, _HANDED_ON, False)


def turn_of(request: HttpRequest) -> Turn:
    """The turn that a request has."""
    turn = getattr(request, _TURN_OF)
    assert isinstance(turn, Turn)
    return turn


def whose_turn(request: HttpRequest) -> Asker:
    """Who asks: the person, or as long as that is not known the session, or where it comes from."""
    session = request.session.session_key
    unknown = session or f"from {address_of(request)}"
    return _people.get(session or "", Asker(unknown, unknown))


def _remember(request: HttpRequest) -> None:
    session, person = request.session.session_key, getattr(request, "_cached_user", None)
    if session and person is not None and person.pk:
        _people[session] = Asker(f"shop {person.shop_id}", f"person {person.pk}")
        while len(_people) > MOST_KNOWN:
            _people.popitem(last=False)
