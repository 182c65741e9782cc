"""One person cannot keep everybody else waiting: turns are had a few at a time, and go round."""

from itertools import count
from threading import Event, Thread
from unittest import TestCase, mock

from django.http import HttpRequest
from django.test import RequestFactory, override_settings

from core.tests.support.demo import demo
from percorso.network.operating_point import Network
from percorso.patience import NobodyWaitsError, Waiting, while_wanted
from percorso.states.pulling import pull_each, removable
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import STATES, steps
from percorso_server.workshop.turns import (
    MOST_MB,
    OF_ONE,
    WAITING_OF_ONE,
    Asker,
    TakesLongError,
    TooLargeError,
    TooManyError,
    Turn,
    Turns,
    _wanted,
    resident_mb,
)

ANNA, BRUNO, CARLA, DORA = (Asker("Valbruna", name) for name in ("anna", "bruno", "carla", "dora"))


class Asking:
    """A thread that works until it is let go, and says when it began."""

    def __init__(self, turns: Turns, whose: Asker, began: list[str]) -> None:
        self.at_work, self._done = Event(), Event()
        self.turn = Turn(whose)

        def work() -> None:
            with turns.turn(whose) as self.turn:
                began.append(whose.person)
                self.at_work.set()
                self._done.wait()

        self._thread = Thread(target=work, daemon=True)
        self._thread.start()

    def let_go(self) -> None:
        self._done.set()
        self._thread.join()


class TurnsOfPeople(TestCase):
    def setUp(self) -> None:
        self.turns, self.began = Turns(), list[str]()

    def _ask(self, whose: Asker, *, waits: bool = False) -> Asking:
        before = len(self.turns.of(whose)[1])
        asking = Asking(self.turns, whose, self.began)
        if waits:
            while len(self.turns.of(whose)[1]) == before:
                pass
        else:
            self.assertTrue(asking.at_work.wait(30), whose)
        return asking

    def test_one_person_leaves_room_for_others(self) -> None:
        greedy, other, another = (self._ask(each) for each in (ANNA, BRUNO, DORA))
        more = [self._ask(ANNA, waits=True), self._ask(ANNA, waits=True)]
        third = self._ask(CARLA, waits=True)
        greedy.let_go()
        self.assertTrue(more[0].at_work.wait(30))  # who came first
        other.let_go()
        self.assertTrue(third.at_work.wait(30))  # then who had no turn yet, before the same person's next
        self.assertFalse(more[1].at_work.is_set())
        for each in (another, third, more[0]):
            each.let_go()
        more[1].let_go()
        self.assertEqual(self.began, ["anna", "bruno", "dora", "anna", "carla", "anna"])

    def test_a_shop_of_one_waits_for_no_more_than_a_turn_of_a_shop_of_many(self) -> None:
        working = [self._ask(each) for each in (ANNA, BRUNO, CARLA)]
        waiting = [self._ask(Asker("Valbruna", f"hand {number}"), waits=True) for number in range(4)]
        alone = self._ask(Asker("another", "eva"), waits=True)
        working[0].let_go()
        self.assertTrue(alone.at_work.wait(30))
        for each in (*working[1:], alone, *waiting):
            each.let_go()

    def test_who_asks_for_too_much_is_refused_at_once(self) -> None:
        working = [self._ask(ANNA) for _ in range(OF_ONE)]
        waiting = [self._ask(ANNA, waits=True) for _ in range(WAITING_OF_ONE)]
        with self.assertRaises(TooManyError), self.turns.turn(ANNA):
            self.fail("this one waits")
        self._ask(BRUNO).let_go()
        for each in (*working, *waiting):
            each.let_go()

    def test_who_waits_for_something_else_lets_others_work(self) -> None:
        with self.turns.turn(ANNA) as turn:
            with self.turns.apart(turn):
                self._ask(ANNA).let_go()
            self.assertEqual(self.turns.of(ANNA), ([turn], []))
        self.assertEqual(self.turns.of(ANNA), ([], []))

    def test_what_has_been_worked_on_for_less_goes_first(self) -> None:
        long, longer, short = (self._ask(each) for each in (ANNA, BRUNO, CARLA))
        new = self._ask(DORA, waits=True)
        self.turns.is_at(long.turn, 1)
        self.assertTrue(new.at_work.wait(30))  # what takes long counts no more among those that have just begun
        self.turns.is_at(longer.turn, 2)
        with mock.patch("percorso_server.workshop.turns.HELD_SECONDS", 0.0):
            self.assertFalse(self.turns.let_others_go_first(long.turn))
        new.let_go()
        short.let_go()
        self.assertTrue(self.turns.let_others_go_first(long.turn))
        with mock.patch("percorso_server.workshop.turns.HELD_SECONDS", 0.0):
            self.assertFalse(self.turns.let_others_go_first(longer.turn))
        long.let_go()
        self.assertTrue(self.turns.let_others_go_first(longer.turn))
        longer.let_go()


@mock.patch("percorso_server.workshop.turns.LEVELS_SECONDS", (0.0, 1e9))
class Wanted(TestCase):
    def setUp(self) -> None:
        self.turn = Turn(ANNA)

    def _waiting(self, request: HttpRequest) -> Waiting:
        return Waiting(_wanted(request, self.turn))

    def test_what_takes_long_is_handed_on_where_a_process_computes_apart(self) -> None:
        network = Network(vehicle_at(demo("market-van"), "planned"))
        long = mock.patch("percorso_server.workshop.turns.HANDED_ON_SECONDS", 0.0)
        with long, while_wanted(self._waiting(RequestFactory().get("/api/x"))):
            network.solve("on")  # there is none
        with long, override_settings(APART=["/a"]):
            asked, sent = (self._waiting(getattr(RequestFactory(), each)("/api/x")) for each in ("get", "post"))
            with self.assertRaises(TakesLongError), while_wanted(asked):
                network.solve("idle")
            with while_wanted(sent):
                network.solve("road")  # what is written is written here

    def test_long_work_is_left_when_nobody_waits_or_it_takes_too_long(self) -> None:
        request = RequestFactory().get("/api/jobs/x/pulled")
        gone = False
        request.META["waitress.client_disconnected"] = lambda: gone
        clock = mock.patch("percorso_server.workshop.turns.monotonic", side_effect=count(0.0, 0.15).__next__)
        with clock, while_wanted(self._waiting(request)):
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
        too_much = mock.patch("percorso_server.workshop.turns.resident_mb", return_value=MOST_MB + 1.0)
        clock = mock.patch("percorso_server.workshop.turns.monotonic", side_effect=count(0.0, 1.0).__next__)
        kept = mock.patch("percorso_server.workshop.turns.LET_GO", [let_go])
        network = Network(vehicle_at(demo("market-van"), "planned"))
        with clock, too_much, kept:
            waiting = self._waiting(RequestFactory().get("/api/x"))
            with self.assertRaisesRegex(TooLargeError, "MB"), while_wanted(waiting):
                network.solve("idle")
        let_go.assert_called_once()
        self.assertGreater(resident_mb(), 10)

    def test_what_is_written_is_not_left(self) -> None:
        request = RequestFactory().post("/api/jobs/x/edits")
        request.META["waitress.client_disconnected"] = lambda: True
        with while_wanted(self._waiting(request)):
            Network(vehicle_at(demo("market-van"), "planned")).solve("idle")
