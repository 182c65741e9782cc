"""The demo shop over the API: every job in every state at both stages, and rows that were written before."""

from importlib import import_module
from typing import Any

from django.core.management import call_command
from django.db import connection
from django.test.utils import CaptureQueriesContext

from jobs.tests.case import ShopCase
from percorso.specs import SEGMENT_SPEC
from percorso.states import STATES
from percorso.vehicle import STAGES
from workshop.models import Person


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
                            self.assertEqual(line["live"] is None, line["why_not"] != "")
                        first = board["lines"][0]["circuit"]["id"]
                        view = self.call("GET", f"/circuits/{first}?state={state}&stage={stage}&basis=state")
                        self.assertEqual(view["why_not"], board["lines"][0]["why_not"])

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
        self.assertLessEqual(len(first), 13)
        self.assertLessEqual(len(second), 4)  # the network is kept; only session, person, shop and job are asked for

    def test_readings_stand_on_the_profile_of_their_own_stage(self) -> None:
        job = self.jobs["Vineyard tractor"]
        for stage, word in (("found", "as expected"), ("planned", "as expected")):
            readings = self.call("GET", f"/jobs/{job}/readings?state=cranking&stage={stage}&basis=state")
            ground = next(each for each in readings if each["value_v"] == 1.28)
            self.assertEqual((ground["stage"], ground["judgement"]["compared"]), ("found", word))
        shown = self.call("GET", f"/jobs/{job}/readings?state=cranking&stage=found&basis=state")
        mark = next(each for each in shown if each["value_v"] == 1.28)["mark"]
        self.assertAlmostEqual(mark["drop_v"], 1.28 / 195 * 222, delta=0.02)  # at the 222 A that flow through J1


class RowsFromBefore(ShopCase):
    def test_specs_written_before_there_were_switches_and_splices_are_read(self) -> None:
        renamed = import_module("jobs.migrations.0004_carry_over").renamed
        for old, kind in (
            ({"kind": "contact", "condition": "relay", "rated_a": 40, "typed": {}}, "relay contact"),
            ({"kind": "contact", "condition": "switch", "resistance_ohm": 0.01}, "switch"),
            ({"kind": "joint", "condition": "crimped splice"}, "splice"),
            ({"kind": "joint", "condition": "ring on clean stud"}, "joint"),
        ):
            self.assertEqual(SEGMENT_SPEC.validate_python(renamed(old)).kind, kind)
