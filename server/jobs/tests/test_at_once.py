"""Two people at the very same moment, on a real database with real transactions."""

from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier
from typing import Any
from uuid import uuid4

from django.db import connections
from django.test import Client, TransactionTestCase

from jobs.models import Edit, Segment
from jobs.tests.case import PUMP
from workshop.models import Person, Shop

TOGETHER = 6


class AtOnce(TransactionTestCase):
    def setUp(self) -> None:
        shop = Shop.objects.create(name="Officina di prova")
        self.people = [Person.objects.create_user(f"prova{number}", shop=shop) for number in range(TOGETHER)]
        client = self._client(0)
        self.job = client.post("/api/jobs", {"name": "a", "vehicle": "b"}, content_type="application/json").json()["id"]
        self.circuit = str(uuid4())
        body = {**PUMP, "id": self.circuit}
        self.assertEqual(self._post(client, f"/jobs/{self.job}/circuits", body), 200)
        self.wire = str(Segment.objects.order_by("designation")[0].pk)

    def _client(self, number: int) -> Client:
        client = Client()
        client.force_login(self.people[number])
        return client

    def _post(self, client: Client, path: str, body: Any, method: str = "post") -> int:
        answer = getattr(client, method)(f"/api{path}", body, content_type="application/json")
        return int(answer.status_code)

    def _all_at_once(self, path: str, bodies: list[Any], method: str) -> Counter[int]:
        clients = [self._client(number) for number in range(TOGETHER)]
        start = Barrier(TOGETHER)

        def one(number: int) -> int:
            try:
                start.wait()
                return self._post(clients[number], path, bodies[number], method)
            finally:
                connections.close_all()

        with ThreadPoolExecutor(TOGETHER) as threads:
            return Counter(threads.map(one, range(TOGETHER)))

    def test_one_change_of_a_segment_wins_and_every_other_is_told(self) -> None:
        sizes = ["4 AWG", "6 AWG", "2 AWG", "1 AWG", "1/0 AWG", "2/0 AWG"]
        bodies = [{"version": 1, "spec": {"size": size}} for size in sizes]
        answers = self._all_at_once(f"/segments/{self.wire}", bodies, "patch")
        self.assertEqual(answers, {200: 1, 409: TOGETHER - 1})
        self.assertEqual(Segment.objects.get(pk=self.wire).version, 2)

    def test_points_of_different_names_all_arrive_and_of_one_name_only_one(self) -> None:
        different = [{"name": f"GND{number}"} for number in range(TOGETHER)]
        self.assertEqual(self._all_at_once(f"/jobs/{self.job}/points", different, "post"), {200: TOGETHER})
        same = [{"name": "Twice"}] * TOGETHER
        self.assertEqual(self._all_at_once(f"/jobs/{self.job}/points", same, "post"), {200: 1, 422: TOGETHER - 1})
        self.assertEqual(Edit.objects.filter(job=self.job).count(), 1 + TOGETHER + 1)

    def test_insertions_at_one_place_leave_one_whole_route(self) -> None:
        bodies = [{"beside": self.wire, "spec": {"kind": "joint"}} for _ in range(TOGETHER)]
        answers = self._all_at_once(f"/circuits/{self.circuit}/segments", bodies, "post")
        self.assertEqual(answers, {200: TOGETHER})
        view = self._client(0).get(f"/api/circuits/{self.circuit}").json()
        self.assertEqual(len(view["segments"]), 2 + TOGETHER)
        designations = [segment["designation"] for segment in view["segments"]]
        self.assertEqual(len(set(designations)), len(designations))
