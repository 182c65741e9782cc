"""Percorso on the shop's network: https by the shop's own authority, http led there, and clients that pretend."""

import http.client
import json
import os
import shutil
import ssl
import tempfile
import time
from pathlib import Path
from typing import Any, ClassVar, cast
from unittest import TestCase, mock

from ops.application import Application
from ops.fronts.balancer import Balancer
from ops.fronts.lan import Front
from ops.processes.ports import free_port
from ops.trials.started import lay_started

OF_AN_ADDRESS = 20  # wrong sign-ins, after which it has to wait


class NoNodes:
    """A group of database nodes that has none: only the servers are asked for."""

    nodes: tuple[Any, ...] = ()

    def __init__(self) -> None:
        self.port = free_port()


class BehindABalancer(TestCase):
    def test_what_a_client_says_of_its_address_does_not_count(self) -> None:
        state = Path(tempfile.mkdtemp(prefix="percorso-balanced-"))
        self.addCleanup(shutil.rmtree, state, ignore_errors=True)
        with mock.patch.dict(os.environ, PERCORSO_PROXIES="1"):
            lay_started(state)
            application = Application(state, free_port(), demo=True)
            self.addCleanup(application.stop)
            application.start()
        balancer = Balancer(state, free_port(), application.web, cast(Any, NoNodes()))
        self.addCleanup(balancer.stop)
        balancer.start()
        balancer.wait_until_served()
        answers = []
        for number in range(OF_AN_ADDRESS + 1):
            connection = http.client.HTTPConnection("127.0.0.1", balancer.port, timeout=20)
            connection.request("GET", "/api/session")
            cookie = (connection.getresponse().headers["Set-Cookie"] or "").split(";")[0]
            tried = json.dumps({"username": f"nobody{number}", "password": "wrong"})
            pretends = {"X-Forwarded-For": f"203.0.113.{number}", "X_Forwarded_For": f"203.0.113.{number}"}
            sent = {"X-CSRFToken": cookie.split("=")[1], "Cookie": cookie, "Content-Type": "application/json"}
            connection.close()
            connection.request("POST", "/api/session", tried, {**sent, **pretends})
            answers.append(connection.getresponse().status)
            connection.close()
        self.assertEqual(answers, [401] * OF_AN_ADDRESS + [429])


class OnTheNetwork(TestCase):
    application: ClassVar[Application]
    front: ClassVar[Front]

    @classmethod
    def setUpClass(cls) -> None:
        state = Path(tempfile.mkdtemp(prefix="percorso-lan-"))
        cls.addClassCleanup(shutil.rmtree, state, ignore_errors=True)
        ports = {"PERCORSO_HTTPS_PORT": str(free_port()), "PERCORSO_HTTP_PORT": str(free_port())}
        with mock.patch.dict(os.environ, {**ports, "PERCORSO_ADDRESS": "127.0.0.1"}):
            lay_started(state)
            cls.application = Application(state, free_port(), demo=True, lan=True)
        assert cls.application.front
        cls.front = cls.application.front
        cls.addClassCleanup(cls.application.stop)
        cls.application.start()
        deadline = time.monotonic() + 30
        while not cls.front.authority.exists() and time.monotonic() < deadline:
            time.sleep(0.1)

    def _ask(
        self, method: str, path: str, body: bytes | None = None, **headers: str
    ) -> tuple[int, http.client.HTTPMessage, bytes]:
        """Over https, trusting the shop's authority alone."""
        trusting = ssl.create_default_context(cafile=str(self.front.authority))
        connection = http.client.HTTPSConnection("127.0.0.1", self.front.https_port, timeout=20, context=trusting)
        try:
            connection.request(method, path, body, headers)
            answer = connection.getresponse()
            return answer.status, answer.headers, answer.read()
        finally:
            connection.close()

    def _plain(self, path: str) -> tuple[int, http.client.HTTPMessage, bytes]:
        connection = http.client.HTTPConnection("127.0.0.1", self.front.http_port, timeout=20)
        try:
            connection.request("GET", path)
            answer = connection.getresponse()
            return answer.status, answer.headers, answer.read()
        finally:
            connection.close()

    def test_https_answers_http_leads_there_and_the_authority_can_be_fetched(self) -> None:
        status, headers, body = self._ask("GET", "/healthz")
        self.assertEqual((status, json.loads(body)["database"]), (200, "ok"))
        self.assertIn("max-age", headers["Strict-Transport-Security"])
        status, headers, _ = self._plain("/jobs/1?x=2")
        self.assertEqual((status, headers["Location"]), (301, f"{self.front.origin}/jobs/1?x=2"))
        self.assertEqual(self._plain("/authority.crt")[2], self.front.authority.read_bytes())
        with self.assertRaises(ssl.SSLCertVerificationError):
            http.client.HTTPSConnection("127.0.0.1", self.front.https_port, timeout=20).request("GET", "/")
        self.assertIn(self.front.origin, self.front.greeting())

    def test_what_a_client_says_of_its_address_does_not_count_and_nothing_huge_gets_in(self) -> None:
        first, headers, _ = self._ask("GET", "/api/session")
        self.assertEqual(first, 200)
        cookie = headers["Set-Cookie"].split(";")[0]
        self.assertIn("Secure", headers["Set-Cookie"])
        sent = {
            "X-CSRFToken": cookie.split("=")[1],
            "Cookie": cookie,
            "Referer": self.front.origin + "/",
        }
        sent["Content-Type"] = "application/json"
        answers = []
        for number in range(OF_AN_ADDRESS + 1):
            tried = json.dumps({"username": f"nobody{number}", "password": "wrong"}).encode()
            pretends = {**sent, "X-Forwarded-For": f"203.0.113.{number}"}
            answers.append(self._ask("POST", "/api/session", tried, **pretends)[0])
        self.assertEqual(answers, [401] * OF_AN_ADDRESS + [429])
        try:
            status = self._ask("POST", "/api/session", b"x" * 17_000_000, **sent)[0]
        except OSError:
            status = 413  # cut off before all of it was sent
        self.assertEqual(status, 413)
