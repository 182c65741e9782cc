"""What flows at worst through each segment, over all states: by hand arithmetic on small vehicles."""

from dataclasses import replace
from math import sqrt
from typing import Any, get_args
from unittest import TestCase

from core.tests.support.small import IDEAL_BATTERY, joint, key, small_vehicle
from percorso.circuits.design_case import planned
from percorso.circuits.worst_currents import Flows
from percorso.components.conductors import find_size, stocked_sizes
from percorso.components.published_ampacity import table_ampacity_a
from percorso.findings.plan import plan_findings
from percorso.house_rules import AmpacityRule, HouseRules
from percorso.network.operating_point import Network
from percorso.planning.apply import edited
from percorso.sizing.ampacity import Ampacity, wire_ampacity
from percorso.sizing.protection_zones import inrush_through, short_loop_ohm, source_ohm
from percorso.sizing.search import recommend
from percorso.sizing.wire_size import Duty, refusals
from percorso.targets import Family, Target
from percorso.vehicle.model import Circuit, Vehicle
from percorso.vehicle.segments import ZONE_TEMPERATURE_C, Wire
from percorso.vehicle.states import State

RULES = HouseRules()
LIGHT = HouseRules(school="light")


def circuit(name: str, amps: float, supply: tuple[str, ...], back: tuple[str, ...], state: State = "on",
            family: Family = "feed", device: str | None = None) -> Circuit:  # fmt: skip
    target = Target("max_drop_v", 1.0)
    return Circuit(name, name, family, name, amps, 12.6, target, "plus", supply, f"{name}-", back, state, device)


def two_loads() -> Vehicle:
    """12 Ω at every key position and 6 Ω with the ignition, on one ground of 1 mΩ."""
    vehicle = small_vehicle(
        {
            "A": ("plus", "a+", joint(0.001)),
            "S1": ("plus", "k", key("on", "start")),
            "B": ("k", "b+", joint(0.001)),
            "GA": ("a-", "ground", joint(0.001)),
            "GB": ("b-", "ground", joint(0.001)),
            "G": ("ground", "minus", joint(0.001)),
        },
        {
            "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
            "a": ({"+": "a+", "-": "a-"}, {"kind": "resistive", "rated_v": 12, "rated_a": 1}),
            "b": ({"+": "b+", "-": "b-"}, {"kind": "resistive", "rated_v": 12, "rated_a": 2}),
        },
    )
    both = (
        circuit("a", 1.5, ("A",), ("GA", "G"), device="a"),
        circuit("b", 1.0, ("S1", "B"), ("GB", "G"), "cranking", device="b"),
    )
    return replace(vehicle, circuits={each.id: each for each in both})


class WorstFlows(TestCase):
    def flows(self, vehicle: Vehicle) -> Flows:
        return planned(Network(vehicle), RULES).worst

    def test_a_load_counts_with_what_it_draws_and_at_least_its_design_current_in_its_state(self) -> None:
        """12.65 V ÷ 12 Ω = 1.05 A, raised to 1.5 A while on; 12.65 ÷ 6 = 2.1 A stay above the 1 A of b's design."""
        worst = self.flows(two_loads())
        self.assertAlmostEqual(worst.along_a["A"]["off"], 1.05, places=2)
        self.assertAlmostEqual(worst.along_a["A"]["on"], 1.5, places=2)
        self.assertEqual(worst.continuous("A").state, "on")
        self.assertAlmostEqual(worst.cranking_a("B"), 2.1, places=1)
        self.assertAlmostEqual(worst.along_a["B"]["off"], 0.0, places=6)

    def test_what_two_share_takes_the_sum(self) -> None:
        """On: 1.5 A raised and 2.1 A flow together through the ground; either way round it is drawn."""
        vehicle = two_loads()
        self.assertAlmostEqual(self.flows(vehicle).continuous("G").current_a, 1.5 + 2.1, places=1)
        ground = vehicle.segments["G"]
        turned = replace(ground, from_point=ground.to_point, to_point=ground.from_point)
        round_again = self.flows(replace(vehicle, segments={**vehicle.segments, "G": turned}))
        self.assertAlmostEqual(round_again.against_a["G"]["on"], 1.5 + 2.1, places=1)
        self.assertEqual(round_again.along_a["G"]["on"], 0)

    def test_without_any_source_only_design_currents_count(self) -> None:
        vehicle = two_loads()
        bare = {each.id: replace(each, device_id=None) for each in vehicle.circuits.values()}
        worst = self.flows(replace(vehicle, devices={}, circuits=bare))
        self.assertEqual(worst.continuous("G").current_a, 1.5)
        self.assertEqual(worst.cranking_a("G"), 1.0)
        self.assertEqual(worst.continuous("no such piece").current_a, 0)

    def test_into_a_short(self) -> None:
        """Two batteries of 10 mΩ side by side are 5 mΩ; a diode in the loop fails short and counts nothing."""
        vehicle = two_loads()
        second = replace(vehicle.devices["G1"], id="G2")
        twin = replace(vehicle, devices={**vehicle.devices, "G2": second})
        self.assertAlmostEqual(source_ohm(twin), 0.005)
        legs = planned(Network(vehicle), RULES).profiles["a"].legs
        self.assertAlmostEqual(short_loop_ohm(vehicle, legs), 0.010 + 3 * 0.001)
        self.assertIsNone(inrush_through(vehicle, "A"))


class WhatAWireMayCarry(TestCase):
    def carries(self, rule: AmpacityRule = "lower of both", **more: Any) -> Ampacity:
        """Ampacity of 10 mm², 100 A at 125 °C in 30 °C air (ISO 10133, from memory)."""
        spec = Wire.model_validate({"size": "10 mm2", "length_m": 1, **more})
        return wire_ampacity(spec, HouseRules(ampacity_rule=rule))

    def test_the_table_is_corrected_to_the_air_it_lies_in(self) -> None:
        """√(ΔT' ÷ ΔT) from 125 − 30 K (NFPA 70 310.15(B), from memory), and never more than the engine space leaves."""
        for zone, left in (("outside", 85), ("cabin", 75), ("engine bay", 40)):
            self.assertAlmostEqual(self.carries(zone=zone).table_a, 100 * sqrt(left / 95), places=6)
        cool = {**ZONE_TEMPERATURE_C, "engine bay": 30.0}
        wire = Wire.model_validate({"size": "10 AWG", "length_m": 1, "zone": "engine bay", "insulation": "silicone"})
        self.assertAlmostEqual(wire_ampacity(wire, RULES, cool).table_a, 51.0)  # ABYC E-11 × 0.85, from memory

    def test_nothing_where_it_is_hotter_than_the_insulation_stands(self) -> None:
        """Near the exhaust 125 °C (common practice): neither cross-linked 125 °C nor PVC 80 °C cable carries any."""
        for insulation in ("thin-wall cross-linked", "PVC", "shielded"):
            spec = {"size": "14 AWG", "length_m": 1, "zone": "near exhaust", "insulation": insulation}
            for rule in get_args(AmpacityRule):
                allowed = wire_ampacity(Wire.model_validate(spec), HouseRules(ampacity_rule=rule)).allowed_a
                self.assertEqual(allowed, 0, (insulation, rule))
        duty = Duty(continuous_a=1, air_c=125, engine_space=True)
        for size in (*stocked_sizes("awg"), *stocked_sizes("metric")):
            self.assertIn("good for 125 °C and lies in 125 °C", refusals(size, duty, RULES)["ampacity"])
        self.assertGreater(self.carries(zone="near exhaust", size="10 AWG", insulation="silicone").allowed_a, 20)

    def test_the_house_goes_by_the_lower_of_table_and_model_unless_it_says_otherwise(self) -> None:
        for size in ("10 mm2", "0.5 mm2", "2/0 AWG"):
            table, model, lower = (
                self.carries(each, size=size) for each in ("table", "thermal model", "lower of both")
            )
            self.assertEqual(table.allowed_a, table.table_a)
            self.assertEqual(model.allowed_a, model.model_a)
            self.assertEqual(lower.allowed_a, min(table.table_a, model.model_a))
            self.assertIn(lower.ruling, ("table", "thermal model"))

    def test_each_reason_a_size_is_refused_for(self) -> None:
        """20 A table for 18 AWG (ABYC E-11, from memory); 4 AWG stands 160 A for long and 400 A while cranking not."""
        duty = Duty(continuous_a=25, fuse_in_front_a=30, gauge="astm")
        self.assertEqual(set(refusals(find_size("18 AWG"), duty, LIGHT)), {"ampacity", "fuse"})
        self.assertEqual(set(refusals(find_size("22 AWG"), Duty(1.0), LIGHT)), {"thinnest allowed"})
        self.assertEqual(refusals(find_size("10 AWG"), duty, LIGHT), {})
        crank = Duty(continuous_a=0, cranking_a=400, air_c=50)
        self.assertEqual(set(refusals(find_size("4 AWG"), crank, LIGHT)), {"cranking"})
        self.assertEqual(refusals(find_size("1/0"), crank, LIGHT), {})
        hot = Duty(continuous_a=0, cranking_a=400, air_c=125, engine_space=True)
        self.assertLessEqual({"ampacity", "cranking"}, set(refusals(find_size("4/0"), hot, LIGHT)))

    def test_bundled_and_cooler_insulation_carry_less(self) -> None:
        """Five together × 0.6 (ABYC E-11, from memory); 80 °C PVC of 10 AWG about 50 A in 30 °C air (the same)."""
        alone, bundled = self.carries().table_a, self.carries(bundle=5).table_a
        self.assertAlmostEqual(bundled / alone, 0.6)
        soft = table_ampacity_a(find_size("10 AWG"), limit_c=80)
        self.assertTrue(46 <= soft <= 52)


class WhoseDropIsIt(TestCase):
    def test_a_trigger_is_sized_for_itself_and_its_ground_is_the_cure(self) -> None:
        """10 A trigger, 2 m of wire, 0.5 V; a starter of 200 A loses 0.4 V on the 2 mΩ ground they share.

        By itself: 10 A · (2 m · 18.5 mΩ/m + 5 mΩ + 2 mΩ) at 20 °C is 0.44 V with 1 mm² (ISO 6722-1 and a contact's
        usual resistance, from memory), within nine tenths of 0.5 V.
        """
        vehicle = small_vehicle(
            {
                "K": ("plus", "t+", {"kind": "switch", "closed_in": ["start"]}),
                "T": ("t+", "s50", {"kind": "wire", "size": "6 mm2", "length_m": 2}),
                "S": ("plus", "s30", joint(0.0005)),
                "G": ("case", "minus", {"kind": "body", "resistance_ohm": 0.002}),
            },
            {
                "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
                "M1": ({"30": "s30", "31": "case", "50": "s50"}, STARTER),
            },
        )
        target = Target("max_drop_v", 0.5)
        trigger = Circuit("t", "Trigger", "control", "Solenoid", 10, 12, target, "plus", ("K", "T"), "case", ("G",),
                          "cranking", "M1")  # fmt: skip
        new = {**vehicle.segments, "T": replace(vehicle.segments["T"], origin="new")}
        cold = dict.fromkeys(ZONE_TEMPERATURE_C, 20.0)
        whole = replace(vehicle, segments=new, circuits={"t": trigger}, zone_temperature_c=cold)
        advice = recommend(whole, RULES)
        self.assertEqual(advice.wires[0].size, "2.5 mm2")  # 1 mm² by the sums: no trigger is thinner, common practice
        told = advice.circuits[0]
        self.assertEqual(told.problem, "")
        self.assertAlmostEqual(told.others_v, 0.4, delta=0.05)
        self.assertIn("repair or thicken G", told.note)
        [found] = [each for each in plan_findings(planned(Network(whole), RULES)) if "shares with others" in each.title]
        assert found.cure
        self.assertIn("from case to minus", found.cure.effect)
        cured = edited(whole, found.cure.edits, RULES, lambda: "beside")
        left = [each.title for each in plan_findings(planned(Network(cured), RULES)) if "shares" in each.title]
        self.assertEqual(left, [])


STARTER = {"kind": "starter", "running_v": 10.0, "running_a": 200.0, "locked_v": 4.0, "locked_a": 500.0}
