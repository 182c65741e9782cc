"""One person cannot keep everybody else waiting: turns are had a few at a time, and go round."""

from threading import Event, Thread
from unittest import TestCase

from config.turns import AT_ONCE, OF_ONE, WAITING_OF_ONE, TooManyError, Turns


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
        greedy = [self._ask("anna") for _ in range(OF_ONE)]
        other = self._ask("bruno")
        self.assertEqual(len(greedy) + 1, AT_ONCE)
        self._lines = {}
        more = [self._ask("anna", waits=True)]
        self._lines = {"anna": 1}
        more.append(self._ask("anna", waits=True))
        third = self._ask("carla", waits=True)
        greedy[0].let_go()
        self.assertTrue(more[0].at_work.wait(30))  # who came first
        greedy[1].let_go()
        self.assertTrue(third.at_work.wait(30))  # then who had no turn yet, before the same person's next
        self.assertFalse(more[1].at_work.is_set())
        for each in (other, third, more[0]):
            each.let_go()
        more[1].let_go()
        self.assertEqual(self.began, ["anna", "anna", "bruno", "anna", "carla", "anna"])

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
        with self.turns.turn("anna"), self.turns.turn("anna"):
            with self.turns.apart("anna"):
                self._ask("anna").let_go()
            self.assertEqual(self.turns._working, {"anna": 2})
        self.assertEqual(self.turns._working, {})
