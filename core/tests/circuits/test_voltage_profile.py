"""A circuit's profile, sizing and findings, worked by hand with handbook values."""

from dataclasses import replace
from typing import get_args
from unittest import TestCase

from pydantic import ValidationError

from core.tests.support.pump_feed import pump_feed
from percorso.circuits.design_case import planned
from percorso.circuits.voltage_profile import profile
from percorso.components.conductors import find_size
from percorso.components.fuses import choose_fuse, fuse_ratings_a
from percorso.errors import PathError
from percorso.findings.finding import Finding
from percorso.findings.plan import circuit_findings
from percorso.house_rules import HouseRules, School
from percorso.network.operating_point import Network
from percorso.planning.apply import edited
from percorso.sizing.ladders import Ladder, ladders
from percorso.sizing.protection_zones import fuse_in_front_a
from percorso.sizing.wire_size import Duty, WireTask, refusals, size_wire
from percorso.targets import FAMILIES, Target
from percorso.vehicle.model import Circuit, Segment, Vehicle
from percorso.vehicle.resistance import connection_ohm, segment_resistance_ohm
from percorso.vehicle.segments import KINDS, SEGMENT_SPEC
from percorso.vehicle.validity import check_circuit

RULES = HouseRules()
LIGHT = HouseRules(school="light")


class PotentialAlongACircuit(TestCase):
    def test_volts_are_lost_where_the_resistance_is(self) -> None:
        """By hand: 20 A × 4.572 m × 3.277 mΩ/m (NBS Handbook 100, from memory) = 0.2997 V each way."""
        vehicle, circuit = pump_feed()
        solved = profile(vehicle, circuit, RULES)
        by_hand = {"F1": 0.080, "W1": 0.2997, "W2": 0.2997, "G1": 0.020}
        for name, drop in by_hand.items():
            self.assertAlmostEqual(solved.leg(name).drop_v, drop, places=3)
        self.assertAlmostEqual(solved.supply_drop_v, 0.380, places=3)
        self.assertAlmostEqual(solved.return_drop_v, 0.320, places=3)
        self.assertAlmostEqual(solved.device_v, 12.30, places=2)
        self.assertAlmostEqual(solved.leg("W1").power_w, 5.99, places=2)
        self.assertAlmostEqual(sum(leg.share for leg in solved.legs), 1)
        self.assertAlmostEqual(solved.legs[-1].lost_after_v, solved.total_drop_v)

    def test_verdict_follows_each_kind_of_target(self) -> None:
        """0.70 V are lost from 13 V in a 12 V system."""
        vehicle, circuit = pump_feed()
        for target, word in [
            (Target("max_drop_v", 0.8), "pass"),
            (Target("max_drop_v", 0.71), "marginal"),
            (Target("max_drop_v", 0.69), "fail"),
            (Target("max_drop_percent", 6), "marginal"),
            (Target("max_drop_percent", 3), "fail"),
            (Target("min_device_v", 12), "pass"),
            (Target("min_device_v", 12.5), "fail"),
            (Target("min_device_v", 13.5), "fail"),
        ]:
            with self.subTest(target):
                self.assertEqual(profile(vehicle, replace(circuit, target=target), RULES).verdict.word, word)

    def test_a_segment_carries_current_either_way(self) -> None:
        vehicle, circuit = pump_feed()
        turned = replace(vehicle.segments["W1"], from_point="plus", to_point="f")
        either = replace(vehicle, segments={**vehicle.segments, "W1": turned})
        self.assertEqual(profile(either, circuit, RULES), profile(vehicle, circuit, RULES))

    def test_broken_paths_name_the_segment(self) -> None:
        vehicle, circuit = pump_feed()
        bridge = Segment("B", "B", "plus", "stud", vehicle.segments["F1"].spec)
        crossing = Segment("C", "C", "lug", "plus", vehicle.segments["F1"].spec)
        elsewhere = Segment("E", "E", "plus", "other job", vehicle.segments["F1"].spec)
        vehicle = replace(vehicle, segments={**vehicle.segments, "B": bridge, "C": crossing, "E": elsewhere})
        for changes, hint, place in [
            ({"return_path": ()}, "no return side", ("return_path",)),
            ({"supply": ()}, "no supply side", ("supply",)),
            ({"supply": ("W1", "F1")}, "does not start at", ("supply", 0)),
            ({"supply": ("F1", "W1", "B")}, "loop", ("supply", 2)),
            ({"return_path": ("W2", "C")}, "meets the supply", ("return_path",)),
            ({"supply": ("F1", "W1", "E")}, "another job", ("supply", 2)),
            ({"supply": ("F1", "W9")}, "does not have", ("supply", 1)),
            ({"source_point": "elsewhere"}, "starts at a point", ("source_point",)),
        ]:
            with self.subTest(changes), self.assertRaisesRegex(PathError, hint) as caught:
                check_circuit(vehicle, replace(circuit, **changes))
            self.assertEqual(caught.exception.field, place)

    def test_a_ground_circuit_needs_no_supply_side(self) -> None:
        vehicle, circuit = pump_feed()
        ground = replace(circuit, family="ground", source_point=None, supply=())
        self.assertAlmostEqual(profile(vehicle, ground, RULES).total_drop_v, 0.320, places=3)

    def test_every_family_has_a_usual_target(self) -> None:
        for family in FAMILIES:
            self.assertGreater(HouseRules().target(family).value, 0)


class SegmentValues(TestCase):
    def test_typed_text_is_understood_and_kept(self) -> None:
        spec = SEGMENT_SPEC.validate_python({"kind": "wire", "size": "10ga", "length_m": "30 ft"})
        self.assertEqual((spec.size, spec.length_m, spec.typed), ("10 AWG", 9.144, {"length_m": "30 ft"}))
        again = SEGMENT_SPEC.validate_python(spec.model_dump())
        self.assertEqual(again, spec)

    def test_absurd_values_are_refused(self) -> None:
        for spec in [
            {"kind": "wire", "size": "10 AWG", "length_m": -1},
            {"kind": "wire", "size": "10 AWG", "length_m": float("nan")},
            {"kind": "wire", "size": "10 AWG", "length_m": float("inf")},
            {"kind": "wire", "size": "10 AWG", "length_m": 1000},
            {"kind": "wire", "size": "37 AWG", "length_m": 1},
            {"kind": "wire", "size": "10 AWG", "length_m": 1, "colour": "red"},
            {"kind": "fuse", "rating_a": 22},
            {"kind": "fuse", "rating_a": 200, "family": "blade"},
            {"kind": "joint", "resistance_ohm": -0.001},
            {"kind": "warp drive"},
        ]:
            with self.subTest(spec), self.assertRaises(ValidationError):
                SEGMENT_SPEC.validate_python(spec)

    def test_every_condition_has_a_typical_resistance(self) -> None:
        """Orders of magnitude, common practice: a sound joint is under 5 mΩ, a lug on rust tens."""
        for kind in KINDS:
            if "condition" in kind.model_fields:
                for condition in kind.model_fields["condition"].annotation.__args__:
                    self.assertGreater(connection_ohm(kind.model_fields["kind"].default, condition)[1], 0)
        self.assertGreaterEqual(connection_ohm("joint", "lug on paint or rust")[1], 0.010)

    def test_a_fuse_loses_a_tenth_of_a_volt_at_its_rating(self) -> None:
        """Blade fuse ≈ 0.1 V at rating, from memory."""
        fuse = SEGMENT_SPEC.validate_python({"kind": "fuse", "rating_a": 20})
        self.assertAlmostEqual(20 * segment_resistance_ohm(fuse), 0.1)


def steps_of(vehicle: Vehicle, circuit: Circuit) -> dict[str, Ladder]:
    solved = profile(vehicle, circuit, RULES)
    return ladders(planned(Network(vehicle), LIGHT), circuit, solved)


class Sizing(TestCase):
    def test_drop_governs_a_long_feed(self) -> None:
        """20 A, 30 ft, 0.5 V: needs ≤ 2.734 mΩ/m; the handbook gives 10 AWG 3.277 (too much) and 8 AWG 2.061.

        Those lose 0.377 V, three quarters of what is allowed: the usual margin takes it too.
        """
        choice = size_wire(WireTask(20, 9.144, 13, 0.5), "awg", RULES)
        self.assertEqual((choice.size, choice.governed_by), ("8 AWG", "voltage drop"))
        self.assertEqual(choice.fuse and choice.fuse.rating_a, 25)

    def test_wire_and_fuse_agree(self) -> None:
        """30 A over 0.5 m: 14 AWG stands 35 A (ABYC E-11, from memory), but 30 A ÷ 0.8 ask for a 40 A fuse."""
        choice = size_wire(WireTask(30, 0.5, 13, 0.5), "awg", LIGHT)
        self.assertEqual((choice.size, choice.governed_by), ("12 AWG", "fuse"))
        self.assertEqual(choice.fuse and choice.fuse.rating_a, 40)
        self.assertIn("with a 40 A fuse", choice.reason)
        cable = size_wire(WireTask(30, 0.5, 13, 0.5, wants_fuse=False), "awg", LIGHT)
        self.assertEqual((cable.size, cable.governed_by), ("14 AWG", "ampacity"))

    def test_schools(self) -> None:
        """15 A, 0.24 Ω·A to lose over 3 m: 16 AWG (13.17 mΩ/m) loses 0.593 V of 0.60 V, which is close.

        14 AWG (8.286) loses 0.373 V and carries 35 A (ABYC E-11, from memory), 15 A of them being 43 %.
        """
        task = WireTask(15, 3, 13, 0.6, temperature_c=20)
        chosen = {school: size_wire(task, "awg", HouseRules(school=school)).size for school in get_args(School)}
        self.assertEqual(chosen, {"light": "16 AWG", "usual": "14 AWG", "generous": "12 AWG"})
        for school in get_args(School):
            self.assertRegex(
                size_wire(task, "awg", HouseRules(school=school)).reason, "meets everything|usual|generous"
            )

    def test_as_usual_nothing_runs_at_its_limit(self) -> None:
        """At most 85 % of what it may carry, at most 40 K over its surroundings (common practice).

        In 85 °C air 10 mm² of 125 °C insulation stands √(40 ÷ 95) of its 100 A (ISO 10133, from memory): 64.9 A.
        """
        bay = Duty(continuous_a=60, air_c=85, engine_space=True)
        tenth = find_size("10 mm2")
        self.assertEqual(set(refusals(tenth, bay, RULES)), {"ampacity"})
        self.assertIn("at 92% of the 64.9 A", refusals(tenth, bay, RULES)["ampacity"])
        self.assertEqual(refusals(tenth, bay, LIGHT), {})
        cool = Duty(continuous_a=34, air_c=20, insulation=105.0)
        self.assertEqual(set(refusals(find_size("2.5 mm2"), cool, RULES)), {"ampacity", "warmth"})
        self.assertEqual(refusals(find_size("2.5 mm2"), cool, LIGHT), {})

    def test_an_impossible_target_says_what_stands_in_the_way(self) -> None:
        self.assertIn("allow more drop", size_wire(WireTask(150, 100, 13, 0.1), "metric", RULES).reason)
        hot = WireTask(20, 1, 13, 0.5, duty=Duty(20, air_c=130))
        self.assertRegex(size_wire(hot, "metric", RULES).reason, "good for 125 °C and lies in 130 °C.*more heat")
        thick = HouseRules(thinnest_wire_mm2=200)
        self.assertIn("change that house rule", size_wire(WireTask(20, 1, 13, 0.5), "metric", thick).reason)
        blocked = size_wire(WireTask(20, 1, 13, 0.5, elsewhere_drop_v=0.6), "awg", RULES)
        self.assertIn("the rest of the circuit", blocked.reason)

    def test_fuse_carries_load_and_protects_wire(self) -> None:
        """ISO 8820-3 ratings, from memory; load ÷ 0.8, common practice."""
        for load, ampacity, rating in [(20, 60, 25), (12, 20, 15), (18, 20, None), (4, 20, 5), (450, 900, None)]:
            self.assertEqual(choose_fuse(load, ampacity, RULES).rating_a, rating)
        self.assertEqual(fuse_ratings_a("blade")[:6], (1, 2, 3, 4, 5, 7.5))

    def test_ladder_of_a_wire(self) -> None:
        """Allowing 0.6 V leaves W2 0.2003 V: 2.19 mΩ/m, so 8 AWG (2.061); 18 AWG (20 A) is under its 25 A fuse.

        W1 starts at a blade fuse's holder, which takes no more than 10 AWG (from memory).
        """
        vehicle, circuit = pump_feed(allowed_v=0.6)
        steps = steps_of(vehicle, circuit)["W2"]
        at_fuse = next(rung for rung in steps_of(vehicle, circuit)["W1"].rungs if rung.label == "8 AWG")
        self.assertIn("the holder of F1 takes 0.5 to 6 mm² (20 to 10 AWG)", at_fuse.refused)
        assert steps.recommended
        self.assertEqual(steps.recommended.label, "8 AWG")
        self.assertAlmostEqual(steps.recommended.gained_v, 20 * 4.572 * (3.277 - 2.061) / 1000, places=3)
        thin = next(rung for rung in steps.rungs if rung.label == "18 AWG")
        self.assertIn("too thin for its 25 A fuse", " ".join(thin.refused))

    def test_ladder_of_a_fuse(self) -> None:
        """20 A ÷ 0.8 = 25 A; 16 AWG behind it stands 25 A (ABYC E-11, from memory)."""
        vehicle, circuit = pump_feed(W1={"size": "16 AWG"}, allowed_v=3)
        steps = steps_of(vehicle, circuit)["F1"]
        self.assertEqual([rung.label for rung in steps.rungs if not rung.refused], ["25 A"])
        self.assertEqual(fuse_in_front_a(vehicle, circuit, "W1"), 25)
        self.assertIsNone(fuse_in_front_a(vehicle, circuit, "F1"))


def found_in(vehicle: Vehicle, circuit: Circuit) -> tuple[Finding, ...]:
    plan = planned(Network(replace(vehicle, circuits={circuit.id: circuit})), RULES)
    return circuit_findings(plan, circuit)


class Findings(TestCase):
    def _titles(self, allowed_v: float = 1.0, **changes: dict[str, object]) -> str:
        vehicle, circuit = pump_feed(allowed_v, **changes)
        return " ".join(one.title for one in found_in(vehicle, circuit))

    def test_a_sound_circuit_has_none(self) -> None:
        self.assertEqual(self._titles(), "")

    def test_planning_mistakes_are_caught(self) -> None:
        self.assertIn("drops", self._titles(allowed_v=0.6))
        self.assertIn("does not protect", self._titles(W2={"size": "18 AWG"}, allowed_v=3))
        self.assertIn("too small for 20 A", self._titles(F1={"rating_a": 20}))
        self.assertIn("too thin for 20 A", self._titles(W1={"size": "22 AWG"}, allowed_v=9))

    def test_the_lightest_cure_really_cures(self) -> None:
        vehicle, circuit = pump_feed(allowed_v=0.6)
        cure = found_in(vehicle, circuit)[0].cure
        assert cure
        cured = edited(vehicle, cure.edits, RULES, str)
        self.assertEqual(found_in(cured, cured.circuits["pump"]), ())

    def test_a_feed_without_a_fuse_is_noticed(self) -> None:
        vehicle, circuit = pump_feed()
        bare = replace(circuit, source_point="f", supply=("W1",))
        found = found_in(vehicle, bare)
        self.assertIn("Nothing protects", found[0].title)
