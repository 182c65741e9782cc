"""What takes long is asked of a process apart, and given up with whoever waits for it."""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from socket import AF_UNIX, socket
from threading import Thread
from unittest import mock
from uuid import uuid4

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.test import Client, RequestFactory, SimpleTestCase, override_settings

from percorso_server.config.apart import Apart
from percorso_server.workshop.turns import hand_on

ANSWER = b"HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: 2\r\nConnection: close\r\n\r\n[]"


@contextmanager
def process_apart(*says: bytes) -> Iterator[list[bytes]]:
    """Something on a socket that answers one request after the other, and what it was asked; nothing is hung up on."""
    heard: list[bytes] = []
    with tempfile.TemporaryDirectory() as folder, socket(AF_UNIX) as listening:
        path = str(Path(folder, "apart"))
        listening.bind(path)
        listening.listen()

        def answer() -> None:
            for each in says:
                asked, _ = listening.accept()
                with asked, suppress(BrokenPipeError):  # who asked may have gone
                    heard.append(asked.recv(65536))
                    asked.sendall(each)

        thread = Thread(target=answer, daemon=True)
        thread.start()
        with override_settings(APART=[path]):
            yield heard
        thread.join(30)


class ComputedApart(SimpleTestCase):
    def setUp(self) -> None:
        self.job, self.here = str(uuid4()), list[str]()

    def _ask(self, path: str, is_long: bool = False, **more: str) -> HttpResponse:
        def answer(request: HttpRequest) -> HttpResponse:
            self.here.append(request.path)
            return hand_on(HttpResponse(status=202)) if is_long else HttpResponse("here")

        return Apart(answer)(RequestFactory(headers=more).get(f"/api/jobs/{self.job}/{path}"))

    def test_rooms_that_take_long_are_asked_for_apart_as_they_were_asked_for_here(self) -> None:
        with process_apart(ANSWER) as heard:
            response = self._ask("pulled?stage=found", cookie="sessionid=1")
        self.assertEqual((response.status_code, response.content, self.here), (200, b"[]", []))
        self.assertTrue(heard[0].startswith(f"GET /api/jobs/{self.job}/pulled?stage=found HTTP".encode()))
        self.assertIn(b"sessionid=1", heard[0])
        self.assertEqual(response.headers["Content-Type"], "application/json")

    def test_others_are_asked_for_here_and_handed_on_where_they_take_long(self) -> None:
        with process_apart():
            self.assertEqual(self._ask("tests").content, b"here")
        with process_apart(ANSWER) as heard:
            self.assertEqual(self._ask("tests", is_long=True).content, b"[]")
        self.assertEqual((len(heard), len(self.here)), (1, 2))

    def test_a_process_that_ends_is_asked_once_more_in_its_successor_and_then_given_up(self) -> None:
        with process_apart(b"", ANSWER):
            self.assertEqual(self._ask("proof").content, b"[]")
        with process_apart(b"", b""):
            response = self._ask("proof")
        self.assertEqual((response.status_code, response.headers["Retry-After"]), (503, "1"))

    def test_nobody_asks_on_for_who_has_gone(self) -> None:
        with process_apart(ANSWER), mock.patch("percorso_server.config.apart.select", return_value=([], [], [])):
            request = RequestFactory().get(f"/api/jobs/{self.job}/trace")
            request.META["waitress.client_disconnected"] = lambda: True
            self.assertEqual(Apart(lambda _: HttpResponse("here"))(request).status_code, 503)

    def test_without_processes_apart_all_is_answered_here(self) -> None:
        self.assertEqual(settings.APART, [])
        self.assertEqual(Client().get(f"/api/jobs/{self.job}/pulled").status_code, 401)
