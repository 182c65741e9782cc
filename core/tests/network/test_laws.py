"""Current laws against what they stand for, and batteries and alternators against published markings."""

from unittest import TestCase

import numpy as np
from pydantic import ValidationError

from percorso.components.batteries import charge_acceptance_a, internal_resistance_ohm, open_circuit_v
from percorso.network.branches import battery_law_of
from percorso.network.kernel import current_and_slope, limited_v
from percorso.network.laws import (
    LAWS,
    LawOf,
    battery_law,
    constant_current_law,
    constant_power_law,
    diode_law,
    filament_law,
    led_law,
    motor_law,
    rectifier_law,
)
from percorso.vehicle.alternators import output_limit_a
from percorso.vehicle.devices import DEVICE_SPEC, Alternator, Battery, RelayCoil, Starter, changed_device, new_device

RATED: dict[str, tuple[LawOf, float, float]] = {  # law, and a point its name plate promises: V, A
    "motor": (motor_law(12, 8, 0.3), 12, 8),
    "constant current": (constant_current_law(13, 5), 13, 5),
    "constant power": (constant_power_law(60, 8), 12, 5),
    "filament": (filament_law(12, 1.75), 12, 1.75),
    "led": (led_law(12, 0.02, 2.0), 12, 0.02),
    "diode": (diode_law(3, 0.9), 0.9, 3),
    "battery": (battery_law(12.65, 0.01, 2.5), 12.65, 0),
    "rectifier": (rectifier_law(0.05), -0.5, -10),
}


def current_a(law: LawOf, voltage: float) -> float:
    """Current of one element, A."""
    return float(current_and_slope(law.number, voltage, *law.parameters)[0])


class Laws(TestCase):
    def test_each_passes_through_its_name_plate(self) -> None:
        for name, (law, voltage, amps) in RATED.items():
            with self.subTest(name):
                self.assertAlmostEqual(current_a(law, voltage), amps, delta=0.002 * max(abs(amps), 0.02))

    def test_slopes_are_the_derivatives(self) -> None:
        """Central differences, away from the kinks."""
        for name, (law, _, _) in RATED.items():
            for voltage in (-3.21, -0.4, 0.37, 0.83, 2.21, 6.17, 11.3, 13.9):
                step = 1e-6
                high, low = (current_a(law, voltage + sign * step) for sign in (1, -1))
                slope = float(current_and_slope(law.number, voltage, *law.parameters)[1])
                with self.subTest(name, voltage=voltage):
                    self.assertAlmostEqual(slope, (high - low) / (2 * step), delta=1e-3 + 1e-4 * abs(slope))

    def test_they_are_continuous_and_pass_through_rest(self) -> None:
        volts = np.linspace(-16, 16, 64001)
        for name, (law, _, _) in RATED.items():
            if name in ("diode", "battery", "rectifier"):
                continue  # exponential beyond use; a battery rests at its own voltage
            current, _ = current_and_slope(law.number, volts, *law.parameters)
            with self.subTest(name):
                self.assertLess(np.abs(np.diff(current)).max(), 0.06)
                self.assertAlmostEqual(current_a(law, 0.0), 0.0, places=6)

    def test_what_characterises_each(self) -> None:
        """Handbook exponent 0.55 of a filament; constant power 12 V × 5 A = 8 V × 7.5 A; an LED dark at 1.5 V."""
        self.assertAlmostEqual(current_a(RATED["filament"][0], 6) / 1.75, 0.5**0.55)
        self.assertAlmostEqual(current_a(RATED["constant power"][0], 8), 7.5)
        self.assertAlmostEqual(current_a(RATED["constant power"][0], 4), 3.75)  # below its least voltage it is ohmic
        self.assertLess(current_a(RATED["led"][0], 1.5), 1e-5)
        self.assertGreater(current_a(RATED["motor"][0], 9) / 8, 0.95)  # a loaded motor slows down, it hardly draws less
        self.assertAlmostEqual(current_a(RATED["battery"][0], 12.65 + 2.5), 1.0)
        self.assertAlmostEqual(current_a(RATED["battery"][0], 12.65 - 0.1), -10.0)
        self.assertAlmostEqual(current_a(RATED["rectifier"][0], 5.0), 0.0, places=6)

    def test_steps_that_go_astray_are_held(self) -> None:
        """A junction's current may grow a few times at a step, not a thousand times; a falling current not run away."""
        diode, motor, supply = (LAWS.index(each) for each in ("diode", "saturating", "constant power"))
        emission = 0.0466
        held = float(limited_v(diode, 9.0, 0.4, 1e-8, emission))
        self.assertLess(np.exp((held - 0.4) / emission), 1000)
        self.assertEqual(float(limited_v(diode, 0.41, 0.4, 1e-8, emission)), 0.41)
        self.assertEqual(float(limited_v(motor, -4.0, 9.0, 2.0, 0.0)), 0.0)
        self.assertEqual(float(limited_v(supply, 40.0, 9.0, 0.0, 2.0)), 0.0)
        self.assertEqual(float(limited_v(supply, 11.0, 9.0, 0.0, 2.0)), 11.0)


class Batteries(TestCase):
    def test_rest_voltages(self) -> None:
        """BCI table, lead-acid at 25 °C, from memory; a 24 V battery is two of them."""
        for charge, rest in ((100, 12.65), (75, 12.45), (50, 12.24), (25, 12.06), (0, 11.89)):
            self.assertAlmostEqual(open_circuit_v("lead-acid", charge, 12), rest)
            self.assertAlmostEqual(open_circuit_v("lead-acid", charge, 24), 2 * rest)
        self.assertGreater(open_circuit_v("LiFePO4", 50, 12), 13)

    def test_resistance_from_the_cold_cranking_current(self) -> None:
        """SAE J537: 12.6 V falls to 7.2 V at −18 °C under 600 A: 9 mΩ; about half when warm (common practice)."""
        self.assertAlmostEqual(internal_resistance_ohm(600, 100, -18, 12), 0.009)
        self.assertAlmostEqual(internal_resistance_ohm(600, 100, 25, 12), 0.0045)
        self.assertAlmostEqual(internal_resistance_ohm(600, 100, 25, 6), 0.00225)
        self.assertAlmostEqual(internal_resistance_ohm(600, 0, 25, 12), 0.009)
        self.assertGreater(internal_resistance_ohm(600, 50, 0, 12), internal_resistance_ohm(600, 80, 10, 12))

    def test_a_battery_takes_less_the_fuller_it_is(self) -> None:
        taken = [charge_acceptance_a("lead-acid", 70, charge) for charge in (0, 50, 90, 100)]
        self.assertEqual(taken, sorted(taken, reverse=True))
        self.assertAlmostEqual(taken[-1], 0.7)

    def test_measured_values_take_precedence(self) -> None:
        spec = DEVICE_SPEC.validate_python(
            {
                "kind": "battery",
                "capacity_ah": 70,
                "cold_cranking_a": 600,
                "resistance_ohm": "8 mohm",
                "charge_a": "7 A",
            }
        )
        assert isinstance(spec, Battery)
        rest, gives_s, takes_s = battery_law_of(spec, 12).parameters
        self.assertAlmostEqual(1 / gives_s, 0.008)
        self.assertAlmostEqual(takes_s * (14.4 - rest), 7)


class Alternators(TestCase):
    def setUp(self) -> None:
        spec = DEVICE_SPEC.validate_python(
            {"kind": "alternator", "setpoint_v": 14.2, "at_1800_a": 45, "at_6000_a": 110}
        )
        assert isinstance(spec, Alternator)
        self.spec = spec

    def test_output_goes_by_its_marking(self) -> None:
        """ISO 8854 marks the current at 1 800 and at 6 000 rpm; straight between them, flat beyond."""
        for rpm, amps in ((500, 0), (1800, 45), (3900, 77.5), (6000, 110), (9000, 110)):
            self.assertAlmostEqual(output_limit_a(self.spec, rpm), amps)

    def test_heat_costs_output(self) -> None:
        hot = changed_device(self.spec, {"temperature_c": "85 C"})
        assert isinstance(hot, Alternator)
        self.assertAlmostEqual(output_limit_a(hot, 6000), 110 * (1 - 0.0025 * 60))


class NewDevices(TestCase):
    def test_usual_coils_go_with_the_nominal_voltage(self) -> None:
        """The same power at twice the voltage: four times the ohms; pull-in 60 %, drop-out 20 % of nominal."""
        twelve, twenty_four = (new_device({"kind": "relay coil"}, nominal) for nominal in (12, 24))
        assert isinstance(twelve, RelayCoil) and isinstance(twenty_four, RelayCoil)
        self.assertAlmostEqual(twelve.pull_in_v / 12, twenty_four.pull_in_v / 24)
        self.assertAlmostEqual(twenty_four.pull_in_v, 0.6 * 24)
        self.assertAlmostEqual(twenty_four.drop_out_v, 0.2 * 24)
        self.assertAlmostEqual(12**2 / twelve.resistance_ohm, 24**2 / twenty_four.resistance_ohm)
        given = new_device({"kind": "relay coil", "pull_in_v": "10 V"}, 24)
        self.assertEqual((given.kind, getattr(given, "pull_in_v", None)), ("relay coil", 10))
        with self.assertRaises(ValidationError):
            new_device({"kind": "flux capacitor"}, 24)


class Impossible(TestCase):
    def test_devices_that_cannot_be_are_refused_with_their_field(self) -> None:
        starter = {"kind": "starter", "running_v": 10, "running_a": 150, "locked_v": 4, "locked_a": 400}
        for spec, field in [
            ({"kind": "alternator", "setpoint_v": 14, "at_1800_a": 50, "at_6000_a": 40}, "at_6000_a"),
            (starter | {"running_a": 1100}, "running_a"),
            (starter | {"pull_in_v": 3, "drop_out_v": 5}, "drop_out_v"),
            ({"kind": "relay coil", "pull_in_v": 2, "drop_out_v": 2}, "drop_out_v"),
            ({"kind": "battery", "capacity_ah": 0, "cold_cranking_a": 500}, "capacity_ah"),
            (
                {"kind": "battery", "capacity_ah": 70, "cold_cranking_a": 500, "state_of_charge_percent": 101},
                "state_of_charge",
            ),
            ({"kind": "resistive", "rated_v": -12, "rated_a": 1}, "rated_v"),
        ]:
            with self.subTest(field), self.assertRaises(ValidationError) as caught:
                DEVICE_SPEC.validate_python(spec)
            item = caught.exception.errors()[0]
            error = item.get("ctx", {}).get("error")
            self.assertIn(field, f"{item['loc']} {getattr(error, 'field', '')}")

    def test_a_starter_turns_as_fast_as_its_voltage_behind_the_winding(self) -> None:
        """Winding 4 V ÷ 400 A = 10 mΩ: 10 V − 1.5 V at its running point; at 8 V and 150 A 6.5/8.5 of the speed."""
        spec = DEVICE_SPEC.validate_python(
            {"kind": "starter", "running_v": 10, "running_a": 150, "locked_v": 4, "locked_a": 400}
        )
        assert isinstance(spec, Starter)
        self.assertAlmostEqual(spec.speed(8, 150), 6.5 / 8.5)
        self.assertAlmostEqual(spec.speed(4, 400), 0)
