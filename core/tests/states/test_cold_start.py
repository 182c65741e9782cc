"""How cold it may be to crank: by pocket calculator, by what must go with what, and by what a cure really wins."""

from dataclasses import replace
from itertools import pairwise
from typing import Any
from unittest import TestCase

from core.tests.support.demo import demo
from core.tests.support.small import joint, key, small_vehicle
from percorso.components.stiffness import stiffness
from percorso.house_rules import HouseRules
from percorso.network.mornings import cranked, on_a_morning
from percorso.network.operating_point import Network
from percorso.states.cold_start import ColdStart, cold_starts
from percorso.study import Study
from percorso.vehicle.model import Vehicle

STARTER = {"kind": "starter", "running_v": 10, "running_a": 150, "locked_v": 4, "locked_a": 400}
BATTERY = {"kind": "battery", "capacity_ah": 60, "cold_cranking_a": 540}


def started(cable_ohm: float = 0.001, ground_ohm: float = 0.001, trigger_ohm: float = 0.01, **more: Any) -> Vehicle:
    """A starter on a battery, its trigger by the key."""
    segments = {
        "W1": ("plus", "30", joint(cable_ohm)),
        "J1": ("31", "minus", joint(ground_ohm)),
        "S1": ("plus", "switched", key("start")),
        "W2": ("switched", "50", joint(trigger_ohm)),
    }
    devices = {
        "G1": ({"+": "plus", "-": "minus"}, BATTERY | more),
        "M1": ({"30": "30", "31": "31", "50": "50"}, STARTER),
    }
    return small_vehicle(segments, devices)


def how_cold(vehicle: Vehicle) -> ColdStart:
    [found] = cold_starts(vehicle)
    return found


class ByHand(TestCase):
    def test_a_morning_by_pocket_calculator(self) -> None:
        """At −18 °C a petrol engine asks 2.2 times its torque (from memory): 330 A, a tenth of it with the speed.

        The battery then has (12.6 − 7.2) V ÷ 540 A = 10 mΩ (SAE J537, from memory). From 12.65 V, less what its
        solenoid draws: the motor's 297 A and a tenth by its voltage (3.3 A a volt) leave 12.65 − 0.010 · I there.
        """
        morning = cranked(started(), Network(started()).vehicle.devices["M1"], -18.0)
        solenoid_a = 8.0
        posts_v = (12.65 - 0.010 * (297 + solenoid_a) + 0.010 * 3.3 * 0.002 * 330) / (1 + 0.010 * 3.3)
        self.assertAlmostEqual(morning.posts_v or 0.0, posts_v, delta=0.05)
        self.assertAlmostEqual(morning.current_a or 0.0, 297 + 3.3 * (morning.starter_v or 0.0), delta=1.0)
        behind = (morning.starter_v or 0.0) - 0.01 * (morning.current_a or 0.0)
        self.assertAlmostEqual(morning.speed or 0.0, behind / (10 - 0.01 * 150), places=6)

    def test_a_solenoid_that_nothing_feeds_is_not_said_to_lose_its_volts_on_the_way(self) -> None:
        vehicle = started()
        unfed = {each: one for each, one in vehicle.segments.items() if each != "W2"}
        found = how_cold(replace(vehicle, segments=unfed))
        self.assertEqual((found.coldest_c, found.limit), (None, "trigger"))
        self.assertEqual(found.why, "Nothing feeds its solenoid while cranking.")

    def test_stiffness_goes_up_in_the_cold_and_more_for_a_diesel(self) -> None:
        """About 1.5 at 0 and 2.2 at −18 °C for petrol (from memory)."""
        self.assertEqual([stiffness("petrol", each) for each in (25.0, 0.0, -18.0)], [1.0, 1.5, 2.2])
        for warmer, colder in pairwise((25.0, 10.0, 0.0, -10.0, -18.0, -25.0, -30.0)):
            self.assertLess(stiffness("petrol", warmer), stiffness("petrol", colder))
            self.assertLess(stiffness("petrol", colder), stiffness("diesel", colder))

    def test_a_measured_battery_grows_as_its_kind_does(self) -> None:
        """Warm resistance is half the cold one (common practice): 8 mΩ at 25 °C are 16 at −18."""
        cold = on_a_morning(started(resistance_ohm=0.008), -18.0).devices["G1"].spec
        self.assertAlmostEqual(cold.resistance_ohm, 0.016)


class Limits(TestCase):
    def test_each_weak_spot_is_named(self) -> None:
        self.assertEqual(how_cold(started()).limit, "battery")
        self.assertEqual(how_cold(started(cable_ohm=0.022)).limit, "cable")
        self.assertEqual(how_cold(started(ground_ohm=0.022)).limit, "ground")
        self.assertEqual(how_cold(started(trigger_ohm=0.65)).limit, "trigger")
        flat = how_cold(started(state_of_charge_percent=0, resistance_ohm=0.05))
        self.assertEqual((flat.coldest_c, flat.limit), (None, "battery"))

    def test_it_starts_down_to_there_and_not_below(self) -> None:
        for vehicle in (started(), started(ground_ohm=0.022), started(trigger_ohm=0.65)):
            found = how_cold(vehicle)
            assert found.coldest_c is not None
            starter = vehicle.devices["M1"]
            self.assertTrue(cranked(vehicle, starter, found.coldest_c).starts(12))
            self.assertFalse(cranked(vehicle, starter, found.coldest_c - 0.5).starts(12))
            for warmer, colder in pairwise(found.curve):
                if warmer.posts_v and colder.posts_v:
                    self.assertGreaterEqual(warmer.posts_v, colder.posts_v)

    def test_what_a_cure_is_said_to_win_it_wins(self) -> None:
        """A battery a quarter stronger, in fact: 680 A instead of 540."""
        found = how_cold(started())
        wins = {each.what: each.kelvin for each in found.wins}
        stronger = how_cold(started(cold_cranking_a=680))
        assert found.coldest_c is not None and stronger.coldest_c is not None
        self.assertAlmostEqual(wins["G1 of 680 A instead of 540 A"], found.coldest_c - stronger.coldest_c, delta=0.6)

    def test_better_metal_never_starts_worse(self) -> None:
        losses = (0.03, 0.02, 0.012, 0.006, 0.002)
        coldest = [how_cold(started(ground_ohm=each)).coldest_c for each in losses]
        self.assertLess(coldest[-1] or 0.0, coldest[0] if coldest[0] is not None else 30.0)


class Noticed(TestCase):
    def test_a_starter_that_cranks_today_and_not_on_the_coldest_morning(self) -> None:
        vehicle = demo("vineyard-tractor")
        for morning_c, is_said in ((-10.0, True), (20.0, False)):
            rules = replace(HouseRules(), coldest_morning_c=morning_c)
            said = [each.title for each in Study(vehicle, rules).state_findings("cranking", "planned", {})]
            self.assertEqual(any("does not start the engine at" in each for each in said), is_said, said)
