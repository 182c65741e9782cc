"""What an alternator does whose regulator does not see what it makes, and what that does to everything on it."""

from typing import Any
from unittest import TestCase

from core.tests.support.small import joint, small_vehicle
from percorso.house_rules import HouseRules
from percorso.network.device_results import doing
from percorso.network.operating_point import Network
from percorso.study import Study
from percorso.vehicle.model import Vehicle

MADE: dict[str, Any] = {"kind": "alternator", "setpoint_v": 14.2, "at_1800_a": 40, "at_6000_a": 90}
MADE |= {"self_excites_rpm": 1200}
LAMP = {"kind": "filament lamp", "rated_v": 12, "rated_a": 4.6}
BATTERY = {"kind": "battery", "capacity_ah": 60, "cold_cranking_a": 540}
CABLE, LEAD = {"kind": "wire", "size": "16 mm2", "length_m": 2}, {"kind": "wire", "size": "1 mm2", "length_m": 2}


def charged(*, cable: bool = True, sense: bool = True, battery: bool = True, **more: Any) -> Vehicle:
    """An alternator with a lamp on its post, a cable and a sense lead to the battery."""
    segments = {"J1": ("case", "minus", joint(1e-4))}
    segments |= {"W1": ("post", "plus", CABLE)} if cable else {}
    segments |= {"W2": ("plus", "sense", LEAD)} if sense else {}
    devices = {
        "A1": ({"B+": "post", "B-": "case", "S": "sense"}, MADE | more),
        "L1": ({"+": "post", "-": "minus"}, LAMP),
        "L2": ({"+": "plus", "-": "minus"}, LAMP),
    }
    devices |= {"G1": ({"+": "plus", "-": "minus"}, BATTERY)} if battery else {}
    return small_vehicle(segments, devices)


class RunningAway(TestCase):
    def test_with_its_cable_off_it_is_bounded_by_its_rotor_and_destroys_what_hangs_on_it(self) -> None:
        """5 V per 1 000 rpm: 30 V at its 6 000 on the road (from memory); 12 V lamps stand 18."""
        vehicle = charged(cable=False)
        road = Network(vehicle).solve("road")
        self.assertEqual(road.regulation["A1"], "running away")
        self.assertAlmostEqual(road.points["post"].v or 0.0, 30.0, places=2)
        lamp = vehicle.devices["L1"]
        self.assertEqual((road.devices["L1"].on, doing(lamp.spec, road.devices["L1"])), (False, "destroyed"))
        said = Study(vehicle, HouseRules()).state_findings("road", "found", {})
        [runs] = [each for each in said if "runs away" in each.title]
        self.assertIn("30 V", runs.title)
        self.assertRegex(runs.reason, r"sees 12\.\d V .*destroys L1\.")
        self.assertLessEqual(Network(vehicle).solve("idle").points["post"].v or 0.0, 1.25 * 14.2 + 1e-6)

    def test_without_a_battery_it_regulates_by_its_sense_lead(self) -> None:
        road = Network(charged(battery=False)).solve("road")
        self.assertEqual(road.regulation["A1"], "regulating")
        self.assertAlmostEqual(road.points["plus"].v or 0.0, 14.2, places=1)

    def test_without_its_sense_lead_it_falls_back_to_its_own_post_where_its_kind_does(self) -> None:
        falls_back, blind = charged(sense=False), charged(sense=False, senses_own_post=False)
        road = Network(falls_back).solve("road")
        self.assertEqual(road.regulation["A1"], "regulating")
        self.assertAlmostEqual(road.voltage_v("post", "case") or 0.0, 14.2, places=6)
        self.assertEqual(self._open_lead(falls_back).count("falls back to its own post"), 1)
        without = Network(charged(sense=False, senses_own_post=False, battery=False)).solve("road")
        self.assertAlmostEqual(without.voltage_v("post", "case") or 0.0, 30.0, places=6)
        self.assertGreater(
            Network(blind).solve("road").voltage_v("post", "case") or 0.0, 15.0
        )  # the battery takes much
        self.assertIn("sees nothing", self._open_lead(blind))

    def _open_lead(self, vehicle: Vehicle) -> str:
        said = Study(vehicle, HouseRules()).state_findings("road", "found", {})
        return next(each.reason for each in said if "sense lead of A1 is open" in each.title)
