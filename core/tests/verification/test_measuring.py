"""What instruments show with hidden faults, by hand arithmetic; and a simulated meter that says so over SCPI."""

from dataclasses import replace
from unittest import TestCase

from core.tests.support.demo import demo
from core.tests.support.small import IDEAL_BATTERY, joint, small_vehicle
from core.tests.verification.test_expected import rotten
from percorso.errors import FaultError, MeasurementError
from percorso.faults.model import FAULTS
from percorso.network.branches import usual_acceptance_a, usual_resistance_ohm
from percorso.vehicle.devices import Battery
from percorso.vehicle.model import Vehicle
from percorso.verification.bench.scpi_meter import BenchMeter
from percorso.verification.bench.virtual_bench import measure
from percorso.verification.measured.measurements import MEASUREMENTS, Measurement, Situation
from percorso.verification.measured.preparations import preparation

ON = {"state": "on"}


def fused() -> Vehicle:
    """A load of 1 Ω behind a 20 A fuse and a wire of no resistance to speak of; full battery of 12.65 V and 10 mΩ."""
    return small_vehicle(
        {
            "F1": ("plus", "a", {"kind": "fuse", "rating_a": 20, "resistance_ohm": 0.004}),
            "W1": ("a", "b", joint(0.006)),
        },
        {
            "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
            "E1": ({"+": "b", "-": "minus"}, {"kind": "resistive", "rated_v": 12, "rated_a": 12}),
        },
    )


def shown(fault: object, *asked: dict[str, object], noise: int | None = None) -> list[Measurement]:
    """What is shown of measurements with a fault, key on."""
    listed = MEASUREMENTS.validate_python([{"situation": ON, **each} for each in asked])
    return measure(fused(), listed, [] if fault is None else FAULTS.validate_python(fault), noise)


def voltage(red: str, black: str) -> dict[str, object]:
    return {"quantity": "voltage", "red_point": red, "black_point": black}


class HiddenFaults(TestCase):
    def test_by_hand(self) -> None:
        """12.65 V over 10 + 4 + 6 mΩ, the load's 1 Ω, and what the fault adds."""
        load, drop = voltage("b", "minus"), voltage("a", "b")
        for fault, at_load, lost in (
            (None, 12.65 / 1.02, 12.65 / 1.02 * 0.006),
            ({"part": "W1", "fault": "resistance", "ohm": 0.3}, 12.65 / 1.32, 12.65 / 1.32 * 0.306),
            ({"part": "W1", "fault": "broken strands", "ohm": 1000}, 12.65 / 1001.02, 12.65 / 1001.02 * 1000.006),
            ({"part": "W1", "fault": "open"}, 0.0, 12.65),
            ([{"part": "F1", "fault": "open"}], 0.0, 0.0),
        ):
            found = shown(fault, load, drop)
            self.assertAlmostEqual(found[0].value or 0, at_load, delta=2e-3, msg=str(fault))
            self.assertAlmostEqual(found[1].value or 0, lost, delta=2e-3, msg=str(fault))

    def test_a_battery_goes_flat_whether_or_not_it_was_measured_when_it_was_full(self) -> None:
        """Its resistance when full, typed, is what its marking says anyway; without charge it has more of it."""
        vehicle, marked = fused(), Battery(capacity_ah=70, cold_cranking_a=600, state_of_charge_percent=100)
        ohm = usual_resistance_ohm(marked, 12)
        typed = marked.model_copy(update={"resistance_ohm": ohm, "charge_a": usual_acceptance_a(marked)})
        low, at_load = FAULTS.validate_python({"part": "G1", "fault": "low"}), []
        for spec in (marked, typed):
            battery = replace(vehicle.devices["G1"], spec=spec)
            one = replace(vehicle, devices={**vehicle.devices, "G1": battery})
            asked = MEASUREMENTS.validate_python([{"situation": ON, **voltage("b", "minus")}])
            at_load.append(measure(one, asked, low)[0].value or 0.0)
        self.assertAlmostEqual(*at_load, places=9)

    def test_a_short_blows_its_fuse(self) -> None:
        """12.65 V ÷ 14 mΩ is 45 times its rating: nothing is left behind it, all of it in front."""
        chafed = {"part": "W1", "fault": "chafed to ground"}
        looked = {"quantity": "seen", "segment": "F1"}
        load = {"quantity": "seen", "device": "E1"}
        dead, whole, fuse, load_seen = shown(chafed, voltage("b", "minus"), voltage("plus", "a"), looked, load)
        self.assertAlmostEqual(dead.value or 0, 0, delta=1e-3)
        self.assertAlmostEqual(whole.value or 0, 12.65, delta=1e-3)
        self.assertEqual((fuse.outcome, load_seen.outcome), ("blown", "dead"))
        lamp = {"quantity": "lamp", "red_point": "plus", "black_point": "a"}
        self.assertEqual([each.outcome for each in shown(chafed, lamp)], ["bright"])
        self.assertEqual([each.outcome for each in shown(None, looked)], ["whole"])

    def test_another_relay_cures_what_was_bad_at_the_relay_and_nothing_else(self) -> None:
        """A relay that is swapped is another coil and another contact; the wire behind it is the same."""
        van = demo("market-van")
        swapped = Situation(state="idle", preparations=(preparation("swap K3"),))
        looks = [
            Measurement(quantity="seen", device="m2", situation=each) for each in (Situation(state="idle"), swapped)
        ]
        for part, fault, outcomes in (
            ("k3", "does not close", ["dead", "weak"]),
            ("k3-coil", "open", ["dead", "weak"]),
            ("w9", "open", ["dead", "dead"]),
        ):
            with self.subTest(part):
                shown = measure(van, looks, FAULTS.validate_python([{"part": part, "fault": fault}]))
                self.assertEqual([each.outcome for each in shown], outcomes)

    def test_noise_is_the_instruments_own_and_the_same_for_the_same_seed(self) -> None:
        """±(0.5 % + 2 digits) of 12.4 V in steps of 10 mV; 95 of 100 are within."""
        asked = [voltage("b", "minus")] * 200
        first, again = (shown(None, *asked, noise=7) for _ in range(2))
        self.assertEqual(first, again)
        values = [each.value or 0 for each in first]
        self.assertTrue(all(abs(each * 100 - round(each * 100)) < 1e-6 for each in values))
        within = [each for each in values if abs(each - 12.402) <= 0.005 * 12.402 + 0.02 + 0.005]
        self.assertGreaterEqual(len(within), 184)
        self.assertGreater(max(values) - min(values), 0.05)

    def test_what_is_not_there_is_named(self) -> None:
        with self.assertRaises(FaultError) as fault:
            shown({"part": "W9", "fault": "open"}, voltage("a", "b"))
        self.assertEqual(fault.exception.field, ("faults", 0, "part"))
        with self.assertRaises(MeasurementError) as point:
            shown(None, voltage("a", "b"), voltage("a", "z"))
        self.assertEqual(point.exception.field, (1, "black_point"))


class Scpi(TestCase):
    def setUp(self) -> None:
        self.meter = BenchMeter(seed=1)
        self.meter.lay_out(rotten(5.0), "a job")

    def test_readings_in_short_and_long_forms(self) -> None:
        """12.65 V over 6.02 Ω: 2.1 A, 2.1 V at the load, 10.5 V over the joint (SCPI-1999: +1.05E+01)."""
        self.meter.answer(
            'SIM:MEAS {"quantity":"voltage","red_point":"in","black_point":"out","situation":{"state":"on"}}'
        )
        for asked in ("MEAS:VOLT:DC?", "measure:voltage:dc?", ":CONF:VOLT:DC;READ?"):
            said = self.meter.answer(asked) or ""
            self.assertRegex(said, r"^\+1\.0\d+E\+01$")
            self.assertAlmostEqual(float(said), 10.51, delta=0.1)
        self.assertIn("Percorso", self.meter.answer("*IDN?") or "")
        self.assertEqual(self.meter.answer("SYST:ERR?"), '0,"No error"')

    def test_errors_are_queued_and_nothing_is_made_up(self) -> None:
        for told, number in (
            ("FLY:AWAY", "-113"),
            ("READ?", "-221"),  # no probes yet
            ("SIM:MEAS nonsense", "-104"),
            ('SIM:MEAS {"quantity":"voltage"}', "-224"),
        ):
            self.assertIsNone(self.meter.answer(told))
            self.assertTrue((self.meter.answer("SYSTem:ERRor?") or "").startswith(number), told)
        self.meter.answer('SIM:MEAS {"quantity":"voltage","red_point":"in","black_point":"nowhere"}')
        self.assertIsNone(self.meter.answer("READ?"))
        self.assertIn("nowhere", self.meter.answer("SYST:ERR?") or "")
        off = '"situation":{"preparations":[{"do":"battery off"},{"do":"lift","part":"J1"}]}'
        self.meter.answer('SIM:MEAS {"quantity":"resistance","red_point":"in","black_point":"out",' + off + "}")
        self.assertEqual(self.meter.answer("MEAS:RES?"), "9.9E37")
