"""The load budget over HTTP on a real database: an empty job filled, tried, undone, taken in and out as a file."""

import json
from pathlib import Path
from typing import Any
from uuid import uuid4

from percorso_server.workshop.tests.case import ShopCase

VAN = Path(__file__).parents[4] / "demo" / "market-van.json"
BATTERY = {"name": "Battery", "spec": {"kind": "battery", "capacity_ah": 95, "cold_cranking_a": "760 A"}}
ALTERNATOR = {
    "name": "Alternator",
    "spec": {"kind": "alternator", "setpoint_v": "14.2 V", "at_1800_a": "45 A", "at_6000_a": "110 A"},
}


class LoadBudget(ShopCase):
    def budget(self, job: str, drive: str = "") -> Any:
        return self.call("GET", f"/jobs/{job}/budget" + (f"?drive={drive}" if drive else ""))

    def test_from_an_empty_job(self) -> None:
        """1 800 rpm idling, 30 + 45 °C in summer: 45 A · (1 − 0.0025 · 50) = 39.4 A for a heater of 142 W at 14.2 V."""
        job = self.new_job()
        self.assertIn("Say what battery", self.budget(job)["advice"]["says"])
        for device in (BATTERY, ALTERNATOR):
            self.edit(job, {"do": "add device", **device})
        heater = {"kind": "resistive", "rated_v": "14.2 V", "rated_w": "142 W", "priority": "comfort"}
        edits = [{"do": "add device", "name": "Seat heaters", "spec": heater}]
        self.call("POST", f"/jobs/{job}/edits", {"label": "add Seat heaters", "edits": edits})
        found = self.budget(job)
        [load] = found["loads"]
        self.assertEqual((load["drawn_a"], load["group"], load["circuit"], load["wired"]), (10, "Comfort", None, False))
        idle = next(each for each in found["balances"] if each["scenario"]["id"] == "idle-day-summer")
        self.assertAlmostEqual(idle["capability_a"], 39.375)
        self.assertAlmostEqual(idle["margin_a"], 29.375, places=3)
        self.call("POST", f"/jobs/{job}/undo")
        self.assertEqual(self.budget(job)["loads"], [])

    def van(self) -> str:
        answer = self.client.post(f"/api/job-files?id={uuid4()}", VAN.read_bytes(), content_type="application/json")
        self.assertEqual(answer.status_code, 200)
        return str(answer.json()["id"])

    def test_the_van_tries_a_cure_without_writing_and_comes_out_as_it_went_in(self) -> None:
        job = self.van()
        found = self.budget(job)
        self.assertEqual(found["driven"]["drive"]["name"], "Winter market round")
        short = [each["scenario"]["id"] for each in found["balances"] if each["verdict"] == "fail"]
        self.assertEqual(short, ["idle-night-winter"])
        cure = found["advice"]["cures"][0]
        tried = self.call("POST", f"/jobs/{job}/budget/what-if", {"edits": cure["edits"]})
        self.assertNotIn("fail", {each["verdict"] for each in tried["balances"]})
        self.assertGreater(tried["driven"]["gained_percent"], found["driven"]["gained_percent"])
        self.assertEqual(self.budget(job), found)
        file = self.client.get(f"/api/jobs/{job}/file").json()
        before = json.loads(VAN.read_text(encoding="utf-8"))
        self.assertEqual(file["drives"][0]["spells"], before["drives"][0]["spells"])
        self.assertEqual(file["scenarios"], before["scenarios"])
        copied = str(uuid4())
        self.call("POST", f"/jobs/{job}/duplicate", {"id": copied, "name": "Second", "vehicle": "Van"})
        both = (self.budget(copied)["driven"]["charge_percent"], found["driven"]["charge_percent"])
        for its, the_first in zip(*both, strict=True):  # sums in another order of ids
            self.assertAlmostEqual(its, the_first, places=9)

    def test_own_scenarios_and_drives_are_kept_changed_and_undone(self) -> None:
        job, scenario, drive = self.van(), str(uuid4()), str(uuid4())
        ids = {each["name"]: each["id"] for each in self.budget(job)["loads"]}
        values = {"name": "Night stand", "state": "accessory", "outside_c": "-3 C", "duty_percent": {}}
        values["duty_percent"] = {ids["Radio"]: 50, ids["Till"]: 0}
        own = {"do": "set scenario", "scenario_id": scenario, **values}
        self.edit(job, own)
        self.edit(job, own, seen={scenario: 7}, status=409)
        spells = [{"name": "stand", "minutes": 60, "scenario": scenario}]
        stand = {"do": "set drive", "drive_id": drive, "name": "Stand", "spells": spells}
        self.edit(job, stand)
        driven = self.budget(job, drive)["driven"]
        self.assertAlmostEqual(driven["taken_a"][0], 0.5 * 25 / driven["battery_v"][0], delta=0.02)
        self.edit(job, {"do": "remove scenario", "scenario_id": scenario}, seen={scenario: 1}, status=422)
        self.edit(job, stand | {"spells": [spells[0] | {"minutes": 90}]}, seen={drive: 1})
        self.assertEqual(self.budget(job, drive)["driven"]["minute"][-1], 90)
        self.edit(job, {"do": "remove drive", "drive_id": drive}, seen={drive: 2})
        self.call("GET", f"/jobs/{job}/budget?drive={drive}", status=422)
        for _ in range(2):
            self.call("POST", f"/jobs/{job}/undo")
        self.assertEqual(self.budget(job, drive)["driven"]["minute"][-1], 60)

    def test_a_ledger_file_is_shown_first_and_written_whole_or_not_at_all(self) -> None:
        job = self.van()
        text = self.client.get(f"/api/jobs/{job}/loads.csv").content.decode()
        shown = self.call("POST", f"/jobs/{job}/loads/preview", {"text": text})
        self.assertEqual({each["does"] for each in shown["lines"]}, {"leave"})
        self.assertEqual(shown["edits"], [])
        more = text + "Horn,,safety,motor,13.5,,60,,,,,,1,road,day night,summer winter rain\r\n"
        wrong = more + "Fan,,,motor,13.5,,,,,,,,120,,,\r\n"
        told = self.call("POST", f"/jobs/{job}/loads/preview", {"text": wrong}, status=422)
        self.assertEqual(told["problems"][0]["field"], ["line 14, rated_a"])
        self.assertNotIn("Horn", [each["name"] for each in self.budget(job)["loads"]])
        shown = self.call("POST", f"/jobs/{job}/loads/preview", {"text": more})
        self.edit(job, *shown["edits"], seen=shown["seen"])
        self.assertIn("Horn", [each["name"] for each in self.budget(job)["loads"]])
        self.call("POST", f"/jobs/{job}/undo")
        self.assertNotIn("Horn", [each["name"] for each in self.budget(job)["loads"]])

    def test_another_shop_sees_and_changes_nothing(self) -> None:
        job, stranger = self.van(), self.stranger()
        for path in (f"jobs/{job}/budget", f"jobs/{job}/loads.csv", f"jobs/{job}/typical-consumers"):
            self.assertEqual(stranger.get(f"/api/{path}").status_code, 404)
        for path, body in (("budget/what-if", {"edits": []}), ("loads/preview", {"text": ""})):
            answer = stranger.post(f"/api/jobs/{job}/{path}", body, content_type="application/json")
            self.assertEqual(answer.status_code, 404)

    def test_several_loads_are_changed_together_or_not_at_all(self) -> None:
        job = self.van()
        loads = {each["name"]: each for each in self.budget(job)["loads"]}
        both = [loads["Radio"], loads["Blower"]]

        def edits(percent: float) -> list[dict[str, Any]]:
            change = {"duty_percent": percent}
            return [{"do": "change device", "device_id": each["id"], "change": change} for each in both]

        seen = {each["id"]: each["version"] for each in both}
        body = {"label": "change 2 loads", "edits": edits(30), "seen": seen}
        self.call("POST", f"/jobs/{job}/edits", body)
        self.call("POST", f"/jobs/{job}/edits", body, status=409)
        self.call("POST", f"/jobs/{job}/edits", {"label": "x", "edits": [*edits(20)[:1], *edits(300)[1:]]}, status=422)
        after = {each["name"]: each["spec"]["duty_percent"] for each in self.budget(job)["loads"]}
        self.assertEqual((after["Radio"], after["Blower"]), (30, 30))
        gone = [{"do": "remove device", "device_id": each["id"]} for each in both]
        self.call("POST", f"/jobs/{job}/edits", {"label": "delete 2 loads", "edits": gone})
        self.assertEqual(len(self.budget(job)["loads"]), len(loads) - 2)
        self.call("POST", f"/jobs/{job}/undo")
        self.assertEqual({each["name"] for each in self.budget(job)["loads"]}, set(loads))

    def test_wrong_values_are_refused_beside_their_field(self) -> None:
        job = self.van()
        found = self.budget(job)
        load, alternator = found["loads"][0], found["alternator"]
        for device, spec, field in (
            (load, {"rated_w": "60 W", "rated_v": None}, "rated_v"),
            (load, {"duty_percent": 101}, "duty_percent"),
            (load, {"efficiency": 1.2}, "efficiency"),
            (load, {"measured_a": "7,5 A"}, "measured_a"),
            (load, {"seasons": ["spring"]}, "seasons"),
            (alternator, {"at_6000_a": "30 A"}, "at_6000_a"),
            (alternator, {"engine_idle_rpm": None}, "engine_idle_rpm"),
            (alternator, {"output": "fast"}, "output"),
        ):
            edit = {"do": "change device", "device_id": device["id"], "change": spec}
            told = self.edit(job, edit, status=422)["problems"][0]
            self.assertEqual(told["field"][:2], ["spec", field], spec)
        wrong: tuple[tuple[str, Any, list[str | int]], ...] = (
            ("scenario", {"name": "x", "state": "idle", "outside_c": "hot"}, ["outside_c"]),
            ("scenario", {"name": "x", "state": "flying", "outside_c": 5}, ["state"]),
            ("drive", {"name": "x", "spells": []}, ["spells"]),
            (
                "drive",
                {"name": "x", "spells": [{"name": "a", "minutes": 5, "scenario": "moon"}]},
                ["spells", 0, "scenario"],
            ),
        )
        for kind, values, place in wrong:
            edit = {"do": f"set {kind}", f"{kind}_id": str(uuid4()), **values}
            told = self.edit(job, edit, status=422)["problems"][0]
            self.assertEqual(told["field"], place)
        self.assertEqual(self.budget(job), found)

    def test_the_house_says_how_much_is_kept_for_charging(self) -> None:
        job = self.van()
        before = self.budget(job)["advice"]["smallest"]
        rules = self.call("GET", "/house-rules")
        self.call("PUT", "/house-rules", rules | {"charging_reserve_percent": "50 %"})
        after = self.budget(job)["advice"]["smallest"]
        self.assertGreater(after["at_1800_a"], before["at_1800_a"])

    def test_the_board_says_what_no_circuit_feeds_and_a_route_wires_it(self) -> None:
        job = self.van()
        titles = [each["title"] for each in self.call("GET", f"/jobs/{job}/plan-findings")]
        [title] = [each for each in titles if each.startswith("No circuit feeds")]
        self.assertIn("Radio", title)
        answers = {"name": "Radio", "amps": "1.9 A"}
        self.edit(job, {"do": "start route", "starter": "relay-fed-device", "answers": answers})
        radio = next(each for each in self.budget(job)["loads"] if each["name"] == "Radio")
        self.assertEqual((radio["circuit"], radio["wired"], radio["design_current_a"]), ("Radio feed", True, 1.9))
        self.assertEqual(radio["spec"]["rated_w"], 25)

    def test_typical_consumers_fit_the_nominal_voltage(self) -> None:
        job = str(self.call("POST", "/jobs", {"name": "Lorry", "vehicle": "Lorry", "nominal_v": 24})["id"])
        listed = self.call("GET", f"/jobs/{job}/typical-consumers")
        self.assertEqual({each["rated_v"] for each in listed}, {27})
        wipers = next(each for each in listed if each["name"] == "Wipers")
        spec = {name: wipers[name] for name in ("kind", "rated_v", "rated_w", "seasons")}
        edits = [{"do": "add device", "name": "Wipers", "spec": spec}]
        self.call("POST", f"/jobs/{job}/edits", {"label": "add Wipers", "edits": edits})
        [load] = self.budget(job)["loads"]
        self.assertAlmostEqual(load["drawn_a"], wipers["rated_w"] / 27)
