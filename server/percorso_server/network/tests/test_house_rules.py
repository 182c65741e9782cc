"""House rules over HTTP: read, changed for every job of the shop, refused beside their field."""

import csv
import io
from typing import Any
from uuid import uuid4

from percorso_server.workshop.tests.case import ShopCase


class HouseRules(ShopCase):
    def change(self, status: int = 200, **changes: Any) -> Any:
        return self.call("PUT", "/house-rules", self.call("GET", "/house-rules") | changes, status=status)

    def test_what_the_house_says_rules_the_verdicts_of_its_jobs(self) -> None:
        """22 A ÷ 0.8 ask for 30 A, ÷ 0.6 for 40 A (common practice, ISO 8820-3 ratings from memory)."""
        job, circuit = self.new_job(), str(uuid4())
        start = {"do": "start route", "starter": "relay-fed-device", "answers": {"amps": "22 A"}, "id": circuit}
        self.edit(job, start)
        self.assertEqual(self.fuse(circuit), 30)
        ruled = self.change(
            fuse_load_percent="60 %", thinnest_wire="2.5 mm2", ampacity_rule="thermal model", slack_m="1 ft"
        )
        self.assertEqual((ruled["fuse_load_percent"], ruled["version"]), (60, 2))
        view = self.view(circuit)
        self.assertTrue(any("F1 30 A is too small" in each["title"] for each in view["findings"]))
        self.assertTrue(all(each["ampacity"]["rule"] == "thermal model" for each in view["heat"].values()))
        sizes = self.call("GET", f"/circuits/{circuit}/sizes")
        self.assertEqual([each["choice"]["rating_a"] for each in sizes["fuses"]], [40])
        self.assertNotIn("0.5 mm2", {each["size"] for each in sizes["wires"]})
        written = self.client.get(f"/api/jobs/{job}/sheets/wires.csv").content.decode()
        first = next(csv.DictReader(io.StringIO(written)))
        self.assertGreaterEqual(float(first["cut_m"]), float(first["length_m"]) * 1.05 + 0.3048)

    def fuse(self, circuit: str) -> float:
        segments = self.view(circuit)["segments"]
        rating: float = next(each["spec"]["rating_a"] for each in segments if each["spec"]["kind"] == "fuse")
        return rating

    def test_wrong_rules_are_refused_beside_their_field_and_stale_ones_shown(self) -> None:
        for field, value in [
            ("fuse_load_percent", "140 %"), ("slack_m", "long"), ("thinnest_wire", "37 AWG"),
            ("joined", "glued"), ("ampacity_rule", "guess"), ("fuse_load_percent", "0 %"),
        ]:  # fmt: skip
            with self.subTest(field, value=value):
                refused = self.change(422, **{field: value})
                self.assertEqual(refused["problems"][0]["field"][-1], field)
        self.assertEqual(self.change(409, version=7)["current"]["version"], 1)
        self.assertEqual(self.stranger().get("/api/house-rules").json()["fuse_load_percent"], 80)
