"""What sizing, guards and verdicts say, figure by figure, and where their rules begin and end."""

from dataclasses import replace
from unittest import TestCase

from core.tests.support.demo import demo
from core.tests.support.feed import feed
from percorso.circuits.verdict import judge_drop
from percorso.circuits.worst_currents import Flows
from percorso.components.conductors import find_size
from percorso.components.fuses import FuseChoice, opens_between_s
from percorso.house_rules import HouseRules
from percorso.sizing.ampacity import warming_a
from percorso.sizing.protection_zones import (
    alternator_through_a,
    flowing_a,
    fuse_that_stays,
    guard_order,
    source_ohm,
)
from percorso.sizing.wire_size import Duty, WireTask, drop_refusal, refusals, size_wire
from percorso.vehicle.segments import Fuse
from percorso.vehicle.stages import vehicle_at

RULES = HouseRules()
VAN = vehicle_at(demo("market-van"), "planned")


class Sentences(TestCase):
    def test_a_verdict_says_what_is_left_or_lost(self) -> None:
        self.assertEqual(judge_drop(0.47, 0.5, RULES).reason, "only 30 mV left of 0.50 V allowed")
        self.assertEqual(judge_drop(0.62, 0.5, RULES).reason, "drops 0.62 V; 0.50 V allowed")
        self.assertEqual(judge_drop(0.1, 0.5, RULES).reason, "drops 0.10 V; 0.50 V allowed")

    def test_a_size_is_refused_by_how_much(self) -> None:
        self.assertEqual(drop_refusal(0.62, 0.5, RULES), {"voltage drop": "over by 0.12 V"})
        self.assertEqual(drop_refusal(0.47, 0.5, RULES), {"voltage drop": "only 30 mV left of 0.5 V allowed"})

    def test_each_school_says_why_it_takes_a_size(self) -> None:
        """Generous is one size above usual, light the smallest that does it at all (common practice)."""
        task = WireTask(current_a=15, length_m=4, source_v=13.5, allowed_drop_v=0.5)
        usual = size_wire(task, "metric", RULES)
        generous = size_wire(task, "metric", replace(RULES, school="generous"))
        sizes = [each.size for each in usual.candidates]
        self.assertEqual(sizes.index(generous.size or ""), sizes.index(usual.size or "") + 1)
        self.assertIn("is the smallest that meets everything with the usual margin", usual.reason)
        self.assertTrue(generous.reason.startswith(f"{generous.size} is one size above {usual.size} (generous)"))
        light = size_wire(task, "metric", replace(RULES, school="light"))
        self.assertTrue(light.reason.startswith(f"{light.size} is the smallest that meets everything, with"))

    def test_generous_takes_the_thickest_where_nothing_is_above_it(self) -> None:
        """4/0 AWG carries 445 A (ABYC E-11, from memory), 378 A with the usual margin; 3/0 AWG 385 A and 327 A."""
        task = WireTask(current_a=330, length_m=1, source_v=13.5, allowed_drop_v=1.0, wants_fuse=False)
        rules = replace(RULES, ampacity_rule="table", wire_rise_k=200)
        for school in ("usual", "generous"):
            self.assertEqual(size_wire(task, "awg", replace(rules, school=school)).size, "4/0 AWG")

    def test_a_wire_is_warm_from_its_own_current_on_and_not_before(self) -> None:
        size, duty = find_size("2.5 mm2"), Duty(1.0)
        warms = warming_a(duty.cable(size), RULES.wire_rise_k, duty.air_c, duty.bundle)
        for share, warm in ((0.999, False), (1.001, True)):
            refused = refusals(size, replace(duty, continuous_a=share * warms), RULES)
            self.assertEqual("warmth" in refused, warm)

    def test_what_no_size_does_is_said_of_the_one_that_comes_closest(self) -> None:
        """4/0 AWG of 105 °C carries 445 A (ABYC E-11, from memory)."""
        task = WireTask(current_a=460, length_m=1, source_v=13.5, allowed_drop_v=1.0)
        closest = "4/0 AWG is refused (good for 445 A, 460 A flow); take insulation for more heat"
        usual, light = (size_wire(task, "awg", each).reason for each in (RULES, replace(RULES, school="light")))
        self.assertTrue(usual.startswith(f"no stocked size does it with margin: {closest}"), usual)
        self.assertTrue(light.startswith(f"no stocked size does it: {closest}"), light)

    def test_a_wire_too_thin_for_its_load_is_not_said_to_want_a_fuse_as_well(self) -> None:
        task = WireTask(current_a=30, length_m=1, source_v=13.5, allowed_drop_v=1.0)
        tried = {each.size: each for each in size_wire(task, "awg", RULES).candidates}
        self.assertIn("ampacity", tried["18 AWG"].refused)
        self.assertNotIn("fuse", tried["18 AWG"].refused)

    def test_a_bare_task_is_a_105_degree_cable(self) -> None:
        """10 AWG, 105 °C insulation outside engine spaces: 60 A (ABYC E-11, from memory)."""
        task = WireTask(current_a=10, length_m=1, source_v=13.5, allowed_drop_v=1.0)
        rules = replace(RULES, ampacity_rule="table")
        tried = {each.size: each for each in size_wire(task, "awg", rules).candidates}
        self.assertAlmostEqual(tried["10 AWG"].ampacity_a, 60)


class Guards(TestCase):
    def test_beyond_the_last_gate_the_same_heat_opens_a_fuse(self) -> None:
        """I²t: twice six times the rating opens it in a quarter of the time."""
        once, twice = (opens_between_s(20, times * 20).earliest_s for times in (6, 12))
        self.assertAlmostEqual(once / twice, 4)

    def test_a_short_in_a_charge_cable_is_fed_from_the_battery(self) -> None:
        [charge] = [each for each in VAN.circuits.values() if each.family == "charging"]
        battery = {"G1", *(each.terminals["+"] for each in VAN.devices.values() if each.spec.kind == "battery")}
        first = guard_order(VAN, charge)[0]
        self.assertTrue(battery & {first.from_point, first.to_point})

    def test_the_alternator_counts_on_its_charge_path_alone(self) -> None:
        [charge] = [each for each in VAN.circuits.values() if each.family == "charging"]
        makes = next(each.spec.at_6000_a for each in VAN.devices.values() if each.spec.kind == "alternator")
        self.assertTrue(all(alternator_through_a(VAN, each) == makes for each in charge.supply))
        elsewhere = {each for other in VAN.circuits.values() for each in other.supply} - set(charge.supply)
        self.assertEqual({alternator_through_a(VAN, each) for each in elsewhere}, {0})

    def test_cranking_may_take_all_of_a_guards_rating(self) -> None:
        """A guard is chosen at 80 % of its rating (house rule): 200 A of a starter stand for 160 A for long."""
        worst = Flows({"F1": {"cranking": 200.0, "idle": 20.0}}, {}, {})
        vehicle = feed()
        self.assertAlmostEqual(flowing_a(vehicle, worst, "F1", RULES), 200)
        starting = {each.id: replace(each, family="starting") for each in vehicle.circuits.values()}
        self.assertAlmostEqual(flowing_a(replace(vehicle, circuits=starting), worst, "F1", RULES), 160)

    def test_a_good_fuse_stays_unless_the_school_is_light_or_it_is_new(self) -> None:
        vehicle, asked = feed(), FuseChoice(20, 15, 18.75, 30, "")
        spec = vehicle.segments["F1"].spec
        assert isinstance(spec, Fuse)
        kept = fuse_that_stays(vehicle, "F1", spec, asked, RULES)
        self.assertEqual(kept and kept.rating_a, 25)
        self.assertIsNone(fuse_that_stays(vehicle, "F1", spec, asked, replace(RULES, school="light")))
        new = replace(vehicle, segments={**vehicle.segments, "F1": replace(vehicle.segments["F1"], origin="new")})
        self.assertIsNone(fuse_that_stays(new, "F1", spec, asked, RULES))

    def test_without_a_battery_there_is_nothing_behind_a_short(self) -> None:
        self.assertEqual(source_ohm(replace(feed(), devices={})), 0)
