"""One person cannot keep everybody else waiting: turns are had a few at a time, and go round."""

from itertools import count
from threading import Event, Thread
from unittest import TestCase, mock

from django.test import RequestFactory

from core.tests.support.demo import demo
from percorso.network.operating_point import Network
from percorso.patience import NobodyWaitsError, while_wanted
from percorso.states.pulling import pull_each, removable
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import STATES, steps
from workshop.turns import (
    MOST_MB,
    OF_ONE,
    WAITING_OF_ONE,
    TooLargeError,
    TooManyError,
    Turns,
    _wanted,
    resident_mb,
)


class Asking:
    """A thread that works until it is let go, and says when it began."""

    def __init__(self, turns: Turns, whose: str, began: list[str]) -> None:
        self.at_work, self._done = Event(), Event()

        def work() -> None:
            with turns.turn(whose):
                began.append(whose)
                self.at_work.set()
                self._done.wait()

        self._thread = Thread(target=work, daemon=True)
        self._thread.start()

    def let_go(self) -> None:
        self._done.set()
        self._thread.join()


class Turn(TestCase):
    def setUp(self) -> None:
        self.turns, self.began = Turns(), list[str]()

    def _ask(self, whose: str, *, waits: bool = False) -> Asking:
        asking = Asking(self.turns, whose, self.began)
        if waits:
            while not self._is_in_line(whose):
                pass
        else:
            self.assertTrue(asking.at_work.wait(30), whose)
        return asking

    def _is_in_line(self, whose: str) -> bool:
        return len(self.turns._waiting.get(whose, ())) > self._lines.get(whose, 0)

    _lines: dict[str, int] = {}

    def test_one_person_leaves_room_for_others(self) -> None:
        greedy, other, another = (self._ask(each) for each in ("anna", "bruno", "dora"))
        self._lines = {}
        more = [self._ask("anna", waits=True)]
        self._lines = {"anna": 1}
        more.append(self._ask("anna", waits=True))
        third = self._ask("carla", waits=True)
        greedy.let_go()
        self.assertTrue(more[0].at_work.wait(30))  # who came first
        other.let_go()
        self.assertTrue(third.at_work.wait(30))  # then who had no turn yet, before the same person's next
        self.assertFalse(more[1].at_work.is_set())
        for each in (another, third, more[0]):
            each.let_go()
        more[1].let_go()
        self.assertEqual(self.began, ["anna", "bruno", "dora", "anna", "carla", "anna"])

    def test_who_asks_for_too_much_is_refused_at_once(self) -> None:
        working = [self._ask("anna") for _ in range(OF_ONE)]
        waiting = []
        for number in range(WAITING_OF_ONE):
            self._lines = {"anna": number}
            waiting.append(self._ask("anna", waits=True))
        with self.assertRaises(TooManyError), self.turns.turn("anna"):
            self.fail("this one waits")
        self._ask("bruno").let_go()
        for each in (*working, *waiting):
            each.let_go()

    def test_who_waits_for_something_else_lets_others_work(self) -> None:
        with self.turns.turn("anna"):
            with self.turns.apart("anna"):
                self._ask("anna").let_go()
            self.assertEqual(self.turns._working, {"anna": 1})
        self.assertEqual(self.turns._working, {})


class Wanted(TestCase):
    def test_long_work_is_left_when_nobody_waits_or_it_takes_too_long(self) -> None:
        request = RequestFactory().get("/api/jobs/x/pulled")
        gone = False
        request.META["waitress.client_disconnected"] = lambda: gone
        clock = mock.patch("workshop.turns.monotonic", side_effect=count(0.0, 0.15).__next__)
        with clock, while_wanted(_wanted(request)):
            network = Network(vehicle_at(demo("market-van"), "planned"))
            self.assertGreater(len(pull_each(network, removable(network.vehicle)[:2], steps(STATES, {}))), 1)
            gone = True
            with self.assertRaises(NobodyWaitsError):
                pull_each(network, removable(network.vehicle), steps(STATES, {}))
            gone = False
            with self.assertRaisesRegex(TooLargeError, "jobs of their own"):
                for _ in range(20):
                    pull_each(network, removable(network.vehicle), steps(STATES, {}))

    def test_work_that_takes_too_much_memory_is_given_up_and_what_is_kept_let_go(self) -> None:
        let_go = mock.Mock()
        too_much = mock.patch("workshop.turns.resident_mb", return_value=MOST_MB + 1.0)
        clock = mock.patch("workshop.turns.monotonic", side_effect=count(0.0, 1.0).__next__)
        kept = mock.patch("workshop.turns.LET_GO", [let_go])
        network = Network(vehicle_at(demo("market-van"), "planned"))
        with clock, too_much, kept:
            ask = _wanted(RequestFactory().get("/api/x"))
            with self.assertRaisesRegex(TooLargeError, "MB"), while_wanted(ask):
                network.solve("idle")
        let_go.assert_called_once()
        self.assertGreater(resident_mb(), 10)

    def test_what_is_written_is_not_left(self) -> None:
        request = RequestFactory().post("/api/jobs/x/edits")
        request.META["waitress.client_disconnected"] = lambda: True
        with while_wanted(_wanted(request)):
            Network(vehicle_at(demo("market-van"), "planned")).solve("idle")
