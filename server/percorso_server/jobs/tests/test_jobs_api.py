"""Jobs over HTTP: open, rename, duplicate, archive."""

from datetime import timedelta
from io import StringIO
from urllib.parse import urlencode

from django.core.management import call_command
from django.utils import timezone

from percorso_server.jobs.api import PAGE
from percorso_server.jobs.models import Edit, Job
from percorso_server.workshop.models import Shop
from percorso_server.workshop.tests.case import ShopCase


class Jobs(ShopCase):
    def test_rename_and_archive_against_the_version_seen(self) -> None:
        job = self.new_job()
        self.call("PATCH", f"/jobs/{job}", {"version": 1, "name": "Pump, renewed"})
        stale = self.call("PATCH", f"/jobs/{job}", {"version": 1, "name": "Other"}, status=409)
        self.assertEqual(stale["current"]["name"], "Pump, renewed")
        self.call("PATCH", f"/jobs/{job}", {"version": 2, "archived": True})
        self.assertEqual(self.call("GET", "/jobs"), [])
        self.assertEqual(self.call("GET", "/jobs?archived=true")[0]["id"], job)

    def test_a_duplicate_is_equal_and_independent(self) -> None:
        job = self.new_job()
        circuit = self.new_circuit(job)
        copy = self.call("POST", f"/jobs/{job}/duplicate", {"name": "Pump, copy", "vehicle": "Tractor"})["id"]
        twin = self.call("GET", f"/jobs/{copy}")["lines"][0]
        self.assertAlmostEqual(twin["shown"]["total_drop_v"], self.view(circuit)["profile"]["total_drop_v"], places=12)
        wire = self.view(twin["circuit"]["id"])["segments"][0]["id"]
        self.change_segment(str(copy), wire, 1, size="2 AWG")
        self.assertEqual(self.view(circuit)["segments"][0]["spec"]["size"], "8 AWG")

    def _found(self, text: str, **more: str) -> list[str]:
        asked = urlencode({"search": text, **more})
        return [each["id"] for each in self.call("GET", f"/jobs?{asked}")]

    def test_a_job_is_found_by_its_vehicle_its_parts_and_what_was_noted(self) -> None:
        pump, lorry = self.new_job(), self.call("POST", "/jobs", {"name": "Ökologia", "vehicle": "Lorry"})["id"]
        self.edit(pump, {"do": "add point", "name": "Engine block, left"})
        self.new_circuit(pump)
        red, black = (each["id"] for each in self.call("GET", f"/jobs/{pump}")["points"][:2])
        measured = {"quantity": "voltage", "red_point": red, "black_point": black, "value": 0.4}
        note = "Corroded under its grease"
        self.call("POST", f"/jobs/{pump}/readings", {"measurement": measured, "note": note})
        for text, jobs in (
            ("TRAC", [pump]),
            ("öko lor", [lorry]),
            ("engine le", [pump]),
            ("W1", [pump]),
            ("corroded", [pump]),
            ("corroded lorry", []),
            ("xyz", []),
            ("%", [lorry, pump]),
        ):
            with self.subTest(text):
                self.assertCountEqual(self._found(text), jobs)
        block = next(each for each in self.call("GET", f"/jobs/{pump}")["points"] if "block" in each["name"])
        self.edit(pump, {"do": "remove point", "point_id": block["id"]})
        self.assertEqual(self._found("engine"), [])
        self.assertEqual(self._found("", nominal_v="24"), [])

    def test_a_long_list_comes_in_pages(self) -> None:
        shop = Shop.objects.get()
        Job.objects.bulk_create(Job(shop=shop, name=f"Job {number}", vehicle="Van") for number in range(PAGE + 3))
        pages = [[each["id"] for each in self.call("GET", f"/jobs?page={page}")] for page in (1, 2, 3)]
        self.assertEqual([len(each) for each in pages], [PAGE, 3, 0])
        self.assertEqual(len(set().union(*pages)), PAGE + 3)
        self.call("GET", "/jobs?page=0", status=422)

    def test_what_is_old_is_cleared_and_the_rest_stays(self) -> None:
        job = self.new_job()
        for name in ("Stud", "Post"):
            self.edit(job, {"do": "add point", "name": name})
        Edit.objects.filter(pk=Edit.objects.earliest("made_at").pk).update(made_at=timezone.now() - timedelta(days=200))
        call_command("tidy", stdout=StringIO())
        self.assertEqual(Edit.objects.count(), 1)
        self.assertEqual(len(self.call("GET", f"/jobs/{job}")["points"]), 2)

    def test_bad_values_name_their_fields(self) -> None:
        refused = self.call("POST", "/jobs", {"name": " ", "vehicle": "x" * 81, "nominal_v": 13}, status=422)
        fields = [problem["field"] for problem in refused["problems"]]
        self.assertEqual(fields, [["name"], ["vehicle"], ["nominal_v"]])
        self.assertEqual(self.call("GET", "/jobs"), [])

    def test_quantities_are_understood_as_the_core_does(self) -> None:
        self.assertEqual(self.call("GET", "/understand?kind=length&text=30 ft")["shown"], "9.14 m · 30.0 ft")
        self.assertEqual(self.call("GET", "/understand?kind=size&text=10ga")["shown"], "10 AWG · 5.26 mm²")
        self.assertIn("no unit", self.call("GET", "/understand?kind=length&text=30", status=422)["message"])
