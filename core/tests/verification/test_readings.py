"""Readings are projected to design current and judged; meaningless ones are refused."""

from unittest import TestCase

from core.tests.support.pump_feed import pump_feed
from percorso.circuits.voltage_profile import profile
from percorso.errors import ReadingError
from percorso.house_rules import HouseRules
from percorso.verification.readings import DropReading, Judgement, judge_reading

RULES = HouseRules()


def judge(reading: DropReading, allowed_v: float = 1.0) -> Judgement:
    vehicle, circuit = pump_feed(allowed_v)
    return judge_reading(vehicle, circuit, profile(vehicle, circuit, RULES), reading, RULES)


class Readings(TestCase):
    def test_a_reading_at_half_current_counts_double(self) -> None:
        """Ohm's law: 0.150 V at 10 A is 15 mΩ, so 0.300 V at 20 A; W1 is computed at 0.2997 V."""
        result = judge(DropReading("f", "plus", 0.152, 10, lead_offset_v=0.002))
        self.assertAlmostEqual(result.resistance_ohm, 0.015)
        self.assertAlmostEqual(result.projected_v, 0.300)
        self.assertAlmostEqual(result.uncertainty_v, 2 * (0.005 * 0.152 + 0.002))
        self.assertEqual(result.compared, "as expected")
        self.assertEqual(result.verdict.word, "pass")

    def test_a_bad_joint_fails_the_whole_circuit(self) -> None:
        """0.5 V over a joint computed at 0.02 V: 0.70 − 0.02 + 0.50 = 1.18 V of 1.0 V allowed."""
        result = judge(DropReading("lug", "post", 0.5, 20))
        self.assertEqual((result.compared, result.verdict.word), ("higher", "fail"))
        self.assertAlmostEqual(result.circuit_drop_v, 1.18, places=2)

    def test_over_by_less_than_the_meter_can_tell_is_close(self) -> None:
        """0.3825 V on the supply side makes 0.702 V of 0.70 V; the meter may be off by 3.9 mV."""
        self.assertEqual(judge(DropReading("stud", "plus", 0.3825, 20), allowed_v=0.7).verdict.word, "marginal")

    def test_what_proves_nothing_is_refused(self) -> None:
        for reading, field in [
            (DropReading("f", "plus", 0.05, 3.9), "current_a"),  # under 20 % of 20 A
            (DropReading("plus", "f", 0.3, 20), "red_point"),
            (DropReading("f", "lug", 0.3, 20), "black_point"),
            (DropReading("f", "nowhere", 0.3, 20), "black_point"),
            (DropReading("f", "plus", 0.001, 20, lead_offset_v=0.01), "value_v"),
        ]:
            with self.subTest(reading), self.assertRaises(ReadingError) as caught:
                judge(reading)
            self.assertEqual(caught.exception.field, (field,))
        self.assertEqual(judge(DropReading("f", "plus", 0.06, 4)).compared, "as expected")
