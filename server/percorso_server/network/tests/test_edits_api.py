"""Cures, route sizes, starters and sheets over HTTP: tried without a trace, carried out whole, undone in one step."""

from random import Random
from typing import Any
from uuid import uuid4

from django.core.management import call_command

from percorso.planning.templates import STARTERS
from percorso.vehicle.states import STATES
from percorso_server.workshop.models import Person
from percorso_server.workshop.tests.case import ShopCase


def _some_change(random: Random, segment: dict[str, Any]) -> dict[str, Any]:
    """Another value for a segment of whatever kind."""
    changes: dict[str, list[dict[str, Any]]] = {
        "wire": [{"size": "0.75 mm2"}, {"size": "25 mm2"}, {"length_m": "12 m"}, {"zone": "near exhaust"}],
        "fuse": [{"fitted": False}, {"fitted": True}, {"resistance_ohm": "80 mohm"}],
    }
    usual = [{"resistance_ohm": "50 mohm"}, {"resistance_ohm": None}]
    change = random.choice(changes.get(segment["spec"]["kind"], usual))
    return {"do": "change segment", "segment_id": segment["id"], "change": change}


class Edits(ShopCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.new_job()
        self.circuit = self.new_circuit(self.job)

    def cure(self, title: str) -> dict[str, Any]:
        found = self.view(self.circuit)["findings"]
        cure: dict[str, Any] = next(each["cure"] for each in found if title in each["title"])
        return cure

    def test_a_cure_is_tried_without_a_trace_then_kept_and_undone(self) -> None:
        before = self.view(self.circuit)
        cure = self.cure("Nothing protects")
        tried = self.call("POST", f"/circuits/{self.circuit}/what-if", {"edits": cure["edits"]})
        self.assertEqual(len(tried["segments"]), len(before["segments"]) + 1)
        self.assertFalse([each for each in tried["findings"] if "Nothing protects" in each["title"]])
        self.assertEqual(self.view(self.circuit), before)
        self.edit(self.job, *cure["edits"])
        kept = [each["spec"]["kind"] for each in self.view(self.circuit)["segments"]]
        self.assertEqual(kept[0], "fuse")
        self.call("POST", f"/jobs/{self.job}/undo")
        left = [each["designation"] for each in self.view(self.circuit)["segments"]]
        self.assertEqual(left, [each["designation"] for each in before["segments"]])

    def test_what_is_tried_is_what_is_kept(self) -> None:
        """Random edits on the demo van: profile, findings, ladders, heat and checks tried are those that are saved."""
        call_command("load_demo")
        self.client.force_login(Person.objects.get(username="valbruna"))
        job = next(each["id"] for each in self.call("GET", "/jobs") if each["vehicle"] == "Mobile market van")
        lines = self.call("GET", f"/jobs/{job}")["lines"]
        for seed in range(12):
            random = Random(seed)
            circuit = random.choice(lines)["circuit"]["id"]
            before = self.view(circuit)
            edits = [_some_change(random, each) for each in random.sample(before["segments"], 2)]
            view = {"state": random.choice(STATES), "stage": "planned"}
            body = {"edits": edits, "view": view, "basis": random.choice(["design", "state"])}
            tried = self.call("POST", f"/circuits/{circuit}/what-if", body)
            drawn = self.call("POST", f"/jobs/{job}/map/what-if", {"edits": edits, "view": view})
            self.call("POST", f"/jobs/{job}/edits", {"label": "try it", "edits": edits})
            query = f"state={view['state']}&stage=planned&basis={body['basis']}"
            self.assertEqual(drawn, self.call("GET", f"/jobs/{job}/map?{query}"))
            kept = self.call("GET", f"/circuits/{circuit}?{query}")
            for part in ("profile", "findings", "ladders", "heat", "checks"):
                with self.subTest(seed, part=part, edits=edits):
                    self.assertEqual(tried[part], kept[part])

    def test_refitting_a_pulled_fuse_says_at_once_what_is_wrong_with_it(self) -> None:
        """A 5 A fuse in front of 20 A is too small (common practice), tried as well as kept."""
        first = self.view(self.circuit)["segments"][0]["id"]
        fuse = {"kind": "fuse", "rating_a": 5, "fitted": False}
        insert = {"do": "insert segment", "circuit_id": self.circuit, "beside": first, "after": False, "spec": fuse}
        self.edit(self.job, insert)
        placed = self.view(self.circuit)["segments"][0]
        fit = {"do": "change segment", "segment_id": placed["id"], "change": {"fitted": True}}
        tried = self.call("POST", f"/circuits/{self.circuit}/what-if", {"edits": [fit]})["findings"]
        self.edit(self.job, fit)
        kept = self.view(self.circuit)["findings"]
        self.assertEqual(tried, kept)
        self.assertTrue(any("5 A is too small" in each["title"] for each in kept))

    def test_all_edits_or_none(self) -> None:
        wire = self.view(self.circuit)["segments"][0]
        good = {"do": "change segment", "segment_id": wire["id"], "change": {"size": "2 AWG"}}
        for bad, status in [
            ({"do": "change segment", "segment_id": str(uuid4()), "change": {"size": "2 AWG"}}, 422),
            ({"do": "change segment", "segment_id": wire["id"], "change": {"size": "3 miles"}}, 422),
            ({"do": "split wire", "segment_id": wire["id"], "first_m": "400 ft"}, 422),
            ({"do": "set on fire", "segment_id": wire["id"]}, 422),
        ]:
            with self.subTest(bad):
                self.edit(self.job, good, bad, status=status)
                self.assertEqual(self.view(self.circuit)["segments"][0]["spec"]["size"], wire["spec"]["size"])

    def test_what_somebody_changed_meanwhile_is_not_overwritten(self) -> None:
        wire = self.view(self.circuit)["segments"][0]
        edit = {"do": "change segment", "segment_id": wire["id"], "change": {"size": "2 AWG"}}
        seen = {wire["id"]: wire["version"]}
        self.edit(self.job, edit, seen=seen)
        stale = self.edit(self.job, edit | {"change": {"size": "4 AWG"}}, seen=seen, status=409)
        self.assertEqual((stale["row"], stale["current"]["spec"]["size"]), (wire["id"], "2 AWG"))
        self.edit(self.job, edit, seen={str(uuid4()): 1}, status=404)

    def test_sizes_of_a_route_are_what_carrying_them_out_gives(self) -> None:
        circuit = self.new_circuit(self.job, name="Fan feed", device="Fan", origin="new")
        wire = self.view(circuit)["segments"][0]
        self.edit(self.job, {"do": "change segment", "segment_id": wire["id"], "change": {"size": "2/0"}})
        sizes = self.call("GET", f"/circuits/{circuit}/sizes")
        self.assertLess(sizes["copper_kg"], sizes["present_copper_kg"])
        self.assertEqual(sizes["school"], "usual")
        self.edit(self.job, *sizes["edits"])
        now = {each["id"]: each["spec"].get("size") for each in self.view(circuit)["segments"]}
        self.assertEqual({each["segment_id"]: each["size"] for each in sizes["wires"]}, now)
        self.assertEqual(self.call("GET", f"/circuits/{circuit}/sizes")["edits"], [])
        self.assertEqual(self.call("GET", f"/circuits/{self.circuit}/sizes?new_only=true")["wires"], [])

    def test_another_shop_sees_and_changes_nothing(self) -> None:
        stranger = self.stranger()
        for method, path in [
            ("get", f"/api/circuits/{self.circuit}/sizes"),
            ("get", f"/api/jobs/{self.job}/sheets"),
            ("get", f"/api/jobs/{self.job}/sheets/wires.csv"),
            ("post", f"/api/jobs/{self.job}/edits"),
        ]:
            answer = getattr(stranger, method)(path, {"edits": []}, content_type="application/json")
            with self.subTest(path):
                self.assertEqual(answer.status_code, 404)


class Starters(ShopCase):
    def test_every_starter_is_laid_in_an_empty_job_under_the_id_that_was_sent(self) -> None:
        listed = self.call("GET", "/starters")
        self.assertEqual([each["id"] for each in listed], list(STARTERS))
        for starter in listed:
            answers = {each["name"]: each["start"] for each in starter["questions"]}
            job, circuit, key = self.new_job(), str(uuid4()), str(uuid4())
            start = {"do": "start route", "starter": starter["id"], "answers": answers, "series": "awg"}
            with self.subTest(starter["id"]):
                for _ in range(2):  # sent twice, laid once
                    self.edit(job, start | {"id": circuit}, key=key)
                self.assertIn(self.view(circuit)["profile"]["verdict"]["word"], ("pass", "marginal"))
                self.call("POST", f"/jobs/{job}/undo")
                self.assertEqual(self.call("GET", f"/jobs/{job}")["lines"], [])

    def test_a_wrong_answer_is_said_beside_its_question_and_nothing_is_laid(self) -> None:
        job = self.new_job()
        start = {"do": "start route", "starter": "relay-fed-device", "answers": {"amps": "12"}}
        refused = self.edit(job, start, status=422)
        self.assertEqual(refused["problems"][0]["field"], ["amps"])
        self.edit(job, start | {"starter": "flux-capacitor"}, status=422)
        self.assertEqual(self.call("GET", f"/jobs/{job}")["points"], [])
