"""The demo shop over the API: every job in every state at both stages, and rows that were written before."""

from importlib import import_module
from typing import Any
from uuid import uuid4

from django.core.management import call_command
from django.db import connection
from django.test.utils import CaptureQueriesContext

from percorso.vehicle.model import STAGES
from percorso.vehicle.segments import SEGMENT_SPEC
from percorso.vehicle.states import STATES
from percorso_server.workshop.models import Person
from percorso_server.workshop.tests.case import ShopCase

LISTS = ("plan-findings", "readings", "budget", "sheets", "file", "states", "proof", "pulled", "drive")


class DemoShop(ShopCase):
    def setUp(self) -> None:
        call_command("load_demo")
        self.client.force_login(Person.objects.get(username="valbruna"))
        self.jobs = {each["vehicle"]: each["id"] for each in self.call("GET", "/jobs")}

    def board(self, vehicle: str, query: str) -> Any:
        return self.call("GET", f"/jobs/{self.jobs[vehicle]}?{query}")

    def test_every_screen_answers_in_every_state_at_both_stages(self) -> None:
        self.assertEqual(next(iter(self.jobs)), "Mobile market van")  # the one to look at first
        for vehicle in self.jobs:
            for stage in STAGES:
                for state in STATES:
                    with self.subTest(vehicle, stage=stage, state=state):
                        board = self.board(vehicle, f"state={state}&stage={stage}")
                        self.assertTrue(board["moment"]["is_fed"])
                        for line in board["lines"]:
                            self.assertEqual(line["shown"] is None, line["silent"] != "")
                        first = board["lines"][0]["circuit"]["id"]
                        view = self.call("GET", f"/circuits/{first}?state={state}&stage={stage}&basis=state")
                        self.assertIn(view["why_not"], ("", board["lines"][0]["silent"]))

    def test_every_list_of_every_job_answers(self) -> None:
        for vehicle, job in self.jobs.items():
            for stage in STAGES:
                for path in LISTS:
                    with self.subTest(vehicle, stage=stage, path=path):
                        answer = self.client.get(f"/api/jobs/{job}/{path}?stage={stage}")
                        self.assertEqual(answer.status_code, 200)
                        self.assertEqual(answer.headers["Cache-Control"], "no-store")
            for line in self.board(vehicle, "state=idle")["lines"]:
                self.call("GET", f"/circuits/{line['circuit']['id']}/sizes")

    def test_how_cold_each_starter_still_cranks(self) -> None:
        """The tractor's battery does not do on the house's coldest morning, the minibus's new one does."""
        colder = {}
        for vehicle in self.jobs:
            lines = self.board(vehicle, "state=cranking")["lines"]
            of_starter = next(each["circuit"] for each in lines if each["circuit"]["family"] == "starting")
            cold = self.call("GET", f"/circuits/{of_starter['id']}/cold?stage=planned")
            colder[vehicle] = cold["starter"]["coldest_c"] - cold["coldest_morning_c"]
            self.assertEqual(cold["starter"]["limit"], "battery")
            other = next(each["circuit"] for each in lines if each["circuit"]["family"] == "feed")
            self.assertIsNone(self.call("GET", f"/circuits/{other['id']}/cold")["starter"])
        self.assertGreater(colder["Vineyard tractor"], 0)
        self.assertLess(colder["School minibus"], 0)

    def test_two_findings_are_a_list_and_not_a_status(self) -> None:
        """The minibus as found has exactly two."""
        found = self.call("GET", f"/jobs/{self.jobs['School minibus']}/plan-findings?stage=found")
        self.assertEqual(len(found), 2)

    def test_copying_a_job_costs_the_same_however_large_it_is(self) -> None:
        counts = {}
        for vehicle in ("Mobile market van", "Vineyard tractor"):
            with CaptureQueriesContext(connection) as queries:
                copy = {"id": str(uuid4()), "name": "Copy", "vehicle": vehicle}
                self.call("POST", f"/jobs/{self.jobs[vehicle]}/duplicate", copy)
            counts[vehicle] = len(queries)
        self.assertLessEqual(max(counts.values()), 48, counts)
        self.assertLessEqual(abs(counts["Mobile market van"] - counts["Vineyard tractor"]), 8, counts)

    def test_zones_that_are_not_said_keep_their_temperature(self) -> None:
        job = self.jobs["School minibus"]
        version = next(each["version"] for each in self.call("GET", "/jobs") if each["id"] == job)
        for change, cabin in (({}, 50), ({"cabin": 35}, 35), ({"outside": 20}, 35)):
            stored = self.call("PATCH", f"/jobs/{job}", {"version": version, "zone_temperature_c": change})
            version = stored["version"]
            self.assertEqual(set(stored["zone_temperature_c"]), {"cabin", "engine bay", "near exhaust", "outside"})
            self.assertEqual(stored["zone_temperature_c"]["cabin"], cabin)
            for path in ("", "/sheets", "/budget", "/plan-findings"):
                self.call("GET", f"/jobs/{job}{path}")

    def test_the_board_says_what_the_work_changes(self) -> None:
        board = self.board("Vineyard tractor", "state=cranking&stage=planned")
        ground = next(each for each in board["lines"] if each["circuit"]["name"] == "Engine ground")
        self.assertGreater(ground["difference"]["found_drop_v"], 1.2)
        self.assertLess(ground["difference"]["planned_drop_v"], 0.3)
        bypass = next(each for each in board["lines"] if each["circuit"]["name"] == "Charge bypass")
        self.assertIsNone(bypass["difference"]["found_drop_v"])
        self.assertTrue(board["moment"]["changed"])

    def test_a_state_costs_no_more_queries_than_the_rows(self) -> None:
        with CaptureQueriesContext(connection) as first:
            self.board("School minibus", "state=road")
        with CaptureQueriesContext(connection) as second:
            self.board("School minibus", "state=cranking")
        self.assertLessEqual(len(first), 12)
        self.assertLessEqual(len(second), 4)  # the network is kept; only session, person, shop and job are asked for

    def test_readings_stand_on_the_profile_of_their_own_stage(self) -> None:
        job = self.jobs["Vineyard tractor"]
        for stage, word in (("found", "as expected"), ("planned", "as expected")):
            readings = self.call("GET", f"/jobs/{job}/readings?state=cranking&stage={stage}&basis=state")
            ground = next(each for each in readings if each["measurement"]["value"] == 1.28)
            self.assertEqual(ground["measurement"]["situation"]["stage"], "found")
            self.assertEqual(ground["judged"]["drop"]["compared"], word)
        shown = self.call("GET", f"/jobs/{job}/readings?state=cranking&stage=found&basis=state")
        mark = next(each for each in shown if each["measurement"]["value"] == 1.28)["mark"]
        self.assertAlmostEqual(mark["drop_v"], 1.28 / 195 * 222, delta=0.02)  # at the 222 A that flow through J1


class RowsFromBefore(ShopCase):
    def test_specs_written_before_there_were_switches_and_splices_are_read(self) -> None:
        renamed = import_module("percorso_server.jobs.migrations.0004_carry_over").renamed
        for old, kind in (
            ({"kind": "contact", "condition": "relay", "rated_a": 40, "typed": {}}, "relay contact"),
            ({"kind": "contact", "condition": "switch", "resistance_ohm": 0.01}, "switch"),
            ({"kind": "joint", "condition": "crimped splice"}, "splice"),
            ({"kind": "joint", "condition": "ring on clean stud"}, "joint"),
        ):
            self.assertEqual(SEGMENT_SPEC.validate_python(renamed(old)).kind, kind)
