"""Tracing over HTTP: from what a customer says and from readings of the log to the part; other shops see nothing."""

import json
from typing import Any
from unittest import mock
from uuid import uuid4

from django.test import Client

from core.tests.support.demo import DEMO
from percorso.tracing.batch import Batch
from percorso_server.jobs.models import Job
from percorso_server.network import solving
from percorso_server.network.solving import network_for_reading
from percorso_server.verification.tracing.prefetcher import PREFETCHER
from percorso_server.workshop.models import Person
from percorso_server.workshop.tests.case import ShopCase

BATTERY = {"kind": "battery", "capacity_ah": 70, "cold_cranking_a": 600}


class Traced(ShopCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.new_job()
        self.circuit = self.new_circuit(self.job, device_kind="pump")
        posts = {"+": "Stud", "-": "B− post"}
        self.edit(self.job, {"do": "add device", "name": "Battery", "terminals": posts, "spec": BATTERY})

    def _traced(self, status: int = 200, **asked: Any) -> Any:
        return self.call("POST", f"/jobs/{self.job}/trace", asked, status=status)

    def _pump(self) -> str:
        devices = self.call("GET", f"/jobs/{self.job}")["devices"]
        return str(next(each["designation"] for each in devices if each["spec"]["kind"] == "motor"))

    def test_a_dead_pump_is_traced_to_its_wire_through_the_log(self) -> None:
        """Said dead; 12.6 V at the stud and nothing at the pump: the one wire between them, or nothing of it."""
        pump = self._pump()
        said = [{"symptom": "device dead", "device": pump}]
        first = self._traced(said=said)
        self.assertEqual([each["says"].endswith("dead") for each in first["known"]], [True])
        self.assertGreater(len(first["next"]), 0)
        self.assertIn("probability", first["next"][0]["tells"][0])
        view = self.view(self.circuit)
        red, black = view["supply_stations"][-1], view["return_stations"][-1]
        situation = first["next"][0]["test"]["measurement"]["situation"]
        measured = {
            "quantity": "voltage",
            "red_point": red,
            "black_point": black,
            "situation": situation,
            "value": 0.001,
        }
        logged = self.call("POST", f"/jobs/{self.job}/readings", {"measurement": measured})
        then = self._traced(said=said, reading_ids=[logged["id"], str(uuid4())])
        self.assertEqual([each["reading_id"] for each in then["known"]], [None, logged["id"]])
        before, after = (
            sum(each["probability"] for each in found["suspects"] if each["fault"] == "open" and "W" in each["name"])
            for found in (first, then)
        )
        self.assertGreater(after, before)
        again = self._traced(said=said)
        self.assertEqual(again["suspects"], first["suspects"])
        more = self._traced(said=said, suspected=[pump])
        was, now = (
            next(each["probability"] for each in found["parts"] if each["designation"] == pump)
            for found in (first, more)
        )
        self.assertAlmostEqual(now / (1 - now), 5 * was / (1 - was), delta=0.1 * now)
        mended = [{"part": pump, "before": []}]
        since = self._traced(said=said, reading_ids=[logged["id"]], mended=mended)
        self.assertEqual([each["mended"] for each in since["known"]], [None, pump, None])
        self.assertNotIn(pump, [each["name"].split()[0] for each in since["parts"]])
        self.assertGreater(since["parts"][0]["probability"], 0.3)
        gone = self._traced(said=[*said, {"symptom": "device dead", "device": "E99"}], mended=[{"part": "W99"}])
        self.assertEqual([bool(each["doubt"]) for each in gone["known"]], [False, True, True])
        self.assertEqual(gone["suspects"], first["suspects"])

    def test_a_test_that_cannot_be_made_is_left_out(self) -> None:
        said = [{"symptom": "device dead", "device": self._pump()}]
        first = self._traced(said=said)["next"][0]["test"]
        for why in ("not now", "cannot reach"):
            left_out = {"measurement": first["measurement"], "why": why, "reach_min": None}
            step = {"do": "leave out", "left_out": left_out}
            case = self.call("POST", f"/jobs/{self.job}/cases/planned/steps", step)
            self.assertEqual([each["why"] for each in case["left_out"]], [why])
            then = self._traced(said=said, left_out=case["left_out"])
            self.assertNotIn(first["title"], [each["test"]["title"] for each in then["next"]][: 3 if "r" in why else 1])
            self.assertIn(why, then["left_out"][0]["says"])
            self.assertAlmostEqual(then["spent_min"], first["minutes"], delta=1.0)
        taken = self.call("POST", f"/jobs/{self.job}/cases/planned/steps", step | {"do": "take up"})
        self.assertEqual(taken["left_out"], [])

    def test_a_relay_is_told_with_the_piece_that_is_suspected(self) -> None:
        """A minibus whose blower is dead: what is said of its relay is of contact and coil, each by its own name."""
        file = json.loads((DEMO / "school-minibus.json").read_text())
        job = self.call("POST", f"/job-files?id={uuid4()}", file)["id"]
        found = self.call("POST", f"/jobs/{job}/trace", {"said": [{"symptom": "device dead", "device": "M3"}]})
        relays = {each["part"] for each in found["parts"] if each["designation"].startswith("K")}
        pieces = {(each["unit"] in relays, each["piece"]) for each in found["suspects"] if each["name"].startswith("K")}
        self.assertEqual(pieces, {(True, "coil"), (True, "contact")})

    def test_what_is_known_says_what_was_done_to_the_metal_for_it(self) -> None:
        devices = self.call("GET", f"/jobs/{self.job}")["devices"]
        pump = next(each["designation"] for each in devices if each["spec"]["kind"] == "motor")
        situation = {"stage": "planned", "state": "on", "preparations": [{"do": "unplug", "part": pump}]}
        view = self.view(self.circuit)
        ends = {"red_point": view["supply_stations"][-1], "black_point": view["return_stations"][-1]}
        measured = {"quantity": "voltage", **ends, "situation": situation, "value": 12.6}
        logged = self.call("POST", f"/jobs/{self.job}/readings", {"measurement": measured})
        [known] = self._traced(reading_ids=[logged["id"]])["known"]
        self.assertTrue(known["says"].endswith(f", on, {pump} unplugged: 12.6 V"), known["says"])

    def test_what_comes_next_is_computed_while_one_looks_at_an_answer(self) -> None:
        """No fault is solved any more in a state of which a customer speaks; only with a suspect on trial."""
        devices = self.call("GET", f"/jobs/{self.job}")["devices"]
        pump = next(each["designation"] for each in devices if each["spec"]["kind"] == "motor")
        self._traced()
        PREFETCHER.wait()
        solve = Batch.solve_together
        with mock.patch.object(Batch, "solve_together", autospec=True, side_effect=solve) as solving:
            self._traced(said=[{"symptom": "gauges die when the key is turned", "device": pump}])
        solved = [batch.situation for batch, which in (each.args for each in solving.call_args_list) if which.size]
        self.assertEqual([each for each in solved if not each.preparations], [])

    def test_only_of_the_jobs_that_were_traced_last_it_is_kept_what_traces_them(self) -> None:
        first, copy = self.job, {"id": str(uuid4()), "name": "Two", "vehicle": "Van"}
        other = self.call("POST", f"/jobs/{first}/duplicate", copy)

        def is_kept(job: str) -> bool:
            return bool(network_for_reading(Job.objects.get(pk=job), self.shop.house_rules).tracers)

        with mock.patch.object(solving._TRACED, "most", 1):
            self._traced()
            self.assertTrue(is_kept(first))
            self.job = other["id"]
            self._traced()
        self.assertEqual([is_kept(each) for each in (first, self.job)], [False, True])

    def test_what_cannot_be_traced_says_which_field(self) -> None:
        refused = self._traced(said=[{"symptom": "device dead"}], status=422)
        self.assertEqual(refused["problems"][0]["field"], ["device"])
        self._traced(said=[{"symptom": "squeaks"}], status=422)
        empty = self.new_job()
        refused = self.call("POST", f"/jobs/{empty}/trace", {}, status=422)
        self.assertIn("nothing feeds", refused["message"])

    def test_a_case_is_kept_for_the_shop(self) -> None:
        url = f"/jobs/{self.job}/cases/found"
        self.assertEqual([*self.call("GET", url).values()], [0, *[[]] * 6])
        devices = self.call("GET", f"/jobs/{self.job}")["devices"]
        pump = next(each for each in devices if each["spec"]["kind"] == "motor")
        seen = {
            "quantity": "seen",
            "device": pump["id"],
            "outcome": "dead",
            "situation": {"stage": "found", "state": "on"},
        }
        logged = self.call("POST", f"/jobs/{self.job}/readings", {"measurement": seen})
        named, read = pump["designation"], logged["id"]
        said = {"symptom": "device dead", "device": named}
        key = str(uuid4())
        for step in (
            {"do": "say", "said": said},
            {"do": "count", "reading": read},
            {"do": "doubt", "reading": read},
            {"do": "mend", "part": named},
            {"do": "suspect", "part": named},
        ):
            kept = self.call("POST", f"{url}/steps", step)
        case = {
            "version": 5,
            "said": [said | {"stood_h": None, "still": None}],
            "readings": [read],
            "doubted": [read],
            "suspected": [named],
            "left_out": [],
        }
        case["mended"] = [{"part": named, "before": [read]}]
        self.assertEqual((kept, self.call("GET", url)), (case, case))
        for _ in range(2):  # sent again after a lost answer
            kept = self.call("POST", f"{url}/steps", {"do": "trust", "reading": read}, key=key)
        self.assertEqual(kept, case | {"version": 6, "doubted": []})
        colleague = Client()
        colleague.force_login(Person.objects.create_user("altra mano", password="una parola lunga", shop=self.shop))
        theirs = {"do": "suspect", "part": "W1"}
        colleague.post(f"/api{url}/steps", json.dumps(theirs), content_type="application/json")
        kept = self.call("POST", f"{url}/steps", {"do": "unsay", "said": said})  # of what was drawn before theirs
        self.assertEqual((kept["said"], kept["suspected"]), ([], [named, "W1"]))
        self.call("POST", f"{url}/steps", {"do": "say", "said": {"symptom": "squeaks"}}, status=422)
        for number in range(2, 10):
            self.call("POST", f"{url}/steps", {"do": "suspect", "part": f"W{number}"})
        refused = self.call("POST", f"{url}/steps", {"do": "suspect", "part": "W10"}, status=422)
        self.assertEqual(refused["problems"][0]["field"], ["suspected"])
        self.assertEqual(self.call("POST", f"{url}/steps", {"do": "begin"})["readings"], [])

    def test_a_write_for_somebody_else_is_refused(self) -> None:
        """Who waited with it signed out meanwhile, and another person of the shop signed in."""
        seen = {"quantity": "voltage", "red_point": str(uuid4()), "situation": {"state": "on"}, "value": 12}
        body = json.dumps({"measurement": seen})
        for speaks_for, status in (("chi%20era%20qui", 401), ("prova", 422), (None, 422)):
            headers = {"X-Percorso-Person": speaks_for} if speaks_for else {}
            answer = self.client.post(f"/api/jobs/{self.job}/readings", body, "application/json", headers=headers)
            self.assertEqual((answer.status_code, answer.json()["code"] == "somebody-else"), (status, status == 401))

    def test_what_can_be_said_and_of_what(self) -> None:
        said = {each["symptom"]: each["of"] for each in self.call("GET", "/symptoms")}
        self.assertEqual(said["fuse keeps blowing"], "a fuse")
        self.assertEqual(said["device runs on"], "a device")
        self.assertEqual(said["cranks slowly"], "the vehicle")

    def test_another_shop_sees_nothing_of_it(self) -> None:
        stranger = self.stranger()
        answer = stranger.post(f"/api/jobs/{self.job}/trace", "{}", content_type="application/json")
        self.assertEqual(answer.status_code, 404)
        self.assertEqual(stranger.get(f"/api/jobs/{self.job}/cases/found").status_code, 404)
