"""The whole network over the API: devices, switches and states, found and planned, as one person of a shop."""

from typing import Any
from uuid import uuid4

from percorso_server.workshop.tests.case import ShopCase

BATTERY = {"kind": "battery", "capacity_ah": 70, "cold_cranking_a": "600 A", "resistance_ohm": "10 mohm"}


class WholeNetwork(ShopCase):
    """A 20 A pump feed on a full battery: 12.65 V behind 10 mΩ (BCI table, from memory)."""

    def setUp(self) -> None:
        super().setUp()
        self.job = self.new_job()
        self.circuit = self.new_circuit(self.job, device_kind="constant current")
        self.battery = str(uuid4())
        self.add_device(id=self.battery, terminals={"+": "Stud", "-": "B− post"})

    def add_device(self, *, status: int = 200, **changes: Any) -> Any:
        device = {"name": "Battery", "terminals": {"+": "Stud", "-": "B− post"}, "spec": BATTERY} | changes
        return self.edit(self.job, {"do": "add device", **device}, status=status)

    def board(self, query: str = "state=on") -> Any:
        return self.call("GET", f"/jobs/{self.job}?{query}")

    def test_a_new_circuit_brings_its_device_and_is_solved_with_the_battery(self) -> None:
        """20 A in 12.65 V − 20 A × 10 mΩ = 12.45 V; as the design says 13 V, only the source differs."""
        view = self.call("GET", f"/circuits/{self.circuit}?state=on&basis=state")
        self.assertEqual((view["basis"], view["why_not"]), ("state", ""))
        self.assertAlmostEqual(view["profile"]["source_v"], 12.45, places=3)
        self.assertAlmostEqual(view["profile"]["device_a"], 20, places=2)
        plan = self.call("GET", f"/circuits/{self.circuit}?state=on")["profile"]
        self.assertAlmostEqual(view["profile"]["total_drop_v"], plan["total_drop_v"], places=3)

    def test_without_a_source_the_design_current_is_shown(self) -> None:
        self.edit(self.job, {"do": "remove device", "device_id": self.battery})
        view = self.call("GET", f"/circuits/{self.circuit}?basis=state")
        self.assertEqual(view["basis"], "design")
        self.assertIn("no battery or alternator", view["why_not"])
        self.assertFalse(self.board()["moment"]["is_fed"])

    def test_a_parallel_wire_is_a_fork_with_its_share(self) -> None:
        """A second wire of the same size and length takes half, and both stay cooler by it."""
        wire = self.view(self.circuit)["segments"][0]
        ends = {"from_point": wire["from_point"], "to_point": wire["to_point"]}
        self.edit(self.job, {"do": "add segment", **ends, "spec": wire["spec"], "origin": "new"})
        view = self.call("GET", f"/circuits/{self.circuit}?state=on&basis=state")
        [fork] = view["profile"]["forks"]
        self.assertAlmostEqual(fork["share"], 0.5)
        self.assertAlmostEqual(view["profile"]["legs"][0]["current_a"], 10, places=2)
        self.assertEqual([each["id"] for each in view["beside"]], fork["segment_ids"])
        found, planned = (view["difference"][f"{stage}_drop_v"] for stage in ("found", "planned"))
        self.assertAlmostEqual(found - planned, 20 * view["profile"]["legs"][0]["resistance_ohm"] / 2, delta=0.004)
        as_found = self.call("GET", f"/circuits/{self.circuit}?state=on&basis=state&stage=found")
        self.assertEqual(as_found["profile"]["forks"], [])

    def test_a_switch_opens_the_route_and_is_undone(self) -> None:
        self.edit(self.job, {"do": "add input", "id": "pump", "name": "Pump switch"})
        wire = self.view(self.circuit)["segments"][0]["id"]
        spec = {"kind": "switch", "input": "pump", "closed_in": ["on"]}
        place = {"circuit_id": self.circuit, "beside": wire, "after": True}
        self.edit(self.job, {"do": "insert segment", **place, "spec": spec, "designation": "S1"})
        off = self.call("GET", f"/circuits/{self.circuit}?state=on&basis=state")
        self.assertEqual((off["basis"], off["why_not"]), ("design", "S1 is open in this state"))
        on = self.call("GET", f"/circuits/{self.circuit}?state=on&basis=state&inputs=pump%3Don")
        self.assertEqual(on["basis"], "state")
        driven = self.edit(self.job, {"do": "remove input", "input_id": "pump"}, seen={"pump": 1}, status=422)
        self.assertIn("S1 is driven by it", driven["message"])
        for _ in range(2):
            self.call("POST", f"/jobs/{self.job}/undo")
        self.assertEqual(self.board()["moment"]["inputs"], [])
        for _ in range(2):
            self.call("POST", f"/jobs/{self.job}/redo")
        self.assertEqual(self.board("state=on&inputs=pump%3Don")["moment"]["inputs"][0]["position"], "on")

    def test_wrong_devices_name_their_fields(self) -> None:
        wrong: list[tuple[dict[str, Any], list[str]]] = [
            ({"terminals": {"+": "Stud"}}, ["terminals", "-"]),
            ({"terminals": {"+": "Stud", "-": "Stud"}}, ["terminals", "-"]),
            ({"terminals": {"+": "Stud", "-": "B− post", "87": "X"}}, ["terminals", "87"]),
            ({"spec": BATTERY | {"cold_cranking_a": "600 V"}}, ["spec", "cold_cranking_a"]),
            (
                {"spec": {"kind": "alternator", "setpoint_v": 14, "at_1800_a": 50, "at_6000_a": 40}},
                ["spec", "at_6000_a"],
            ),
            ({"name": ""}, ["name"]),
        ]
        for changes, field in wrong:
            with self.subTest(field):
                refused = self.add_device(status=422, **changes)
                self.assertIn(field, [problem["field"] for problem in refused["problems"]], refused)
        self.assertEqual(len(self.board()["devices"]), 2)
        unknown = self.call("GET", f"/jobs/{self.job}?inputs=ghost%3Don", status=422)
        self.assertEqual(unknown["problems"][0]["field"], ["inputs", "ghost"])

    def test_a_stale_or_foreign_change_of_a_device_is_refused(self) -> None:
        half = {"do": "change device", "device_id": self.battery, "change": {"state_of_charge_percent": 50}}
        self.edit(self.job, half, seen={self.battery: 1})
        stale = self.edit(
            self.job, half | {"change": {"state_of_charge_percent": 60}}, seen={self.battery: 1}, status=409
        )
        self.assertEqual(stale["current"]["spec"]["state_of_charge_percent"], 50)
        stranger = self.stranger()
        answer = stranger.post(f"/api/jobs/{self.job}/edits", {"edits": [half]}, content_type="application/json")
        self.assertEqual(answer.status_code, 404)
        other = self.new_job()
        told = self.edit(other, half, status=422)
        self.assertIn("does not have that device", told["message"])
        self.assertEqual(stranger.get(f"/api/jobs/{self.job}/file").status_code, 404)
