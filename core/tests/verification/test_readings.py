"""Readings are projected to design current and judged; meaningless ones are refused."""

from dataclasses import replace
from unittest import TestCase

from core.tests.support.pump_feed import pump_feed
from core.tests.support.small import IDEAL_BATTERY, joint, small_vehicle
from percorso.circuits.voltage_profile import profile
from percorso.errors import ReadingError
from percorso.house_rules import HouseRules
from percorso.study import Study
from percorso.targets import Target
from percorso.vehicle.model import Circuit
from percorso.verification.judging.logged import Logged
from percorso.verification.judging.readings import DropReading, Judgement, judge_reading
from percorso.verification.measured.measurements import Measurement, Situation

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

    def test_what_others_lose_on_shared_metal_is_taken_off(self) -> None:
        """2 mΩ carry 100 A of a winch and 10 A of a lamp, 1 mΩ more the lamp alone: its own 3 mΩ lose 0.03 V."""
        load = {"kind": "resistive", "rated_v": 12}
        vehicle = small_vehicle(
            {
                "W1": ("plus", "stud", joint(0.002)),
                "W2": ("stud", "lamp", joint(0.001)),
                "J": ("ground", "minus", joint(0)),
            },
            {
                "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
                "M1": ({"+": "stud", "-": "ground"}, load | {"rated_a": 100}),
                "E1": ({"+": "lamp", "-": "ground"}, load | {"rated_a": 10}),
            },
        )
        route = (Target("max_drop_v", 0.5), "plus", ("W1", "W2"), "ground", ("J",), "on", "E1")
        vehicle = replace(vehicle, circuits={"c": Circuit("c", "Lamp", "feed", "Lamp", 10, 12.6, *route)})
        study = Study(vehicle, RULES)
        read = Measurement(quantity="voltage", red_point="plus", black_point="lamp", situation=Situation(state="on"))
        expected = study.judge.expected([read])[0].value or 0.0
        self.assertAlmostEqual(expected, 0.23, delta=0.02)
        whole = study.judge.drop(Logged(read.model_copy(update={"value": expected}), "c"))
        assert whole
        self.assertAlmostEqual(whole.resistance_ohm, 0.003, delta=1e-6)
        self.assertAlmostEqual(whole.own_v, 0.03, delta=0.002)
        with self.assertRaisesRegex(ReadingError, r"other circuits alone should drop 0\.[12].* V"):
            study.judge.drop(Logged(read.model_copy(update={"value": 0.15}), "c"))
