"""Two people in one job: whose change stands, whose undo takes back what, and what a copy holds."""

from typing import Any
from uuid import UUID, uuid4

from django.core.management import call_command
from django.db import OperationalError, connection
from django.test import Client

from percorso.vehicle.model import stations
from percorso_server.jobs.models import Job
from percorso_server.network.copying import copy_job
from percorso_server.network.reading import network_of
from percorso_server.network.solving import network_for_reading
from percorso_server.workshop.demo import DEMO_SHOP
from percorso_server.workshop.models import Person, Shop
from percorso_server.workshop.tests.case import ShopCase


class Colleagues(ShopCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.new_job()
        self.circuit = self.new_circuit(self.job)
        self.wire = self.view(self.circuit)["segments"][0]["id"]
        self.colleague = Client()
        self.colleague.force_login(Person.objects.create_user("collega", shop=self.shop))

    def _as_colleague(self, edit: dict[str, Any], seen: dict[str, int] | None = None, status: int = 200) -> Any:
        mine, self.client = self.client, self.colleague
        try:
            return self.edit(self.job, edit, seen=seen, status=status)
        finally:
            self.client = mine

    def test_each_undoes_only_their_own(self) -> None:
        self.change_segment(self.job, self.wire, 1, size="6 AWG")
        point = str(uuid4())
        self._as_colleague({"do": "add point", "id": point, "name": "GND9"})
        self.assertIn("change W1", self.call("POST", f"/jobs/{self.job}/undo")["label"])
        view = self.view(self.circuit)
        self.assertEqual(view["segments"][0]["spec"]["size"], "8 AWG")
        self.assertIn("GND9", [each["name"] for each in view["points"]])

    def test_undo_never_overwrites_what_another_did_since(self) -> None:
        self.change_segment(self.job, self.wire, 1, size="6 AWG")
        thicker = {"do": "change segment", "segment_id": self.wire, "change": {"size": "4 AWG"}}
        self._as_colleague(thicker, {self.wire: 2})
        self.assertEqual(self.call("POST", f"/jobs/{self.job}/undo", status=409)["code"], "stale")
        self.assertEqual(self.view(self.circuit)["segments"][0]["spec"]["size"], "4 AWG")

    def test_a_new_change_ends_the_redo(self) -> None:
        self.change_segment(self.job, self.wire, 1, size="6 AWG")
        self.call("POST", f"/jobs/{self.job}/undo")
        self.change_segment(self.job, self.wire, 3, size="2 AWG")
        self.assertEqual(self.call("POST", f"/jobs/{self.job}/redo", status=422)["code"], "nothing-to-undo")
        for step in ("undo", "redo"):
            self.call("POST", f"/jobs/{self.job}/{step}")
        self.assertEqual(self.view(self.circuit)["segments"][0]["spec"]["size"], "2 AWG")

    def test_stale_writes_of_every_kind_of_row(self) -> None:
        circuit = self.view(self.circuit)["circuit"]
        point = circuit["return_point"]
        rename = {"do": "rename point", "point_id": point, "name": "Pump minus"}
        self.edit(self.job, rename, seen={point: 1})
        values = {name: circuit[name] for name in ("name", "family", "device", "design_current_a", "source_v", "state")}
        target = {"target_kind": "max_drop_percent", "target_value": "3 %"}
        change = {"do": "change circuit", "circuit_id": self.circuit, **values, **target}
        self.edit(self.job, change, seen={self.circuit: 1})
        self.assertAlmostEqual(self.view(self.circuit)["profile"]["allowed_drop_v"], 0.36)
        for edit, row, version in [
            (rename | {"name": "Other"}, point, 1),
            (change, self.circuit, 1),
            ({"do": "remove circuit", "circuit_id": self.circuit}, self.circuit, 1),
            ({"do": "remove segment", "segment_id": self.wire}, self.wire, 9),
        ]:
            with self.subTest(edit["do"]):
                stale = self._as_colleague(edit, {row: version}, status=409)
                self.assertIn("version", stale["current"])

    def test_what_is_kept_of_a_change_is_what_would_be_read(self) -> None:
        """Rows that are new, changed and removed, and what hangs on them."""
        heater = {"do": "add device", "name": "Heater", "terminals": {"+": "here", "-": "there"},
                  "spec": {"kind": "resistive", "rated_v": "12 V", "rated_a": "5 A"}}  # fmt: skip
        point = self.view(self.circuit)["circuit"]["return_point"]
        edits: list[dict[str, Any]] = [
            heater,
            {"do": "rename point", "point_id": point, "name": "Pump minus"},
            {"do": "change segment", "segment_id": self.wire, "change": {"length_m": "3 m"}},
            {"do": "remove circuit", "circuit_id": self.circuit},
        ]
        for edit in edits:
            with self.subTest(edit["do"]):
                self.edit(self.job, edit)
                row = Job.objects.get(pk=self.job)
                kept, read = network_for_reading(row, self.shop.house_rules).stored, network_of(row)
                self.assertEqual(kept, read)
                for name in ("points", "devices", "segments", "circuits"):
                    self.assertEqual(list(getattr(kept.vehicle, name)), list(getattr(read.vehicle, name)))

    def test_what_is_gone_is_not_found(self) -> None:
        self.edit(self.job, {"do": "remove circuit", "circuit_id": self.circuit}, seen={self.circuit: 1})
        for path in (f"/circuits/{self.circuit}", f"/circuits/{uuid4()}", f"/jobs/{uuid4()}"):
            self.call("GET", path, status=404)
        self.change_segment(self.job, self.wire, 1, 404)

    def test_a_freed_name_can_be_used_again_and_undone_names_do_not_clash(self) -> None:
        version = self.view(self.circuit)["circuit"]["version"]
        self.edit(self.job, {"do": "remove circuit", "circuit_id": self.circuit}, seen={self.circuit: version})
        self.new_circuit(self.job)
        refused = self.call("POST", f"/jobs/{self.job}/undo")
        self.assertIn("lay", refused["label"])
        self.call("POST", f"/jobs/{self.job}/undo")
        self.assertEqual(len(self.call("GET", f"/jobs/{self.job}")["lines"]), 1)


class TheDemo(ShopCase):
    def setUp(self) -> None:
        super().setUp()
        call_command("load_demo")
        self.van = Job.objects.get(shop__name=DEMO_SHOP, vehicle="Mobile market van")

    def test_loading_twice_changes_nothing(self) -> None:
        call_command("load_demo")
        self.assertEqual((Job.objects.count(), Shop.objects.filter(name=DEMO_SHOP).count()), (3, 1))

    def test_every_circuit_of_a_copy_runs_over_the_same_stations(self) -> None:
        copy = copy_job(self.van, UUID(int=7), "Copy")
        before, after = network_of(self.van).vehicle, network_of(copy).vehicle
        named = {circuit.name: circuit for circuit in after.circuits.values()}
        for circuit in before.circuits.values():
            for side in ("supply", "return"):
                old = [before.points[point].name for point in stations(before, circuit, side)]
                new = [after.points[point].name for point in stations(after, named[circuit.name], side)]
                self.assertEqual(new, old)

    def test_the_board_answers_in_the_order_of_work(self) -> None:
        self.client.force_login(Person.objects.get(username="valbruna"))
        families = [line["circuit"]["family"] for line in self.call("GET", f"/jobs/{self.van.pk}")["lines"]]
        in_order = ["charging", "starting", "ground", *["feed"] * 5, "control", "control", "exciter", "sense"]
        self.assertEqual(families, in_order)


class DatabaseAway(ShopCase):
    def test_the_api_says_so_plainly(self) -> None:
        def gone(*_: Any) -> None:
            raise OperationalError(2002, "Can't connect")

        with connection.execute_wrapper(gone):
            answer = self.client.get("/api/jobs")
        self.assertEqual((answer.status_code, answer.json()["code"]), (503, "database-away"))
