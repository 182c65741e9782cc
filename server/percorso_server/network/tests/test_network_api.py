"""Editing a job's network over HTTP on a real database: what is written, refused, kept and undone."""

from typing import Any
from uuid import uuid4

from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext

from percorso_server.jobs.models import Edit, Segment
from percorso_server.workshop.tests.case import PUMP, ShopCase


class Laying(ShopCase):
    def test_a_circuit_is_laid_sized_and_found_again(self) -> None:
        """20 A, 30 ft out and back at 50 °C: 2.73 mΩ/m are allowed; the handbook's 8 AWG, 2.061 at 20 °C, fits."""
        circuit = self.new_circuit(self.new_job())
        view = self.view(circuit)
        self.assertEqual([part["spec"]["size"] for part in view["segments"]], ["8 AWG", "8 AWG"])
        self.assertEqual(view["segments"][0]["spec"]["typed"], {"length_m": "15 ft"})
        self.assertEqual(view["circuit"]["typed"]["design_current_a"], "20 A")
        warm = 1 + 0.00393 * (view["profile"]["legs"][0]["copper_c"] - 20)
        self.assertAlmostEqual(view["profile"]["total_drop_v"], 20 * 9.144 * 2.061e-3 * warm, places=3)
        self.assertTrue(1.1179 < warm < 1.14, warm)
        self.assertEqual(view["profile"]["verdict"]["word"], "pass")
        self.assertIn("Nothing protects", view["findings"][0]["title"])

    def test_what_if_computes_and_writes_nothing(self) -> None:
        circuit = self.new_circuit(self.new_job())
        wire = self.view(circuit)["segments"][0]
        tried = self.call(
            "POST",
            f"/circuits/{circuit}/what-if",
            {"edits": [{"do": "change segment", "segment_id": wire["id"], "change": {"size": "12 AWG"}}]},
        )
        self.assertEqual(tried["profile"]["verdict"]["word"], "fail")
        self.assertEqual(self.view(circuit)["segments"][0]["spec"]["size"], "8 AWG")

    def test_points_and_segments_are_shared_between_circuits(self) -> None:
        job = self.new_job()
        first = self.view(self.new_circuit(job))
        other = self.new_circuit(job, name="Fan feed", device="Fan")
        path = self.view(other)["circuit"]
        shared = first["circuit"]["return_path"]
        route = {
            "do": "route circuit",
            "circuit_id": other,
            "source_point": path["source_point"],
            "supply": path["supply"],
            "return_point": first["circuit"]["return_point"],
            "return_path": shared,
        }
        self.edit(job, route, seen={other: path["version"]})
        self.assertEqual(self.view(other)["segments"][1]["shared_with"], ["Pump feed"])

    def test_the_map_is_empty_and_then_has_what_was_laid(self) -> None:
        job = self.new_job()
        self.assertEqual(self.call("GET", f"/jobs/{job}/map")["points"], [])
        circuit = self.new_circuit(job)
        drawn = self.call("GET", f"/jobs/{job}/map")
        self.assertEqual(len(drawn["segments"]), 2)
        self.assertEqual({each["line"]["drawn_as"] for each in drawn["segments"]}, {"idle"})
        self.assertEqual(len(self.call("GET", f"/jobs/{job}/map/sheets?paper=A3")["tiles"]), 1)
        self.assertEqual(self.call("GET", f"/jobs/{job}/map?folded={circuit}")["segments"], [])

    def test_a_view_costs_few_queries(self) -> None:
        circuit = self.new_circuit(self.new_job())
        with CaptureQueriesContext(connection) as asked:
            self.view(circuit)
        self.assertLessEqual(len(asked), 13)


class Editing(ShopCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.new_job()
        self.circuit = self.new_circuit(self.job)

    def _insert(self, **changes: Any) -> str:
        wire = self.view(self.circuit)["circuit"]["supply"][0]
        piece = str(uuid4())
        fuse = {"id": piece, "beside": wire, "after": False, "spec": {"kind": "fuse", "rating_a": "25 A"}}
        self.edit(self.job, {"do": "insert segment", "circuit_id": self.circuit, **fuse, **changes})
        return piece

    def test_insert_change_move_delete_and_undo(self) -> None:
        wire = self.view(self.circuit)["circuit"]["supply"][0]
        fuse = self._insert()
        self.assertEqual(self.view(self.circuit)["circuit"]["supply"], [fuse, wire])
        self.assertEqual([part["designation"] for part in self.view(self.circuit)["segments"]], ["F1", "W1", "W2"])
        self.change_segment(self.job, fuse, 1, rating_a=30)
        self.edit(self.job, {"do": "move segment", "circuit_id": self.circuit, "segment_id": fuse, "steps": 1})
        self.assertEqual(self.view(self.circuit)["circuit"]["supply"], [wire, fuse])
        version = next(part["version"] for part in self.view(self.circuit)["segments"] if part["id"] == fuse)
        self.edit(self.job, {"do": "remove segment", "segment_id": fuse}, seen={fuse: version})
        self.assertEqual(self.view(self.circuit)["circuit"]["supply"], [wire])
        for expected in ([wire, fuse], [fuse, wire]):
            self.call("POST", f"/jobs/{self.job}/undo")
            self.assertEqual(self.view(self.circuit)["circuit"]["supply"], expected)
        self.call("POST", f"/jobs/{self.job}/undo")
        self.assertEqual(self.view(self.circuit)["segments"][0]["spec"]["rating_a"], 25)
        self.call("POST", f"/jobs/{self.job}/redo")
        self.assertEqual(self.view(self.circuit)["segments"][0]["spec"]["rating_a"], 30)

    def test_undo_of_everything_leaves_an_empty_job_and_redo_fills_it_again(self) -> None:
        self._insert()
        for _ in range(2):
            self.call("POST", f"/jobs/{self.job}/undo")
        self.assertEqual(self.call("GET", f"/jobs/{self.job}")["lines"], [])
        self.assertEqual(self.call("POST", f"/jobs/{self.job}/undo", status=422)["code"], "nothing-to-undo")
        for _ in range(2):
            self.call("POST", f"/jobs/{self.job}/redo")
        self.assertEqual(len(self.view(self.circuit)["segments"]), 3)

    def test_a_stale_write_gets_the_current_row_and_changes_nothing(self) -> None:
        wire = self.view(self.circuit)["segments"][0]["id"]
        self.change_segment(self.job, wire, 1, size="6 AWG")
        stale = self.change_segment(self.job, wire, 1, 409, size="4 AWG")
        self.assertEqual(stale["row"], wire)
        self.assertEqual((stale["current"]["spec"]["size"], stale["current"]["version"]), ("6 AWG", 2))
        self.assertEqual(self.view(self.circuit)["segments"][0]["spec"]["size"], "6 AWG")

    def test_a_change_sent_twice_is_written_once(self) -> None:
        key = str(uuid4())
        wire = self.view(self.circuit)["segments"][0]["id"]
        edit = {"do": "change segment", "segment_id": wire, "change": {"size": "6 AWG"}}
        for _ in range(2):
            self.edit(self.job, edit, seen={wire: 1}, key=key)
        self.assertEqual(self.view(self.circuit)["segments"][0]["version"], 2)
        again = str(uuid4())
        for _ in range(2):
            self.call("POST", f"/jobs/{self.job}/undo", key=again)
        self.assertEqual(self.view(self.circuit)["segments"][0]["spec"]["size"], "8 AWG")

    def test_deleting_a_circuit_takes_what_only_it_uses(self) -> None:
        version = self.view(self.circuit)["circuit"]["version"]
        self.edit(self.job, {"do": "remove circuit", "circuit_id": self.circuit}, seen={self.circuit: version})
        board = self.call("GET", f"/jobs/{self.job}")
        self.assertEqual((board["lines"], board["segments"], board["points"]), ([], [], []))
        self.call("POST", f"/jobs/{self.job}/undo")
        self.assertEqual(len(self.view(self.circuit)["segments"]), 2)

    def test_points_are_added_renamed_and_deleted(self) -> None:
        point = str(uuid4())
        added = self.edit(self.job, {"do": "add point", "id": point, "name": "GND6"})
        self.assertEqual((added["label"], added["versions"]), ("add point GND6", {point: 1}))
        self.edit(self.job, {"do": "rename point", "point_id": point, "name": "GND7"}, seen={point: 1})
        gone = self.edit(self.job, {"do": "remove point", "point_id": point}, seen={point: 2})
        self.assertEqual(gone["label"], "delete point GND7")
        used = next(each for each in self.view(self.circuit)["points"] if each["name"] == "Stud")
        refused = self.edit(self.job, {"do": "remove point", "point_id": used["id"]}, status=422)
        self.assertIn("W1 end here", refused["message"])


class BadInput(ShopCase):
    """Nothing wrong is written; each problem names its field."""

    def setUp(self) -> None:
        super().setUp()
        self.job = self.new_job()
        self.circuit = self.new_circuit(self.job)
        self.before = Edit.objects.count(), Segment.objects.count()

    def tearDown(self) -> None:
        self.assertEqual((Edit.objects.count(), Segment.objects.count()), self.before)
        super().tearDown()

    def _refused(self, edit: dict[str, Any]) -> list[list[str | int]]:
        return [problem["field"] for problem in self.edit(self.job, edit, status=422)["problems"]]

    def test_circuit_fields(self) -> None:
        for name, value in [
            ("design_current_a", -1),
            ("design_current_a", 0),
            ("design_current_a", "10 000 A"),
            ("design_current_a", 10000),
            ("design_current_a", float("nan")),
            ("design_current_a", 10**4000),
            ("design_current_a", float("inf")),
            ("design_current_a", "20"),
            ("supply_length_m", "1 km"),
            ("supply_length_m", "9 furlongs"),
            ("target_value", "3 A"),
            ("name", ""),
            ("name", "x" * 10_000),
            ("name", "<script>alert(1)</script>"),
            ("family", "nonsense"),
            ("ground", None),
            ("source", None),
        ]:
            with self.subTest(name=name, value=str(value)[:20]):
                self.assertIn([name], self._refused({"do": "lay circuit", **PUMP, "name": "Other", name: value}))

    def test_segment_fields(self) -> None:
        wire = self.view(self.circuit)["segments"][0]["id"]
        for spec, field in [
            ({"size": "47 AWG"}, "size"),
            ({"size": "10"}, "size"),
            ({"length_m": 0}, "length_m"),
            ({"length_m": float("nan")}, "length_m"),
            ({"length_m": "1 km"}, "length_m"),
            ({"colour": "reddish"}, "colour"),
            ({"kind": "fuse", "rating_a": 22}, "rating_a"),
            ({"kind": "fuse", "rating_a": 300}, "rating_a"),
            ({"girth": 3}, "girth"),
        ]:
            with self.subTest(spec):
                refused = self._refused({"do": "change segment", "segment_id": wire, "change": spec})
                self.assertEqual(refused, [["spec", field]])

    def test_paths(self) -> None:
        view = self.view(self.circuit)
        circuit = view["circuit"]
        path = {name: circuit[name] for name in ("source_point", "supply", "return_point", "return_path")}
        path |= {"do": "route circuit", "circuit_id": self.circuit}
        loop = {**path, "return_point": circuit["source_point"], "return_path": circuit["supply"]}
        for body, field in [
            ({**path, "return_path": []}, ["return_path"]),
            ({**path, "supply": circuit["supply"] * 2}, ["supply", 1]),
            (loop, ["return_path"]),
            ({**path, "supply": [str(uuid4())]}, ["supply", 0]),
        ]:
            with self.subTest(field=field):
                self.assertEqual(self._refused(body), [field])
        taken = self._refused({"do": "lay circuit", **PUMP})
        self.assertEqual(taken, [["name"]])

    def test_points_of_another_job(self) -> None:
        wire = self.view(self.circuit)["segments"][0]["id"]
        elsewhere = self.new_job()
        foreign = str(uuid4())
        self.edit(elsewhere, {"do": "add point", "id": foreign, "name": "Far"})
        self.before = Edit.objects.count(), Segment.objects.count()
        self.assertEqual(
            self._refused({"do": "change segment", "segment_id": wire, "to_point": foreign}), [["to_point"]]
        )
        added = {"do": "add segment", "from_point": foreign, "to_point": foreign, "spec": {"kind": "joint"}}
        self.assertEqual(self._refused(added), [["from_point"]])

    def test_ids_of_new_parts(self) -> None:
        """One that is none, and one that something here has already: nothing takes the place of anything."""
        wire = self.view(self.circuit)["segments"][0]
        ends = {"from_point": wire["from_point"], "to_point": wire["to_point"], "spec": {"kind": "joint"}}
        self.assertEqual(self._refused({"do": "add segment", **ends, "id": "one"}), [["id"]])
        point = {"do": "add point", "id": str(uuid4()), "name": "GND6"}
        told = self.edit(self.job, point, {"do": "add segment", **ends, "id": wire["id"]}, status=422)
        self.assertEqual(told["problems"][0]["field"], ["id"])


class Walls(ShopCase):
    def test_another_shop_sees_and_changes_nothing(self) -> None:
        job = self.new_job()
        circuit = self.new_circuit(job)
        stranger = self.stranger()
        self.assertEqual(stranger.get("/api/jobs").json(), [])
        for method, path in [
            ("GET", f"/jobs/{job}"),
            ("GET", f"/jobs/{job}/readings"),
            ("GET", f"/circuits/{circuit}"),
            ("POST", f"/jobs/{job}/undo"),
            ("POST", f"/circuits/{circuit}/what-if"),
            ("POST", f"/jobs/{job}/edits"),
        ]:
            with self.subTest(path):
                answer = stranger.generic(method, f"/api{path}", b'{"edits": []}', content_type="application/json")
                self.assertEqual(answer.status_code, 404)

    def test_nobody_gets_in_without_signing_in_or_without_the_csrf_token(self) -> None:
        self.assertEqual(Client().get("/api/jobs").status_code, 401)
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.person)
        answer = strict.post("/api/jobs", {"name": "a", "vehicle": "b"}, content_type="application/json")
        self.assertEqual(answer.status_code, 403)
