"""The log over HTTP: readings are judged, refused when they prove nothing, superseded, never changed."""

from typing import Any
from unittest.mock import patch
from uuid import uuid4

from percorso.circuits.voltage_profile import profile
from verification.models import Reading
from workshop.tests.case import ShopCase

READING_QUERIES = 4  # session, person with shop, job, readings


class Readings(ShopCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.new_job()
        self.circuit = self.new_circuit(self.job)
        view = self.view(self.circuit)
        self.supply: list[str] = view["supply_stations"]
        self.expected_v: float = view["profile"]["supply_drop_v"]

    def _log(self, *, status: int = 200, **changes: Any) -> Any:
        body = {"red_point": self.supply[0], "black_point": self.supply[1], "value_v": "95 mV", "current_a": "10 A"}
        return self.call("POST", f"/circuits/{self.circuit}/readings", body | changes, status=status)

    def test_a_reading_is_projected_and_judged(self) -> None:
        """Ohm's law: 95 mV at 10 A is 9.5 mΩ, so 190 mV at 20 A."""
        logged = self._log()
        self.assertAlmostEqual(logged["judgement"]["projected_v"], 0.190)
        self.assertEqual(logged["judgement"]["compared"], "as expected")
        self.assertAlmostEqual(logged["judgement"]["expected_v"], self.expected_v)
        self.assertEqual(self.call("GET", f"/jobs/{self.job}/readings")[0]["id"], logged["id"])

    def test_sent_twice_it_is_logged_once(self) -> None:
        same = str(uuid4())
        self._log(id=same)
        self._log(id=same)
        self.assertEqual(Reading.objects.count(), 1)

    def test_what_proves_nothing_is_refused_beside_its_field(self) -> None:
        for changes, field in [
            ({"current_a": "3.9 A"}, "current_a"),
            ({"current_a": "0 A"}, "current_a"),
            ({"value_v": "-95 mV"}, "value_v"),
            ({"value_v": "95"}, "value_v"),
            ({"black_point": str(uuid4())}, "black_point"),
            ({"note": "<b>"}, "note"),
        ]:
            with self.subTest(changes):
                self.assertEqual(self._log(status=422, **changes)["problems"][0]["field"], [field])
        self.assertEqual(Reading.objects.count(), 0)

    def test_a_correction_supersedes_and_nothing_is_edited(self) -> None:
        wrong = self._log(value_v="195 mV")
        right = self._log(supersedes=wrong["id"])
        listed = {each["id"]: each for each in self.call("GET", f"/jobs/{self.job}/readings")}
        self.assertTrue(listed[wrong["id"]]["superseded"])
        self.assertFalse(listed[right["id"]]["superseded"])
        self._log(supersedes=wrong["id"], status=422)
        row = Reading.objects.get(pk=wrong["id"])
        for forbidden in (row.save, row.delete):
            with self.assertRaises(TypeError):
                forbidden()

    def test_a_reading_is_judged_against_the_plan_as_it_is_now(self) -> None:
        """A 25 A fuse inserted between the probes adds 80 mV at 20 A (0.1 V at rating, from memory)."""
        self._log()
        place = {"circuit_id": self.circuit, "beside": self.view(self.circuit)["circuit"]["supply"][0], "after": True}
        self.edit(self.job, {"do": "insert segment", **place, "spec": {"kind": "fuse", "rating_a": 25}})
        judged = self.call("GET", f"/jobs/{self.job}/readings")[0]["judgement"]
        self.assertAlmostEqual(judged["expected_v"], self.expected_v + 0.080)
        self.assertEqual(judged["compared"], "lower")

    def test_five_hundred_are_listed_as_one_is(self) -> None:
        """The same queries however many there are, and the plan is computed once, not once a reading."""
        one = Reading.objects.get(pk=self._log()["id"])
        with patch("percorso.study.profile", wraps=profile) as computed:
            for count in (1, 500):
                copies = [self._like(one) for _ in range(count - Reading.objects.count())]
                Reading.objects.bulk_create(copies)
                with self.assertNumQueries(READING_QUERIES):
                    self.assertEqual(len(self.call("GET", f"/jobs/{self.job}/readings")), count)
            self.assertLessEqual(computed.call_count, 1)

    @staticmethod
    def _like(row: Reading) -> Reading:
        names = ("circuit_id", "red_point_id", "black_point_id", "value_v", "current_a", "taken_at", "taken_by_id")
        return Reading(**{name: getattr(row, name) for name in names})
