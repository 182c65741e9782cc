"""What is advised about a balance: every figure found again by fitting what was advised and adding up anew."""

from typing import Any
from unittest import TestCase

from core.tests.support.charged import ALTERNATOR, BATTERY, at, unwired
from percorso.changes.edits import AddDevice, ChangeDevice, Edit, RemoveDevice, ScaleAlternator, SetDesignCurrent
from percorso.errors import PathError, PercorsoError
from percorso.house_rules import HouseRules
from percorso.load_budget.budget import Budget, draw_up, drive_named
from percorso.planning.apply import edited
from percorso.vehicle.model import Vehicle
from percorso.vehicle.scenarios import PRESETS, STANDARD, find_scenario

RULES = HouseRules()
NEVER = {"used_in": ["off"]}


def heater(amperes: float, priority: str = "work", **more: Any) -> dict[str, Any]:
    """A load that draws so much whatever the voltage."""
    return {"kind": "constant current", "rated_v": 14, "rated_a": amperes, "priority": priority} | more


def advised(vehicle: Vehicle, *edits: Edit, rules: HouseRules = RULES) -> Budget:
    return draw_up(edited(vehicle, edits, rules, lambda: "new"), "planned", rules)


class SwitchingOff(TestCase):
    """Idling in summer it makes 40 A · (1 − 0.0025 · 50) = 35 A."""

    def _shed(self, **loads: dict[str, Any]) -> tuple[str, ...]:
        vehicle = unwired(G1=BATTERY, G2=ALTERNATOR, **loads)
        found = advised(vehicle)
        off = [each for cure in found.advice.cures if "off at idle" in cure.effect for each in cure.edits]
        if off:
            cured = advised(vehicle, *off)
            self.assertFalse([each for each in cured.balances if each.verdict == "fail"])
        self.assertEqual(bool(off), bool(found.advice.shed))
        return found.advice.shed

    def test_comfort_goes_before_work_and_one_before_several(self) -> None:
        engine = heater(30, "engine")
        for loads, off in (
            ({"A": heater(8, "comfort"), "B": heater(4)}, ("A",)),  # 7 A lacking: the comfort is enough
            ({"A": heater(3, "comfort"), "B": heater(9)}, ("B",)),  # 7 A lacking: only the work is, alone
            ({"A": heater(12, "comfort"), "B": heater(8, "comfort")}, ("A", "B")),  # 15 A lacking: both, larger first
            ({"A": heater(9, "safety")}, ()),  # nothing that may be switched off
            ({"A": heater(4, "comfort")}, ()),  # nothing lacking
        ):
            self.assertEqual(self._shed(E=engine, **loads), off)

    def test_it_is_no_cure_where_the_road_falls_short(self) -> None:
        self.assertEqual(self._shed(E=heater(95, "comfort")), ())

    def test_what_must_run_at_idle_no_longer_must(self) -> None:
        vehicle = unwired(G1=BATTERY, G2=ALTERNATOR, A=heater(45, "comfort", runs_in=["idle", "road"]))
        [cure] = [each for each in advised(vehicle).advice.cures if "off at idle" in each.effect]
        self.assertEqual(edited(vehicle, cure.edits, RULES, lambda: "n").devices["A"].spec.runs_in, ("road",))


class TurningFaster(TestCase):
    def test_pulley_and_idle_speed_bring_what_is_asked(self) -> None:
        """37 A and a fifth in summer need 44.4 ÷ 0.875 = 50.7 A cold: 1 800 + 10.7 ÷ 50 · 4 200 = 2 702 rpm."""
        vehicle = unwired(G1=BATTERY, G2=ALTERNATOR, A=heater(37, "engine"))
        cures = {each.effect: each for each in advised(vehicle).advice.cures}
        pulley = "a smaller pulley, 2.5 → 3.76 (9024 rpm on the road, good for 15000)"  # 2 702 ÷ 720; 3.76 · 2 400
        idle = "the engine idling at 1090 rpm"  # 2 702 ÷ 2.5
        for effect in (pulley, idle):
            self.assertIn(effect, cures)
            worst = min(advised(vehicle, *cures[effect].edits).balances, key=lambda each: each.margin_a)
            self.assertEqual(worst.verdict, "pass")

    def test_not_faster_than_anything_stands(self) -> None:
        """An engine does not idle at 1 200 rpm, an alternator that stands 8 000 rpm takes no pulley half as small."""
        slow = ALTERNATOR | {"max_rpm": 8000}
        effects = [each.effect for each in advised(unwired(G1=BATTERY, G2=slow, A=heater(45))).advice.cures]
        self.assertEqual([each for each in effects if "pulley" in each or "idling" in each], [])

    def test_without_a_known_pulley_its_own_speeds_rise(self) -> None:
        plain = {each: value for each, value in ALTERNATOR.items() if "engine" not in each and "pulley" not in each}
        vehicle = unwired(G1=BATTERY, G2=plain | {"idle_rpm": 1500, "road_rpm": 5000}, A=heater(25, "engine"))
        [faster] = [each for each in advised(vehicle).advice.cures if "faster" in each.effect]
        self.assertNotIn("fail", {each.verdict for each in advised(vehicle, *faster.edits).balances})

    def test_one_that_gives_nothing_at_idle_says_so(self) -> None:
        told = advised(unwired(G1=BATTERY, G2=ALTERNATOR | {"engine_idle_rpm": 380}, A=heater(5))).advice
        self.assertIsNone(told.smallest)
        self.assertIn("At idle it turns too slowly", " ".join(told.notes))


class Alternators(TestCase):
    def test_the_house_reserve_asks_for_more(self) -> None:
        vehicle = unwired(G1=BATTERY, G2=ALTERNATOR, A=heater(30, "engine"))
        smallest = [
            advised(vehicle, rules=HouseRules(charging_reserve_fraction=reserve)).advice.smallest
            for reserve in (0.0, 0.2, 0.5)
        ]
        markings = [each.at_1800_a for each in smallest if each]
        self.assertEqual(markings, sorted(set(markings)))
        self.assertEqual(markings[0], 35)  # 30 A ÷ 0.875 = 34.3 A

    def test_a_battery_too_large_for_what_is_left_wears_out(self) -> None:
        """78.75 A hot less 75 A are 4 A for 95 Ah, not a tenth of it (common practice); less 20 A they are."""
        for amperes, gets_full in ((75, False), (20, True)):
            load = heater(amperes, "engine", used_in=["road"])
            match = advised(unwired(G1=BATTERY, G2=ALTERNATOR, A=load)).advice.match
            assert match is not None
            self.assertEqual(match.gets_full, gets_full)
            self.assertAlmostEqual(match.share_of_capacity, match.spare_a / 95)

    def test_belt_and_speed_have_their_limits(self) -> None:
        fast = ALTERNATOR | {"belt": "V-belt", "at_6000_a": 120, "engine_road_rpm": 6500}
        told = " ".join(advised(unwired(G1=BATTERY, G2=fast)).advice.notes)
        self.assertIn("its belt (V-belt) drives about 85 A", told)
        self.assertIn("turns at 16250 rpm; it is good for 15000 rpm", told)
        self.assertEqual(advised(unwired(G1=BATTERY, G2=ALTERNATOR)).advice.notes, ())

    def test_a_lithium_battery_is_warned_of(self) -> None:
        told = advised(unwired(G1=BATTERY | {"chemistry": "LiFePO4"}, G2=ALTERNATOR)).advice
        self.assertIn("must not be charged", " ".join(told.notes))

    def test_the_sentence_names_the_worst(self) -> None:
        for amperes, says in (
            (36, "Idle, summer day: 1 A short, and the battery pays. 1 other scenario falls short too."),
            (34, "Idle, summer day: carried, with only 1 A left to charge the battery."),
            (5, "Every scenario is carried; the closest is idle, summer day with 30 A to spare."),
        ):
            self.assertEqual(advised(unwired(G1=BATTERY, G2=ALTERNATOR, A=heater(amperes))).advice.says, says)
        self.assertIn("carries them alone", advised(unwired(G1=BATTERY)).advice.says)


class Edits(TestCase):
    def test_what_cannot_be_edited(self) -> None:
        vehicle = unwired(G1=BATTERY)
        for edit in (
            RemoveDevice(device_id="x"),
            ScaleAlternator(device_id="G1", at_6000_a=90),
            SetDesignCurrent(circuit_id="x", current_a=5),
            AddDevice(name="Relay", spec={"kind": "relay coil"}),
        ):
            with self.assertRaises(PathError):
                advised(vehicle, edit)

    def test_adding_scaling_and_removing(self) -> None:
        vehicle = unwired(G1=BATTERY, G2=ALTERNATOR)
        added = edited(vehicle, [AddDevice(name="Fan", spec=heater(7))], RULES, lambda: "new")
        self.assertEqual((added.devices["new"].name, added.devices["new"].terminals), ("Fan", {}))
        scaled = advised(added, ScaleAlternator(device_id="G2", at_6000_a=180)).balances[0]
        self.assertAlmostEqual(scaled.capability_a, 2 * advised(added).balances[0].capability_a)
        self.assertEqual(len(advised(added, RemoveDevice(device_id="new")).entries), 0)

    def test_removing_a_load_takes_it_out_of_every_scenario(self) -> None:
        vehicle = unwired(G1=BATTERY, G2=ALTERNATOR, A=heater(7))
        own = Vehicle(**{**vars(vehicle), "scenarios": {"own": at("idle", 20, A=50)}})
        self.assertEqual(advised(own, RemoveDevice(device_id="A")).balances[-1].scenario.duty_percent, {})


class Named(TestCase):
    def test_scenarios_and_drives_by_name(self) -> None:
        vehicle = unwired(G1=BATTERY, G2=ALTERNATOR, A=heater(7))
        self.assertEqual(find_scenario("off-night-rain", {}), STANDARD["off-night-rain"])
        self.assertEqual(drive_named(vehicle, "motorway"), PRESETS["motorway"])
        for find in (lambda: find_scenario("moon", {}), lambda: drive_named(vehicle, "moon")):
            with self.assertRaisesRegex(PercorsoError, 'there is no .* "moon"'):
                find()

    def test_own_conditions_change_what_a_load_draws(self) -> None:
        vehicle = unwired(G1=BATTERY, G2=ALTERNATOR, A=heater(8), B=heater(4, **NEVER))
        own = at("idle", 20, A=50, B=100)
        [found] = draw_up(vehicle, "planned", RULES, scenarios=[own]).balances
        self.assertAlmostEqual(found.demand_a, 8, places=2)
        edit = ChangeDevice(device_id="B", change={"used_in": ["idle"], "duty_percent": 25})
        self.assertAlmostEqual(advised(vehicle, edit).balances[0].demand_a, 9, places=2)
