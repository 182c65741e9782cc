"""What is live when over HTTP on a real database: from the demo, from an empty job, and asked wrongly."""

from pathlib import Path
from uuid import uuid4

from percorso_server.workshop.tests.case import ShopCase

DEMO = Path(__file__).parents[4] / "demo"


class States(ShopCase):
    def open(self, name: str) -> str:
        file = (DEMO / f"{name}.json").read_bytes()
        answer = self.client.post(f"/api/job-files?id={uuid4()}", file, content_type="application/json")
        self.assertEqual(answer.status_code, 200)
        return str(answer.json()["id"])

    def test_the_minibus_is_found_wrong_tried_and_said_to_be_mended(self) -> None:
        job = self.open("school-minibus")
        rows = self.call("GET", f"/jobs/{job}/states?stage=found")["rows"]
        valve = next(each for each in rows if each["designation"] == "Y1")
        self.assertEqual([each["state"] for each in valve["cells"] if each["is_wrong"]], ["road"])
        proof = self.call("GET", f"/jobs/{job}/proof?stage=found")
        worst = proof["forbidden"][0]
        self.assertEqual(worst["says"], "Lift valve is on while driving; it must be off.")
        self.assertTrue(worst["gone_as_planned"])
        path = [each["designation"] for each in (*worst["why"]["out"], *worst["why"]["back"])]
        self.assertEqual(path, ["W1", "F6", "W16", "K6", "W30", "W22", "W23", "B1", "J1", "W2"])
        self.assertEqual(self.call("GET", f"/jobs/{job}/proof")["forbidden"], [])
        segments = {each["designation"]: each["id"] for each in self.call("GET", f"/jobs/{job}")["segments"]}
        keep = {"do": "set fate", "segment_id": segments["W30"], "fate": "kept"}
        tried = self.call("POST", f"/jobs/{job}/proof/what-if", {"edits": [keep]})
        self.assertIn("W30 taken off", [each["effect"] for each in tried["forbidden"][0]["cures"]])
        self.assertEqual(self.call("GET", f"/jobs/{job}/proof")["forbidden"], [])

    def test_pulling_a_drive_and_a_why(self) -> None:
        job = self.open("market-van")
        [pulled] = [each for each in self.call("GET", f"/jobs/{job}/pulled") if each["designation"] == "F7"]
        self.assertEqual([(each["name"], each["effect"]) for each in pulled["effects"]], [("Cold box", "goes dead")])
        drive = self.call("GET", f"/jobs/{job}/drive?stage=found")
        self.assertEqual([each["running_on"] for each in drive["steps"]], [False] * 5 + [True])
        pump = next(each["id"] for each in drive["rows"] if each["name"] == "Fuel pump")
        why = self.call("GET", f"/jobs/{job}/states/why/{pump}?state=idle")
        self.assertEqual([each["says"] for each in why["held"][0]["why"]["held"]], ["key on", "Oil pressure: on"])

    def test_what_is_done_to_the_metal_is_seen_on_a_circuit_and_nowhere_kept(self) -> None:
        job = self.open("school-minibus")
        lines = self.call("GET", f"/jobs/{job}")["lines"]
        circuit = next(each["circuit"]["id"] for each in lines if each["circuit"]["name"] == "Heater pump")
        offers = {each["says"]: each["text"] for each in self.call("GET", f"/circuits/{circuit}/preparations")}
        self.assertLessEqual({"pull F6", "lift W17", "jumper across K6", "battery off"}, set(offers))
        runs = {}
        for says in ("pull F6", "jumper across K6", "lamp in place of F6"):
            view = f"/circuits/{circuit}?basis=state&state=off&preparations={offers[says].replace(' ', '%20')}"
            runs[says] = self.call("GET", view)["device_now"]
        self.assertEqual(runs["pull F6"], "Heater pump: off, 0.0 V")
        self.assertRegex(runs["jumper across K6"], r"Heater pump: on, 12\.[0-9] V")
        before = self.call("GET", f"/jobs/{job}/file")
        self.assertNotIn("jumper", str(before))

    def test_from_an_empty_job_to_what_must_rest_set_where_it_is_seen(self) -> None:
        job = self.new_job()
        self.call("GET", f"/jobs/{job}/states", status=422)
        self._lamp(job)
        wrong = self.call("GET", f"/jobs/{job}/proof")["forbidden"]
        self.assertEqual(wrong, [])
        [row] = [each for each in self.call("GET", f"/jobs/{job}/states")["rows"] if each["group"] == "consumer"]
        rest = {"do": "change device", "device_id": row["id"], "change": {"rests_in": ["off"]}}
        self.edit(job, rest, seen={row["id"]: row["version"]})
        [found] = self.call("GET", f"/jobs/{job}/proof")["forbidden"]
        self.assertEqual(
            (found["says"], found["way"]), ("Lamp is on with the key off; it must be off.", ["Door: open"])
        )
        fixed = {"do": "change input", "input_id": "door", "name": "Door", "positions": ["shut", "open"]}
        seen = {"door": self.call("GET", f"/jobs/{job}/states")["inputs"][0]["version"]}
        self.edit(job, {**fixed, "fixed_in": ["off"]}, seen=seen)
        self.assertEqual(self.call("GET", f"/jobs/{job}/proof")["forbidden"], [])
        self.call("POST", f"/jobs/{job}/undo")
        self.assertEqual(len(self.call("GET", f"/jobs/{job}/proof")["forbidden"]), 1)

    def _lamp(self, job: str) -> None:
        """A lamp on the battery through a door contact."""
        battery = {"kind": "battery", "capacity_ah": 60, "cold_cranking_a": "500 A"}
        lamp = {"kind": "filament lamp", "rated_v": "12 V", "rated_a": "2 A"}
        door = {"kind": "switch", "input": "door", "closed_in": ["open"]}
        ends = {"from_point": str(uuid4()), "to_point": str(uuid4())}
        self.edit(
            job,
            {"do": "add point", "id": ends["from_point"], "name": "plus"},
            {"do": "add point", "id": ends["to_point"], "name": "lamp"},
            {"do": "add input", "id": "door", "name": "Door", "positions": ["shut", "open"]},
            {"do": "add device", "name": "Battery", "spec": battery, "terminals": {"+": "plus", "-": "minus"}},
            {"do": "add device", "name": "Lamp", "spec": lamp, "terminals": {"+": "lamp", "-": "minus"}},
            {"do": "add segment", **ends, "spec": door},
        )

    def test_what_is_asked_wrongly_is_named(self) -> None:
        job = self.open("school-minibus")
        for path, field in (
            ("states?inputs=door", "inputs"),
            ("states?inputs=heater=hot", "inputs"),
            ("states?preparations=pull%20F99", "preparations"),
            ("states?preparations=pull%20W3", "preparations"),
            ("states?preparations=bridge%20main%20main", "preparations"),
            ("states?preparations=dance", ""),
            ("drive?way=off,on,idle", "way"),
            ("drive?way=off,fast", "way"),
            ("states/why/nothing", "part"),
        ):
            with self.subTest(path):
                problem = self.call("GET", f"/jobs/{job}/{path}", status=422)["problems"][0]
                self.assertEqual((problem["field"] or [""])[0], field)
        for path in ("states", "proof", "pulled", "drive"):
            self.assertEqual(self.stranger_asks(job, path), 404)

    def stranger_asks(self, job: str, path: str) -> int:
        self.other = getattr(self, "other", None) or self.stranger()
        return int(self.other.get(f"/api/jobs/{job}/{path}").status_code)
