"""The log over HTTP: measurements are judged, superseded, never changed, and arrive once and in order."""

from datetime import UTC, datetime, timedelta
from typing import Any
from unittest.mock import patch
from uuid import uuid4

from percorso.circuits.voltage_profile import profile
from percorso_server.verification.models import Reading
from percorso_server.workshop.tests.case import ShopCase

LISTING = 4  # queries: session, person with shop, job, which readings there are; one more reads those that are new


class Readings(ShopCase):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.new_job()
        self.circuit = self.new_circuit(self.job)
        view = self.view(self.circuit)
        self.supply: list[str] = view["supply_stations"]
        self.expected_v: float = view["profile"]["supply_drop_v"]

    def _log(self, *, status: int = 200, measured: Any = None, **changes: Any) -> Any:
        drop: dict[str, Any] = {
            "quantity": "voltage",
            "red_point": self.supply[0],
            "black_point": self.supply[1],
            "value": "95 mV",
        }
        drop["situation"] = {"stage": "planned", "state": "idle"}
        body = {"measurement": drop | (measured or {}), "circuit_id": self.circuit, "current_a": "10 A"}
        return self.call("POST", f"/jobs/{self.job}/readings", body | changes, status=status)

    def _listed(self) -> list[Any]:
        return list(self.call("GET", f"/jobs/{self.job}/readings"))

    def test_a_drop_is_projected_and_judged(self) -> None:
        """Ohm's law: 95 mV at 10 A is 9.5 mΩ, so 190 mV at 20 A."""
        logged = self._log()
        drop = logged["judged"]["drop"]
        self.assertAlmostEqual(drop["projected_v"], 0.190)
        self.assertEqual(drop["compared"], "as expected")
        self.assertAlmostEqual(drop["expected_v"], self.expected_v)
        self.assertEqual(self._listed()[0]["id"], logged["id"])
        self.assertAlmostEqual(self._log(lead_offset="5 mV")["net"], 0.090)
        self.assertEqual(self._log(lead_offset="5", status=422)["problems"][0]["field"], ["lead_offset"])

    def test_what_proves_nothing_is_logged_and_says_so(self) -> None:
        for changes, why in (
            ({"current_a": "3.9 A"}, "proves nothing"),
            ({"measured": {"value": "-95 mV"}}, "swapped leads"),
            ({"current_a": None}, "nothing flows here"),
        ):
            judged = self._log(**changes)["judged"]
            self.assertIn(why, judged["why_not"])
            self.assertIsNone(judged["drop"])
        refused = self._log(current_a="3.9 A", must_prove=True, status=422)
        self.assertEqual(refused["problems"][0]["field"], ["current_a"])
        refused = self._log(measured={"value": "-95 mV"}, must_prove=True, status=422)
        self.assertEqual(refused["problems"][0]["field"], ["measurement", "value"])

    def test_what_is_no_measurement_is_refused_beside_its_field(self) -> None:
        off = {"state": "off", "preparations": [{"do": "battery off"}]}
        buzzed = {"quantity": "continuity", "situation": off, "value": None}
        for changes, field in (
            ({"current_a": "0 A"}, ["current_a"]),
            ({"measured": {"value": "95"}}, ["measurement", "value"]),
            ({"measured": {"value": None}}, ["measurement", "value"]),
            ({"measured": {"value": "900 V"}}, ["measurement", "value"]),
            ({"measured": {"black_point": str(uuid4())}}, ["measurement", "black_point"]),
            ({"measured": {"black_point": self.supply[0]}}, ["measurement", "black_point"]),
            ({"measured": {"quantity": "resistance", "value": 3}}, ["measurement", "situation", "preparations"]),
            ({"measured": buzzed | {"outcome": "dim"}}, ["measurement", "outcome"]),
            ({"circuit_id": str(uuid4())}, ["circuit_id"]),
            ({"supersedes": str(uuid4())}, ["supersedes"]),
            ({"note": "<b>"}, ["note"]),
        ):
            with self.subTest(changes):
                self.assertEqual(self._log(status=422, **changes)["problems"][0]["field"], field)
        self.assertEqual(Reading.objects.count(), 0)

    def test_sent_twice_it_is_logged_once(self) -> None:
        same = str(uuid4())
        first = self._log(id=same)
        self.assertEqual(self._log(id=same, measured={"value": "1 V"})["measurement"]["value"], 0.095)
        self.assertEqual((first["id"], Reading.objects.count()), (same, 1))

    def test_a_correction_supersedes_and_nothing_is_edited(self) -> None:
        wrong = self._log(measured={"value": "195 mV"})
        right = self._log(supersedes=wrong["id"])
        listed = {each["id"]: each for each in self._listed()}
        self.assertTrue(listed[wrong["id"]]["superseded"])
        self.assertFalse(listed[right["id"]]["superseded"])
        again = self._log(supersedes=wrong["id"])  # another phone that had not seen the correction
        listed = {each["id"]: each for each in self._listed()}
        self.assertEqual([listed[each["id"]]["superseded"] for each in (wrong, right, again)], [True, True, False])
        row = Reading.objects.get(pk=wrong["id"])
        for forbidden in (row.save, row.delete):
            with self.assertRaises(TypeError):
                forbidden()

    def test_a_clock_that_is_wrong_by_a_day_is_set_right(self) -> None:
        """Taken ten minutes before it was sent, by a clock a day ahead; a right clock keeps its own time."""
        now = datetime.now(UTC)
        for off in (timedelta(days=1), timedelta(days=-1), timedelta()):
            sent = now + off
            logged = self._log(taken_at=(sent - timedelta(minutes=10)).isoformat(), sent_at=sent.isoformat())
            taken = datetime.fromisoformat(logged["taken_at"])
            self.assertLess(abs(now - timedelta(minutes=10) - taken), timedelta(seconds=5), off)

    def test_a_reading_is_judged_against_the_plan_as_it_is_now(self) -> None:
        """A 25 A fuse inserted between the probes adds 80 mV at 20 A (0.1 V at rating, from memory)."""
        self._log()
        place = {"circuit_id": self.circuit, "beside": self.view(self.circuit)["circuit"]["supply"][0], "after": True}
        self.edit(self.job, {"do": "insert segment", **place, "spec": {"kind": "fuse", "rating_a": 25}})
        drop = self._listed()[0]["judged"]["drop"]
        self.assertAlmostEqual(drop["expected_v"], self.expected_v + 0.080)
        self.assertEqual(drop["compared"], "lower")

    def test_another_shop_sees_and_writes_nothing(self) -> None:
        self._log()
        other = self.stranger()
        for path in ("readings", "tests", "photos"):
            self.assertEqual(other.get(f"/api/jobs/{self.job}/{path}").status_code, 404)
        sent = other.post(f"/api/jobs/{self.job}/readings", {"measurement": {}}, content_type="application/json")
        self.assertIn(sent.status_code, (404, 422))
        self.assertEqual(Reading.objects.count(), 1)

    def test_five_hundred_are_listed_as_one_is(self) -> None:
        """The same queries however many there are, and the plan is computed once, not once a reading."""
        one = Reading.objects.get(pk=self._log()["id"])
        with patch("percorso.study.profile", wraps=profile) as computed:
            for count in (1, 500):
                copies = [self._like(one) for _ in range(count - Reading.objects.count())]
                Reading.objects.bulk_create(copies)
                for queries in (LISTING + 1, LISTING):
                    with self.assertNumQueries(queries):
                        self.assertEqual(len(self._listed()), count)
            self.assertLessEqual(computed.call_count, 1)

    @staticmethod
    def _like(row: Reading) -> Reading:
        names = [field.attname for field in Reading._meta.concrete_fields if field.attname not in ("id", "file_id")]
        return Reading(**{name: getattr(row, name) for name in names})
