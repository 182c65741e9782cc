"""What one should read, against a general circuit simulator, against drawing lots, and against facts of the trade."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from core.tests.support.demo import demo
from core.tests.support.generated import generated_vehicle
from core.tests.support.ladders import drawn_voltages, ladder_vehicle
from core.tests.support.simulator import simulated_v
from core.tests.support.small import IDEAL_BATTERY, joint, small_vehicle
from percorso.errors import MeasurementError
from percorso.network.operating_point import Network
from percorso.network.spice import netlist
from percorso.vehicle.devices import DEVICE_SPEC
from percorso.vehicle.model import Device, Known, Point, Vehicle
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import State
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.checks.asked import CheckTarget
from percorso.verification.judging import logged
from percorso.verification.judging.expected import Expected, expect
from percorso.verification.judging.outcomes import Outcome, judge_outcome
from percorso.verification.measured.measurements import MEASUREMENTS, Measurement, Situation, by_ids
from percorso.verification.measured.preparations import BatteryOff

METER = {"kind": "resistive", "rated_v": 10, "rated_a": 1e-6}  # 10 MΩ
LAMP = {"kind": "filament lamp", "rated_v": 12, "rated_w": 4}


def expected(vehicle: Vehicle, state: State = "on", *, dead: bool = False, **what: str) -> Expected:
    """What is expected of one measurement."""
    situation = Situation(state=state, preparations=(BatteryOff(),) if dead else ())
    there = prepared(vehicle, situation.preparations)
    measurement = by_ids(there, Measurement.model_validate({"situation": situation, **what}))
    return expect(Network(there), situation, [measurement])[0]


def with_part(vehicle: Vehicle, red: str, black: str, spec: dict[str, object]) -> Vehicle:
    """The vehicle with an instrument in it as any other load."""
    hung = Device("meter", "meter", "meter", {"+": red, "-": black}, DEVICE_SPEC.validate_python(spec))
    return replace(vehicle, devices={**vehicle.devices, "meter": hung})


def as_known(vehicle: Vehicle, known: Known) -> Vehicle:
    """The vehicle with everything but the battery known like that."""
    segments = {each.id: replace(each, known=known) for each in vehicle.segments.values()}
    devices = {each.id: replace(each, known=known) for each in vehicle.devices.values() if each.spec.kind != "battery"}
    return replace(vehicle, segments=segments, devices={**vehicle.devices, **devices})


class AgainstTheSimulator(TestCase):
    def test_voltages_with_the_meter_in_the_circuit(self) -> None:
        """ngspice solves the vehicle with 10 MΩ between the probes, also where nothing else holds a probe."""
        vehicles = [vehicle_at(demo(name), stage) for name in ("market-van", "school-minibus") for stage in STAGES]
        vehicles += [generated_vehicle(seed, 20 + seed) for seed in range(6)]
        for number, vehicle in enumerate(vehicles):
            random = np.random.default_rng(number)
            for state in ("off", "on", "cranking"):
                red, black = random.choice(list(vehicle.points), 2, replace=False).tolist()
                edited = Network(with_part(vehicle, red, black, METER))
                solution = edited.solve(state)
                if solution.unsettled:
                    continue
                v = simulated_v(netlist(edited, solution))
                shown = expected(vehicle, state, quantity="voltage", red_point=red, black_point=black).value
                close = max(1e-3, 1e-3 * abs(v[red] - v[black]))
                self.assertAlmostEqual(shown or 0.0, v[red] - v[black], delta=close, msg=(number, state, red, black))

    def test_lamp_and_meter_in_series(self) -> None:
        """ngspice, at a feed with 5 Ω in it: a 4 W lamp is an edited load, a meter in series 20 mΩ more."""
        vehicle = rotten(5.0)
        edited = Network(with_part(vehicle, "out", "minus", LAMP))
        v = simulated_v(netlist(edited, edited.solve("on")))
        # (12.65 V − V) ÷ 5.02 Ω = V ÷ 1 Ω + 0.333 A · (V ÷ 12 V)^0.55
        self.assertAlmostEqual(v["out"], 2.0, delta=0.01)
        self.assertEqual(expected(vehicle, quantity="lamp", red_point="out", black_point="minus").outcome, "dark")
        shown = expected(vehicle, quantity="current", segment="W1", instrument="multimeter").value
        self.assertAlmostEqual(shown or 0.0, 12.6 / (0.01 + 0.02 + 0.01 + 5 + 1), delta=0.01)


STAGES = ("found", "planned")


def rotten(ohm: float) -> Vehicle:
    """A feed over one joint to a load of 1 Ω."""
    return small_vehicle(
        {"W1": ("plus", "in", joint(0.01)), "J1": ("in", "out", joint(ohm))},
        {
            "G1": ({"+": "plus", "-": "minus"}, {**IDEAL_BATTERY, "state_of_charge_percent": 100}),
            "E1": ({"+": "out", "-": "minus"}, {"kind": "resistive", "rated_v": 12, "rated_a": 12}),
        },
    )


class FactsOfTheTrade(TestCase):
    def test_a_rotten_joint(self) -> None:
        """Unplugged, a meter reads battery voltage past it and a lamp stays dark; the load gets next to nothing."""
        joint_of_500_ohm = rotten(500.0)
        unplugged = replace(joint_of_500_ohm, devices={"G1": joint_of_500_ohm.devices["G1"]})
        place = {"red_point": "out", "black_point": "minus"}
        self.assertGreater(expected(unplugged, quantity="voltage", **place).value or 0, 11)
        self.assertEqual(expected(unplugged, quantity="lamp", **place).outcome, "dark")
        self.assertLess(expected(joint_of_500_ohm, quantity="voltage", **place).value or 99, 1)
        self.assertEqual(expected(joint_of_500_ohm, quantity="seen", device="E1").outcome, "dead")

    def test_where_nothing_is_drawn_yet_a_meter_reads_nothing(self) -> None:
        """Two points of a new job."""
        bare = Vehicle(nominal_v=12, points={each: Point(each, each) for each in ("plus", "minus")}, segments={})
        self.assertEqual(expected(bare, quantity="voltage", red_point="plus", black_point="minus").value, 0.0)
        apart = expected(bare, dead=True, quantity="continuity", red_point="plus", black_point="minus")
        self.assertEqual(apart.outcome, "open")

    def test_an_ohmmeter_cannot_tell_20_milliohm_from_nothing(self) -> None:
        """±(1 % + 0.1 Ω) around 20 mΩ and around 1 mΩ both hold nought; a load in the way shows as itself."""
        place = {"quantity": "resistance", "red_point": "in", "black_point": "out"}
        for ohm in (0.001, 0.02):
            found = expected(rotten(ohm), dead=True, **place)
            self.assertEqual(found.low, 0.0)
            self.assertAlmostEqual(found.high or 0, ohm + 0.1, delta=0.01)
        self.assertAlmostEqual(expected(rotten(470), dead=True, **place).value or 0, 470, delta=0.01)
        beside = expected(rotten(0.02), dead=True, quantity="resistance", red_point="in", black_point="minus")
        self.assertAlmostEqual(beside.value or 0, 1.02, delta=1e-3)
        nothing = expected(rotten(0.02), dead=True, quantity="continuity", red_point="plus", black_point="minus")
        self.assertEqual(nothing.outcome, "connected")

    def test_what_cannot_be_measured(self) -> None:
        for wrong, field in (
            ({"quantity": "resistance", "red_point": "in", "black_point": "out"}, ("situation", "preparations")),
            ({"quantity": "voltage", "red_point": "in"}, ("black_point",)),
            ({"quantity": "voltage", "red_point": "in", "black_point": "in"}, ("black_point",)),
            ({"quantity": "current", "segment": "W1", "instrument": "test lamp"}, ("instrument",)),
            ({"quantity": "lamp", "red_point": "in", "black_point": "out", "value": 3}, ("value",)),
            ({"quantity": "seen", "device": "E1", "outcome": "dim"}, ("outcome",)),
            ({"quantity": "seen"}, ("device",)),
        ):
            with self.assertRaises(ValueError) as caught:
                MEASUREMENTS.validate_python([wrong])
            self.assertIn(field, [each["ctx"]["error"].field for each in caught.exception.errors()], wrong)
        with self.assertRaises(MeasurementError) as unknown:
            expected(rotten(1), quantity="voltage", red_point="in", black_point="nowhere")
        self.assertEqual(unknown.exception.field, ("black_point",))


class Interval(TestCase):
    def test_of_what_is_assumed_against_drawing_lots(self) -> None:
        """2000 draws on each of 30 networks that nobody looked at: 93 of 100 are within; taken as seen, far fewer."""
        within: dict[Known, list[float]] = {"assumed": [], "seen": []}
        for seed in range(30):
            vehicle = ladder_vehicle(seed)
            drawn = drawn_voltages(vehicle, seed, 2000, assumed=True)
            points = list(vehicle.points)
            red, black = np.random.default_rng(seed).permuted(np.arange(len(points)))[:2].tolist()
            lots = drawn[:, red] - drawn[:, black]
            for known, shares in within.items():
                place = {"red_point": points[red], "black_point": points[black]}
                found = expected(as_known(vehicle, known), quantity="voltage", **place)
                shares.append(float(np.mean((lots >= (found.low or 0)) & (lots <= (found.high or 0)))))
        self.assertGreater(min(within["assumed"]), 0.93)
        self.assertLess(max(within["seen"]), 0.85)

    def test_against_drawing_lots(self) -> None:
        """2000 draws on each of 30 networks, solved by plain linear algebra: both ends within a tenth of the width."""
        for seed in range(30):
            vehicle = ladder_vehicle(seed)
            drawn = drawn_voltages(vehicle, seed, 2000)
            points = list(vehicle.points)
            pairs = np.random.default_rng(seed).permuted(np.arange(len(points)))[:6].reshape(3, 2)
            for red, black in pairs.tolist():
                found = expected(vehicle, quantity="voltage", red_point=points[red], black_point=points[black])
                off = 0.005 * abs(found.value or 0) + (0.002 if abs(found.value or 0) <= 6 else 0.02)
                lots = np.random.default_rng(1000 + seed).normal(0, off / 1.96, len(drawn))
                low, high = np.percentile(drawn[:, red] - drawn[:, black] + lots, [2.5, 97.5])
                for end, lot in ((found.low, low), (found.high, high)):
                    self.assertAlmostEqual(end or 0.0, lot, delta=0.1 * (high - low), msg=(seed, red, black))


class Judged(TestCase):
    def judged(self, value: float, low: float, high: float, target: CheckTarget | None = None) -> Outcome:
        measurement = Measurement(quantity="voltage", red_point="a", black_point="b", value=value)
        return judge_outcome(measurement, Expected((low + high) / 2, low, high), target)

    def test_against_what_is_expected_and_what_it_must_come_to(self) -> None:
        """A meter of ±(0.5 % + 2 digits) is 5 mV off at 0.6 V: 0.603 V of 0.6 V allowed is a matter of the meter."""
        allowed = CheckTarget("at most", 0.6, "allowed")
        for value, compared, word, standing in (
            (0.58, "as expected", "pass", "as expected"),
            (0.603, "as expected", "marginal", "as expected"),
            (0.7, "higher", "fail", "over"),
            (0.3, "lower", "pass", "lower"),
        ):
            found = self.judged(value, 0.5, 0.66, allowed)
            self.assertEqual((found.compared, found.verdict and found.verdict.word), (compared, word), value)
            told = logged.Judged(Expected(), found), logged.Judged(Expected(), found, why_not="no such circuit")
            self.assertEqual([each.standing for each in told], [standing, compared], value)
            self.assertAlmostEqual(found.uncertainty or 0, 0.002 + 0.005 * value)
        self.assertAlmostEqual(self.judged(0.7, 0.5, 0.66).margin or 0, -0.04)
        weak = self.judged(9.5, 9.9, 10.9, CheckTarget("at least", 9.6, "")).verdict
        self.assertEqual(weak and weak.word, "fail")

    def test_an_ohmmeter_says_what_it_cannot_tell(self) -> None:
        off = Situation(preparations=(BatteryOff(),))
        place = {"quantity": "resistance", "red_point": "a", "black_point": "b", "situation": off}
        for ohm, is_blind in ((0.02, True), (0.0, True), (5.0, False)):
            found = judge_outcome(Measurement.model_validate({**place, "value": ohm}), Expected(0.01, 0.0, 0.11))
            self.assertEqual("measure the drop under load" in found.proves_nothing, is_blind, ohm)
        found = judge_outcome(Measurement.model_validate({**place, "outcome": "open"}), Expected(outcome="open"))
        self.assertEqual(found.compared, "as expected")
