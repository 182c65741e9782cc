"""The sheets over HTTP on a real database: alike on screen and as CSV, of one's own shop alone, and of an empty job."""

import csv
import io
from pathlib import Path
from typing import get_args
from uuid import uuid4

from percorso.sheets.job_sheets import SheetName
from percorso_server.workshop.models import Person, Shop
from percorso_server.workshop.tests.case import ShopCase

VAN = Path(__file__).parents[4] / "demo" / "market-van.json"


class SheetsOverHttp(ShopCase):
    def test_each_sheet_is_the_same_on_screen_and_as_csv(self) -> None:
        file = VAN.read_bytes()
        answer = self.client.post(f"/api/job-files?id={uuid4()}", file, content_type="application/json")
        job = answer.json()["id"]
        sheets = self.call("GET", f"/jobs/{job}/sheets")
        self.assertEqual([each["name"] for each in sheets], list(get_args(SheetName)))
        for sheet in sheets:
            name, rows = sheet["name"], sheet["rows"]
            text = self.client.get(f"/api/jobs/{job}/sheets/{name}.csv")
            self.assertIn(f"{name}.csv", text.headers["Content-Disposition"])
            listed = list(csv.reader(io.StringIO(text.content.decode("utf-8"))))
            self.assertEqual(len(listed), 1 + len(rows), name)
            self.assertTrue(rows, name)
        self.assertIn("W12", {row[0]["text"] for row in sheets[0]["rows"]})
        other = Person.objects.create_user("altra", password="una parola lunga", shop=Shop.objects.create(name="Altra"))
        self.client.force_login(other)
        self.call("GET", f"/jobs/{job}/sheets", status=404)
        self.call("GET", f"/jobs/{job}/sheets/wires.csv", status=404)

    def test_an_empty_job_has_empty_sheets_and_no_other_than_these(self) -> None:
        job = self.new_job()
        self.assertFalse(any(each["rows"] for each in self.call("GET", f"/jobs/{job}/sheets")))
        self.call("GET", f"/jobs/{job}/sheets/prices.csv", status=422)
