"""Two people at the very same moment, on a real database with real transactions."""

from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier
from typing import Any
from unittest.mock import patch
from uuid import uuid4

from django.db import OperationalError, connection, connections
from django.test import Client, TransactionTestCase

from percorso.planning.templates import lay_starter
from percorso_server.jobs.models import Edit, Point, Segment
from percorso_server.network import reading, solving
from percorso_server.workshop.models import Person, Shop
from percorso_server.workshop.tests.case import PUMP

TOGETHER = 6


class AtOnce(TransactionTestCase):
    added = False  # whether somebody else has been faster already

    def setUp(self) -> None:
        shop = Shop.objects.create(name="Officina di prova")
        self.people = [Person.objects.create_user(f"prova{number}", shop=shop) for number in range(TOGETHER)]
        client = self._client(0)
        self.job = client.post("/api/jobs", {"name": "a", "vehicle": "b"}, content_type="application/json").json()["id"]
        self.circuit = str(uuid4())
        self.assertEqual(self._post(client, *self._edit({"do": "lay circuit", **PUMP, "id": self.circuit})), 200)
        self.wire = str(Segment.objects.order_by("designation")[0].pk)

    def _edit(self, edit: dict[str, Any], seen: dict[str, int] | None = None) -> tuple[str, Any]:
        """Where an edit goes, and how."""
        return f"/jobs/{self.job}/edits", {"edits": [edit], "seen": seen or {}}

    def _all_edit(self, edits: list[dict[str, Any]], seen: dict[str, int] | None = None) -> Counter[int]:
        """Every one carries out an edit of their own at the same moment."""
        return self._all_at_once(f"/jobs/{self.job}/edits", [self._edit(each, seen)[1] for each in edits])

    def _client(self, number: int) -> Client:
        client = Client()
        client.force_login(self.people[number])
        return client

    def _post(self, client: Client, path: str, body: Any) -> int:
        answer = client.post(f"/api{path}", body, content_type="application/json")
        return int(answer.status_code)

    def _all_at_once(self, path: str, bodies: list[Any]) -> Counter[int]:
        clients = [self._client(number) for number in range(TOGETHER)]
        start = Barrier(TOGETHER)

        def one(number: int) -> int:
            try:
                start.wait()
                return self._post(clients[number], path, bodies[number])
            finally:
                connections.close_all()

        with ThreadPoolExecutor(TOGETHER) as threads:
            return Counter(threads.map(one, range(TOGETHER)))

    def test_what_the_database_gives_up_is_tried_again_and_written_once(self) -> None:
        """A deadlock, and a connection that is lost in the middle; what will not pass is told at once."""
        for code, times, status in ((1213, 2, 200), (2013, 3, 200), (1213, 9, 503), (1142, 1, 503)):
            left = [times]

            def gives_up(execute: Any, sql: str, *rest: Any, left: list[int] = left, code: int = code) -> Any:
                if sql.startswith("INSERT INTO `jobs_point`") and left[0]:
                    left[0] -= 1
                    raise OperationalError(code, "given up")
                return execute(sql, *rest)

            name = f"Point {code} {times}"
            with (
                self.subTest(name),
                connection.execute_wrapper(gives_up),
                patch("percorso_server.config.again.time.sleep"),
            ):
                self.assertEqual(self._post(self._client(0), *self._edit({"do": "add point", "name": name})), status)
            self.assertEqual(Point.objects.filter(name=name).count(), 1 if status == 200 else 0)

    def test_one_change_of_a_segment_wins_and_every_other_is_told(self) -> None:
        sizes = ["4 AWG", "6 AWG", "2 AWG", "1 AWG", "1/0 AWG", "2/0 AWG"]
        edits = [{"do": "change segment", "segment_id": self.wire, "change": {"size": size}} for size in sizes]
        answers = self._all_edit(edits, {self.wire: 1})
        self.assertEqual(answers, {200: 1, 409: TOGETHER - 1})
        self.assertEqual(Segment.objects.get(pk=self.wire).version, 2)

    def test_points_of_different_names_all_arrive_and_of_one_name_only_one(self) -> None:
        different = [{"do": "add point", "name": f"GND{number}"} for number in range(TOGETHER)]
        self.assertEqual(self._all_edit(different), {200: TOGETHER})
        same = [{"do": "add point", "name": "Twice"}] * TOGETHER
        self.assertEqual(self._all_edit(same), {200: 1, 422: TOGETHER - 1})
        self.assertEqual(Edit.objects.filter(job=self.job).count(), 1 + TOGETHER + 1)

    def test_one_new_id_sent_at_once_is_made_once_and_everybody_gets_the_same(self) -> None:
        new = str(uuid4())
        jobs = [{"id": new, "name": "one", "vehicle": "and the same"}] * TOGETHER
        self.assertEqual(self._all_at_once("/jobs", jobs), {200: TOGETHER})
        lamp = {"do": "lay circuit", **PUMP, "id": str(uuid4()), "name": "Lamp", "device": "Lamp"}
        before = Segment.objects.filter(live=True).count()
        self.assertEqual(self._all_edit([lamp] * TOGETHER), {200: TOGETHER})
        self.assertEqual(Segment.objects.filter(live=True).count(), before + 2)
        drop = {"quantity": "voltage", "value": "0.2 V"} | self._ends()
        reading = {"id": str(uuid4()), "measurement": drop, "circuit_id": self.circuit, "current_a": "20 A"}
        said = self._all_at_once(f"/jobs/{self.job}/readings", [reading] * TOGETHER)
        self.assertEqual(said, {200: TOGETHER})

    def _ends(self) -> dict[str, str]:
        wire = Segment.objects.get(pk=self.wire)
        return {"red_point": str(wire.from_point_id), "black_point": str(wire.to_point_id)}

    def test_an_id_of_another_shop_is_not_said_to_be_used(self) -> None:
        stranger = Client()
        other = Shop.objects.create(name="Officina altra")
        stranger.force_login(Person.objects.create_user("altra", shop=other))
        answer = stranger.post(
            "/api/jobs", {"id": self.job, "name": "a", "vehicle": "b"}, content_type="application/json"
        )
        self.assertEqual(answer.status_code, 422)
        self.assertNotIn("already", answer.content.decode())
        self.assertEqual(answer.json()["problems"][0]["field"], ["id"])

    def test_a_network_is_read_as_it_is_at_one_moment(self) -> None:
        """A device with points of its own is added while the network is read: it is seen whole or not at all."""

        solving._KEPT.clear()  # as a server that did not write it reads it
        with_points = reading._with_points

        def meanwhile(job: Any) -> Any:
            rows = with_points(job)
            if not self.added:
                self.added = True
                spec = {"kind": "resistive", "rated_v": "12 V", "rated_a": "5 A"}
                heater = {"do": "add device", "name": "Heater", "terminals": {"+": "here", "-": "there"}, "spec": spec}
                with ThreadPoolExecutor(1) as thread:
                    thread.submit(self._alone, *self._edit(heater)).result()
            return rows

        with patch("percorso_server.network.reading._with_points", meanwhile):
            answer = self._client(0).get(f"/api/jobs/{self.job}")
        self.assertEqual((answer.status_code, self.added), (200, True))
        self.assertEqual(answer.json()["devices"], [])
        self.assertEqual(len(self._client(0).get(f"/api/jobs/{self.job}").json()["devices"]), 1)

    def _alone(self, path: str, body: Any) -> None:
        try:
            self.assertEqual(self._post(self._client(1), path, body), 200)
        finally:
            connections.close_all()

    def test_a_job_is_not_locked_while_a_route_is_computed(self) -> None:
        """Somebody else adds a point while a template is laid; both are written."""

        def meanwhile(*arguments: Any) -> Any:
            if not self.added:
                self.added = True
                with ThreadPoolExecutor(1) as thread:
                    point = {"do": "add point", "name": "Meanwhile"}
                    thread.submit(self._alone, *self._edit(point)).result(timeout=20)
            return lay_starter(*arguments)

        with patch("percorso.planning.apply.lay_starter", meanwhile):
            start = {"do": "start route", "starter": "relay-fed-device"}
            self.assertEqual(self._post(self._client(0), *self._edit(start)), 200)
        points = [each["name"] for each in self._client(0).get(f"/api/jobs/{self.job}").json()["points"]]
        self.assertLessEqual({"Meanwhile", "Fan +"}, set(points))

    def test_insertions_at_one_place_leave_one_whole_route(self) -> None:
        place = {"circuit_id": self.circuit, "beside": self.wire, "after": True}
        answers = self._all_edit([{"do": "insert segment", **place, "spec": {"kind": "joint"}}] * TOGETHER)
        self.assertEqual(answers, {200: TOGETHER})
        view = self._client(0).get(f"/api/circuits/{self.circuit}").json()
        self.assertEqual(len(view["segments"]), 2 + TOGETHER)
        designations = [segment["designation"] for segment in view["segments"]]
        self.assertEqual(len(set(designations)), len(designations))
