"""Instruments over HTTP: a simulated one on a real socket, and others that hang, refuse, drip or lie."""

import socket
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from threading import Thread
from time import sleep
from typing import Any
from unittest import mock
from uuid import uuid4

from django.test import override_settings

from core.tests.support.in_time import in_time
from percorso.verification.bench.scpi_meter import BenchMeter
from percorso_cli.meter import Server
from percorso_server.verification.meters.api import one_at_a_time
from percorso_server.workshop.tests.case import ShopCase
from percorso_server.workshop.turns import TURNS

AT_ONCE_S = 3.0  # within which any of them must be given up
PATIENT = mock.patch.multiple(
    "percorso_server.verification.meters.instruments", LONGEST_S=30.0, STEP_MS=30_000
)  # a slow machine is no fault


@contextmanager
def instrument(says: Callable[[str], str | None]) -> Iterator[int]:
    """A port on loopback at which an instrument answers each line with what it says; None: nothing ever."""
    listening = socket.create_server(("127.0.0.1", 0))

    def serve() -> None:
        while True:
            try:
                line, _ = listening.accept()
            except OSError:
                return
            Thread(target=answer, args=(line,), daemon=True).start()

    def answer(line: socket.socket) -> None:
        with suppress(OSError), line, line.makefile("rwb") as both:  # whoever asked may be gone
            for asked in both:
                said = says(asked.decode().strip())
                for letter in said or "":
                    both.write(letter.encode())
                    both.flush()
                    sleep(0.3 if said == DRIPS else 0)

    Thread(target=serve, daemon=True).start()
    yield listening.getsockname()[1]
    listening.close()


DRIPS = "+1.2000000000000000000E+01\n"


def _says(reading: str) -> Callable[[str], str | None]:
    return {"*IDN?": "Some,meter,1,2\n", "READ?": reading}.get


class Instruments(ShopCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.new_job()
        battery = {"kind": "battery", "capacity_ah": 70, "cold_cranking_a": 600}
        posts = {"+": "plus", "-": "minus"}
        points = {name: str(uuid4()) for name in posts.values()}
        added = [{"do": "add point", "id": each, "name": name} for name, each in points.items()]
        self.edit(self.job, *added, {"do": "add device", "name": "Battery", "terminals": posts, "spec": battery})
        self.rest = {"quantity": "voltage", "red_point": points["plus"], "black_point": points["minus"]}

    def test_one_person_reads_one_instrument_at_a_time_and_keeps_nobody_from_working(self) -> None:
        working = []

        def says(asked: str) -> str | None:
            working.append(list(TURNS._working))
            return _says("+1.2E+01\n")(asked)

        with instrument(says) as port:
            self._read(port)
            with one_at_a_time(self.person.pk):
                refused = self._read(port, status=422)
            self._read(port)
        self.assertIn("still under way", refused["message"])
        self.assertEqual([each for each in working if each], [])  # its turn was let go of meanwhile

    def _read(self, port: int, status: int = 200, **measured: Any) -> Any:
        with override_settings(INSTRUMENTS=f"Bench meter 2=127.0.0.1:{port}"):
            asked = {"name": "Bench meter 2", "measurement": self.rest | measured}
            return in_time(
                AT_ONCE_S, lambda: self.call("POST", f"/jobs/{self.job}/instruments/read", asked, status=status)
            )

    @PATIENT
    def test_a_simulated_meter_shows_what_the_network_says(self) -> None:
        """A lead battery that is full rests at 12.65 V (BCI, from memory); ±(0.5 % + 2 digits) of a meter."""
        with Server(0, BenchMeter(seed=1)) as server:
            Thread(target=server.serve_forever, daemon=True).start()
            port = server.server_address[1]
            self.assertAlmostEqual(self._read(port)["value"], 12.65, delta=0.2)
            swapped: Any = {"red_point": self.rest["black_point"], "black_point": self.rest["red_point"]}
            moved = in_time(0.2, lambda: self._read(port, **swapped))
            self.assertAlmostEqual(moved["value"], -12.65, delta=0.2)
            off = {"state": "off", "preparations": [{"do": "battery off"}]}
            self.assertEqual(self._read(port, quantity="resistance", situation=off)["outcome"], "open")
            server.shutdown()

    def test_one_that_hangs_is_given_up_in_time(self) -> None:
        for says, why in ((lambda _: None, "cannot be reached"), (_says(DRIPS), "in time")):
            with instrument(says) as port:
                self.assertIn(why, self._read(port, status=422)["message"])

    @PATIENT
    def test_one_that_shows_no_reading_is_refused(self) -> None:
        for says, why in (
            ("banana\n", 'shows no reading ("banana")'),
            ("9.91E37\n", "shows no reading"),
            ("9.9E37\n", "beyond its range"),
            ("+4.2E+09\n", "which no vehicle has"),
        ):
            with instrument(_says(says)) as port:
                self.assertIn(why, self._read(port, status=422)["message"])
        with socket.create_server(("127.0.0.1", 0)) as closed:
            port = closed.getsockname()[1]
        self.assertIn("cannot be reached", self._read(port, status=422)["message"])

    def test_nobody_makes_the_server_connect_elsewhere(self) -> None:
        asked = {"name": "127.0.0.1:22", "measurement": self.rest}
        refused = self.call("POST", f"/jobs/{self.job}/instruments/read", asked, status=422)
        self.assertEqual(refused["problems"][0]["field"], ["name"])
        self.assertEqual(self.call("GET", "/instruments"), [])
