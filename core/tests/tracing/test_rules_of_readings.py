"""What a single reading counts for, and what a single rule says of it, each in words and by itself."""

from unittest import TestCase

import numpy as np

from core.tests.support.pump_feed import pump_feed
from core.tests.support.small import IDEAL_BATTERY, Piece, joint, key, small_vehicle, solved
from percorso.circuits.voltage_profile import profile
from percorso.house_rules import HouseRules
from percorso.states.paths import why
from percorso.states.pulling import _effect
from percorso.tracing.doubtful import counting_of, doubtful_of, impossible
from percorso.tracing.evidence import OHM_DECADES, anything_is_as_likely
from percorso.tracing.likelihood import FINER, _between, _severity_at
from percorso.tracing.wording import check_of
from percorso.vehicle.model import Vehicle
from percorso.verification.bench.instrument_model import brightness, instrument_branches
from percorso.verification.checks.minutes import minutes
from percorso.verification.judging.readings import DropReading, mark
from percorso.verification.measured.measurements import Measurement, Situation
from percorso.verification.measured.preparations import preparation

ON = Situation(stage="planned", state="on")
DEAD = Situation(stage="planned", state="off", preparations=(preparation("battery off"),))
LAMP = {"kind": "resistive", "rated_v": 12, "rated_a": 1}


def feed(**more: Piece) -> Vehicle:
    """A lamp behind 10 mΩ of wire, on a battery of 10 mΩ."""
    segments: dict[str, Piece] = {"W1": ("plus", "a", joint(0.01)), **more}
    return small_vehicle(
        segments,
        {"G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY), "E1": ({"+": "a", "-": "minus"}, LAMP)},
    )


def volts(value: float) -> Measurement:
    return Measurement(quantity="voltage", red_point="a", black_point="minus", situation=ON, value=value)


class Believed(TestCase):
    def test_no_more_than_physics_allows(self) -> None:
        """Five times 12 V; twice what 15 V drive through 10 mΩ of battery and 10 mΩ of wire: 1 500 A."""
        through = {"quantity": "current", "segment": "W1", "situation": ON}
        for value, wanted in ((59.0, ""), (61.0, "not believed: nothing in a 12 V vehicle makes more than 60 V")):
            self.assertEqual(impossible(feed(), volts(value)), wanted)
        self.assertEqual(impossible(feed(), Measurement(**through, value=1490)), "")
        self.assertIn("no more than 1500 A", impossible(feed(), Measurement(**through, value=1510)))

    def test_two_readings_of_one_thing_agree_to_a_tenth(self) -> None:
        """Of 11.2 V 1.12 V, and twice 0.5 % and two digits of the meter: 0.15 V more."""
        for first, second, wanted in ((10.0, 11.2, 0), (10.0, 11.4, 1), (0.1, 0.3, 0), (0.1, 0.4, 1)):
            with self.subTest(first=first, second=second):
                found = doubtful_of(feed(), [volts(first), volts(second)], start=4)
                self.assertEqual(len(found), wanted)
                self.assertEqual([each.readings for each in found], [(4, 5)] * wanted)

    def test_read_oftener_than_three_times_it_counts_as_three(self) -> None:
        four = [volts(12.0)] * 4
        self.assertEqual(counting_of(feed(), four), [0.75] * 4)
        [found] = doubtful_of(feed(), four, start=0)
        self.assertEqual((found.readings, found.why), ((0, 1, 2, 3), "read 4 times, which counts as 3"))
        self.assertEqual(counting_of(feed(), [volts(61.0), volts(12.0)]), [0.0, 0.5 + 0.5])

    def test_of_a_resistance_nobody_knows_every_decade_is_as_likely(self) -> None:
        """Its density times R is the same everywhere, and over all its decades it makes one."""
        ohm = np.logspace(-1, 6, 40)
        probes = {"quantity": "resistance", "red_point": "a", "black_point": "b"}
        read = [Measurement(**probes, situation=DEAD, value=float(each)) for each in ohm]
        density = np.array([anything_is_as_likely(each) for each in read])
        np.testing.assert_allclose(density * ohm, 1 / (OHM_DECADES * np.log(10)))


class Said(TestCase):
    def test_a_check_takes_the_minutes_that_are_known_or_else_the_usual(self) -> None:
        vehicle, asked = feed(), volts(12.0)
        self.assertEqual(check_of(vehicle, asked, 7.5).minutes, 7.5)
        self.assertEqual(check_of(vehicle, asked).minutes, minutes(vehicle, asked, None))

    def test_what_pulling_does_to_a_device(self) -> None:
        for before, after, is_behind, wanted in (
            ("runs", "rests", True, "goes dead"),
            ("rests", "runs", False, "comes on"),
            ("too little", "runs", False, "gets enough"),
            ("runs", "runs", True, "stays on"),
            ("runs", "runs", False, "as before"),
            ("rests", "rests", True, "as before"),
            ("runs", "too little", True, "too little"),
        ):
            with self.subTest(before=before, after=after):
                self.assertEqual(_effect(before, after, is_behind), wanted)

    def test_a_device_that_rests_shows_the_way_with_the_fewest_contacts_open_and_no_diode_against_it(self) -> None:
        ways: dict[str, Piece] = {
            "S1": ("plus", "x", key("cranking")),
            "S2": ("x", "b", key("cranking")),
            "W3": ("plus", "y", joint(0.01)),
            "W4": ("y", "z", joint(0.01)),
            "S5": ("z", "b", key("cranking")),
            "D6": ("b", "plus", {"kind": "diode", "rated_a": 10}),
            "W7": ("b", "lamp", joint(0.01)),
        }
        devices = {"G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY), "E1": ({"+": "lamp", "-": "minus"}, LAMP)}
        found = why(solved(small_vehicle(ways, devices)), "E1")
        self.assertEqual([each.part for each in found.hops if each.is_open], ["S5"])
        self.assertNotIn("D6", found.parts)


class Shown(TestCase):
    def test_a_reading_stands_on_a_profile_at_the_current_that_flows_there(self) -> None:
        """0.152 V with 2 mV of lead at 10 A are 0.300 V at 20 A."""
        vehicle, circuit = pump_feed(1.0)
        found = mark(profile(vehicle, circuit, HouseRules()), DropReading("f", "plus", 0.152, 10, lead_offset_v=0.002))
        assert found is not None
        self.assertAlmostEqual(found.drop_v, 0.300)
        self.assertAlmostEqual(found.uncertainty_v, 2 * (0.005 * 0.152 + 0.002))

    def test_a_test_lamp_draws_and_an_led_tester_hardly(self) -> None:
        """A lamp of some watts is a filament; an LED tester some kilohms, that lights from a few volts on."""
        lamp, tester = (
            Measurement(quantity="lamp", red_point="a", black_point="b", situation=ON, instrument=each)
            for each in ("test lamp", "LED tester")
        )
        [[filament], [led]] = [instrument_branches(each, 12) for each in (lamp, tester)]
        self.assertIsNotNone(filament.law)
        self.assertIsNone(led.law)
        self.assertGreater(led.resistance_ohm or 0, 500)
        shown = {each: list(brightness(each, np.array([0.1, 4.0, -12.0]), 12)) for each in ("test lamp", "LED tester")}
        self.assertEqual(shown["test lamp"][::2], ["dark", "bright"])
        self.assertEqual(shown["LED tester"][0], "dark")
        self.assertNotEqual(shown["LED tester"][1], "dark")

    def test_between_two_severities_a_linear_network_is_known_exactly(self) -> None:
        """A divider: 12 V · 2 Ω ÷ (2 Ω + R) for every R from 10 mΩ to 1 kΩ."""
        severity = 10.0 ** np.arange(-2, 4)
        fine = _severity_at(severity, np.arange((len(severity) - 1) * FINER + 1) / FINER)
        found = _between((24 / (2 + severity))[None, :], severity)[0]
        np.testing.assert_allclose(found, 24 / (2 + fine), rtol=1e-6)

    def test_between_two_that_are_all_there_is_a_straight_line(self) -> None:
        found = _between(np.array([[1.0, 3.0]]), np.array([0.1, 10.0]))[0]
        np.testing.assert_allclose(found, np.linspace(1.0, 3.0, FINER + 1))
