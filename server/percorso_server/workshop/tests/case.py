"""A signed-in shop with one pump feed, shared by the tests of the API."""

import json
from typing import Any
from uuid import uuid4

from django.test import Client, TestCase

from percorso_server.workshop.models import Person, Shop

PUMP = {
    "name": "Pump feed",
    "family": "feed",
    "device": "Pump",
    "design_current_a": "20 A",
    "source_v": "13 V",
    "target_kind": "max_drop_v",
    "target_value": "0.5 V",
    "source": "Stud",
    "ground": "B− post",
    "supply_length_m": "15 ft",
    "return_length_m": "15 ft",
    "series": "awg",
}


class ShopCase(TestCase):
    """Speaks to the API as one person of one shop."""

    def setUp(self) -> None:
        self.shop = Shop.objects.create(name="Officina di prova")
        self.person = Person.objects.create_user("prova", password="una parola lunga", shop=self.shop)
        self.client.force_login(self.person)

    def call(self, method: str, path: str, body: Any = None, *, status: int = 200, key: str | None = None) -> Any:
        """The JSON answer, after checking the status."""
        headers = {"Idempotency-Key": key} if key else {}
        answer = self.client.generic(
            method, f"/api{path}", _json(body), content_type="application/json", headers=headers
        )
        self.assertEqual(answer.status_code, status, answer.content[:600])
        return answer.json()

    def new_job(self) -> str:
        """The id of a new job."""
        return str(self.call("POST", "/jobs", {"name": "Pump", "vehicle": "Tractor"})["id"])

    def new_circuit(self, job: str, **changes: Any) -> str:
        """The id of a new pump feed."""
        circuit = str(uuid4())
        self.edit(job, {"do": "lay circuit", **PUMP, **changes, "id": circuit})
        return circuit

    def edit(self, job: str, *edits: Any, seen: Any = None, status: int = 200, key: str | None = None) -> Any:
        """What carrying out edits is answered with."""
        body = {"edits": list(edits), "seen": seen or {}}
        return self.call("POST", f"/jobs/{job}/edits", body, status=status, key=key)

    def change_segment(self, job: str, segment: str, version: int, status: int = 200, **change: Any) -> Any:
        """What changing a segment of a version is answered with."""
        edit = {"do": "change segment", "segment_id": segment, "change": change}
        return self.edit(job, edit, seen={segment: version}, status=status)

    def view(self, circuit: str) -> Any:
        """A circuit as the screen gets it."""
        return self.call("GET", f"/circuits/{circuit}")

    def stranger(self) -> Client:
        """Someone signed in for another shop."""
        client = Client()
        shop = Shop.objects.create(name="Officina altra")
        client.force_login(Person.objects.create_user("altra", password="una parola lunga", shop=shop))
        return client


def _json(body: Any) -> bytes:
    return b"" if body is None else json.dumps(body).encode()
