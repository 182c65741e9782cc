"""What flows at worst through each segment, over all states: by hand arithmetic on small vehicles."""

from dataclasses import replace
from unittest import TestCase

from core.tests.small import IDEAL_BATTERY, joint, key, small_vehicle
from percorso.ampacity import wire_ampacity
from percorso.conductors import find_size
from percorso.flows import Flows
from percorso.guarding import inrush_through, short_loop_ohm, source_ohm
from percorso.heating import table_ampacity_a
from percorso.house_rules import HouseRules
from percorso.network import Network
from percorso.planned import planned
from percorso.sizing import Duty, refusals
from percorso.specs import Wire
from percorso.states import State
from percorso.vehicle import Circuit, Family, Target, Vehicle

RULES = HouseRules()


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
    def test_the_house_rule_chooses_between_table_and_model(self) -> None:
        """10 AWG: 60 A by table, × 0.85 in the engine bay (ABYC E-11, from memory); the model knows 85 °C there."""
        for zone, by_table in (("cabin", 60.0), ("engine bay", 51.0)):
            spec = Wire.model_validate({"size": "10 AWG", "length_m": 1, "zone": zone})
            table = wire_ampacity(spec, RULES)
            model = wire_ampacity(spec, HouseRules(ampacity_rule="thermal model"))
            self.assertAlmostEqual(table.allowed_a, by_table)
            self.assertEqual(model.allowed_a, table.model_a)
            self.assertEqual((table.table_a, table.model_a), (model.table_a, model.model_a))
        self.assertLess(table.model_a, 51)  # 85 °C air leaves a 125 °C insulation 40 K

    def test_each_reason_a_size_is_refused_for(self) -> None:
        """20 A table for 18 AWG (ABYC E-11, from memory); 4 AWG stands 160 A for long and 400 A while cranking not."""
        duty = Duty(continuous_a=25, fuse_in_front_a=30)
        self.assertEqual(set(refusals(find_size("18 AWG"), duty, RULES)), {"ampacity", "fuse"})
        self.assertEqual(set(refusals(find_size("22 AWG"), Duty(1.0), RULES)), {"thinnest allowed"})
        self.assertEqual(refusals(find_size("10 AWG"), duty, RULES), {})
        crank = Duty(continuous_a=0, cranking_a=400)
        self.assertEqual(set(refusals(find_size("4 AWG"), crank, RULES)), {"cranking"})
        self.assertEqual(refusals(find_size("1/0"), crank, RULES), {})
        hot = Duty(continuous_a=0, cranking_a=400, zone="near exhaust")
        self.assertIn("cranking", refusals(find_size("4/0"), hot, RULES) | refusals(find_size("2/0"), hot, RULES))

    def test_bundled_and_cooler_insulation_carry_less(self) -> None:
        """NFPA 70: five together 80 % (from memory); 80 °C PVC of 10 AWG stands about 50 A (ABYC E-11, from memory)."""
        plain = {"size": "10 AWG", "length_m": 1}
        bundled = wire_ampacity(Wire.model_validate(plain | {"bundle": 5}), RULES)
        self.assertAlmostEqual(bundled.table_a, 48)
        soft = wire_ampacity(Wire.model_validate(plain | {"insulation": "PVC"}), RULES)
        self.assertTrue(46 <= soft.table_a <= 52)
        self.assertAlmostEqual(soft.table_a, table_ampacity_a(find_size("10 AWG"), limit_c=80))
