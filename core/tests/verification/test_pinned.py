"""What a reading pins down of metal that is only assumed."""

from dataclasses import replace
from unittest import TestCase

from percorso.house_rules import HouseRules
from percorso.planning.apply import edited
from percorso.usual_vehicles.laying import usual_vehicle
from percorso.vehicle.model import Vehicle
from percorso.verification.judging.logged import Logged
from percorso.verification.judging.pinned import pinned
from percorso.verification.measured.measurements import Measurement, Situation

CRANKING_A = 150.0
JUST_LAID = usual_vehicle({"kind": "car", "battery_at": "engine bay"})


def across(vehicle: Vehicle, segment: str, value: float, current_a: float | None = CRANKING_A) -> Logged:
    part = vehicle.segments[segment]
    ends = {"red_point": part.from_point, "black_point": part.to_point}
    situation = Situation(stage="found", state="cranking")
    return Logged(Measurement(quantity="voltage", situation=situation, value=value, **ends), current_a=current_a)


class Pinned(TestCase):
    def test_a_cable_is_as_long_as_its_drop_says(self) -> None:
        """75 mV at 150 A are 0.5 mΩ: 50 mm² has 0.368 mΩ a metre at 20 °C (ISO 6722-1), some 0.48 at 85 °C."""
        found = pinned(JUST_LAID, across(JUST_LAID, "w1", 0.075))
        assert found
        self.assertAlmostEqual(found.edit.change["length_m"], 0.0005 / (0.000368 * 1.26), delta=0.06)
        self.assertRegex(found.says, r"^W1 has 0\.5 mΩ by it, like 1\.\d+ m of its size$")
        taken = edited(JUST_LAID, [found.edit], HouseRules(), lambda: "")
        self.assertEqual(taken.segments["w1"].known, "measured")
        self.assertIsNone(pinned(taken, across(taken, "w1", 0.075)))

    def test_a_joint_has_the_resistance_that_was_read(self) -> None:
        found = pinned(JUST_LAID, across(JUST_LAID, "j2", 0.09))
        assert found
        self.assertAlmostEqual(found.edit.change["resistance_ohm"], 0.0006)

    def test_what_pins_nothing_down(self) -> None:
        """A rotten joint, a current nobody measured, a drop that a meter hardly shows, two wires side by side."""
        self.assertIsNone(pinned(JUST_LAID, across(JUST_LAID, "j2", 1.5)))
        self.assertIsNone(pinned(JUST_LAID, across(JUST_LAID, "j2", 0.09, current_a=None)))
        self.assertIsNone(pinned(JUST_LAID, across(JUST_LAID, "j2", 0.003, current_a=5)))
        twin = replace(JUST_LAID.segments["w1"], id="w99", designation="W99")
        both = replace(JUST_LAID, segments={**JUST_LAID.segments, "w99": twin})
        self.assertIsNone(pinned(both, across(both, "w1", 0.075)))
