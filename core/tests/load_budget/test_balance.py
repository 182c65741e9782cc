"""Demand against capability: by hand, against the whole network, and what is advised."""

from dataclasses import replace
from unittest import TestCase

from core.tests.support.charged import ALTERNATOR, BATTERY, FORTY_A, HEATER, at, system_of, unwired, wired
from core.tests.support.demo import demo
from percorso.changes.edits import ChangeDevice
from percorso.errors import PercorsoError
from percorso.house_rules import HouseRules
from percorso.load_budget.advice import Marking, advice
from percorso.load_budget.balance import balances
from percorso.load_budget.budget import draw_up, shown_scenarios
from percorso.network.operating_point import Network
from percorso.planning.apply import edited
from percorso.vehicle.alternators import belt_limit_a, output_limit_a, rpm_for, scaled, setpoint_v
from percorso.vehicle.devices import DEVICE_SPEC, Alternator, changed_device
from percorso.vehicle.model import Vehicle
from percorso.vehicle.scenarios import STANDARD

RULES = HouseRules()
VAN = demo("market-van")


def alternator(**changes: object) -> Alternator:
    spec = DEVICE_SPEC.validate_python(ALTERNATOR | changes)
    assert isinstance(spec, Alternator)
    return spec


class ByHand(TestCase):
    def test_demand_capability_and_margin(self) -> None:
        """1 800 rpm idling; in winter it stands at −5 + 45 = 40 °C and keeps 1 − 0.0025 · 15 of its 40 A: 38.5 A.

        The 40 A load runs half of the time, the 1 Ω heater at the posts takes 14.2 V ÷ 1 Ω: 34.2 A, 4.3 A to spare.
        """
        vehicle = unwired(G1=BATTERY, G2=ALTERNATOR, A1=FORTY_A | {"duty_percent": 50}, E1=HEATER)
        [found] = balances(system_of(vehicle), [STANDARD["idle-night-winter"]], RULES)
        self.assertAlmostEqual(found.capability_a, 38.5)
        self.assertAlmostEqual(found.demand_a, 34.2, places=3)
        self.assertAlmostEqual(found.margin_a, 4.3, places=3)
        self.assertAlmostEqual(found.need_a, 1.2 * 34.2, places=3)
        self.assertEqual(found.verdict, "marginal")

    def test_what_the_battery_pays_comes_off_its_voltage(self) -> None:
        """At 25 °C it makes 40 · (1 − 0.0025 · 45) = 35.5 A of 52 A asked for at about 12 V: the battery gives the rest
        through 5.4 V ÷ 600 A · ½ · (2 − 0.8) = 5.4 mΩ, from 12.49 V at 80 % (linear between 12.45 and 12.65 V)."""
        vehicle = unwired(G1=BATTERY, G2=ALTERNATOR, A1=FORTY_A, E1=HEATER)
        [found] = balances(system_of(vehicle), [at("idle", 25)], RULES)
        gives = -found.battery_a
        self.assertAlmostEqual(gives, 40 + found.battery_v / 1 - 35.5, places=2)
        self.assertAlmostEqual(found.battery_v, 12.49 - 0.0054 * gives, places=6)
        self.assertEqual((found.verdict, found.regulation), ("fail", "at its limit"))

    def test_an_engine_that_stands_leaves_it_to_the_battery(self) -> None:
        vehicle = unwired(G1=BATTERY, G2=ALTERNATOR, A1=FORTY_A | {"used_in": ["accessory"]})
        [found] = balances(system_of(vehicle), [STANDARD["accessory-day-summer"]], RULES)
        self.assertEqual((found.capability_a, found.verdict), (0, "unknown"))
        self.assertAlmostEqual(found.battery_a, -40, places=2)


class AsTheNetwork(TestCase):
    def test_cable_losses_and_the_sense_lead_count_as_in_the_whole_network(self) -> None:
        """The general solver, itself held against a circuit simulator, on the same wiring at the same temperatures."""
        for state, rise in (("idle", 45), ("road", 30)):
            vehicle = wired()
            [found] = balances(system_of(vehicle), [at(state, 10)], RULES)
            for name, change in (("G1", {"temperature_c": 10.0}), ("G2", {"temperature_c": 10.0 + rise})):
                device = replace(vehicle.devices[name], spec=changed_device(vehicle.devices[name].spec, change))
                vehicle = replace(vehicle, devices={**vehicle.devices, name: device})
            solved = Network(vehicle).solve(state).devices
            self.assertAlmostEqual(found.battery_v, solved["G1"].voltage_v or 0, places=6)
            self.assertAlmostEqual(found.alternator_a, solved["G2"].current_a or 0, places=6)
            self.assertAlmostEqual(found.alternator_v, solved["G2"].voltage_v or 0, places=6)
            for drawn in found.drawn:
                self.assertAlmostEqual(drawn.voltage_v, solved[drawn.device_id].voltage_v or 0, places=6)
                self.assertAlmostEqual(drawn.current_a, solved[drawn.device_id].current_a or 0, places=6)


class AlternatorValues(TestCase):
    def test_pulley_curve_and_temperature(self) -> None:
        spec = alternator(output="1500: 30, 3000 rpm 70 A, 6000: 85", setpoint_v_per_k=-0.01)
        self.assertEqual((spec.rpm("idle"), spec.rpm("road"), spec.rpm("stopped")), (1800, 6000, 0))
        for rpm, amps in ((1000, 0), (1250, 15), (2250, 50), (9000, 85)):
            self.assertAlmostEqual(output_limit_a(spec, rpm, 25), amps)
        self.assertAlmostEqual(setpoint_v(spec, 45), 14.0)
        rpm = rpm_for(spec, 60, 65)
        self.assertAlmostEqual(output_limit_a(spec, rpm or 0, 65), 60)
        self.assertIsNone(rpm_for(spec, 80, 65))
        self.assertEqual(belt_limit_a(alternator(belt="V-belt"), 24), 42.5)

    def test_one_of_the_same_kind_makes_more_at_every_speed(self) -> None:
        spec = scaled(alternator(output="1500: 30, 6000: 85"), 180)
        self.assertEqual((spec.at_1800_a, spec.at_6000_a), (80, 180))
        self.assertAlmostEqual(output_limit_a(spec, 1500), 60)

    def test_what_no_alternator_is_like(self) -> None:
        for change, field in (
            ({"at_6000_a": 30}, "at_6000_a"),
            ({"output": "3000: 50, 2000: 60"}, "output"),
            ({"output": "1800: 50, 3000: 40"}, "output"),
            ({"engine_idle_rpm": None}, "engine_idle_rpm"),
        ):
            with self.assertRaises(ValueError) as caught:
                alternator(**change)
            [problem] = caught.exception.errors()
            error = problem["ctx"]["error"]
            assert isinstance(error, PercorsoError)
            self.assertEqual(error.field, (field,))


class MarketVan(TestCase):
    """The demo's decision: its new cold box fits on the road, and not at idle on a winter night."""

    def _verdicts(self, vehicle: Vehicle) -> dict[str, str]:
        return {each.scenario.id: each.verdict for each in draw_up(vehicle, "planned", RULES).balances}

    def test_where_the_cold_box_fits(self) -> None:
        verdicts = self._verdicts(VAN)
        self.assertEqual([each for each, word in verdicts.items() if word == "fail"], ["idle-night-winter"])
        found = {each.scenario.id: each.verdict for each in draw_up(VAN, "found", RULES).balances}
        self.assertNotIn("fail", found.values())

    def test_every_cure_cures_it(self) -> None:
        cures = draw_up(VAN, "planned", RULES).advice.cures
        self.assertEqual(len(cures), 3)
        for each in cures:
            cured = edited(VAN, each.edits, RULES, lambda: "new")
            self.assertNotIn("fail", self._verdicts(cured).values(), each.effect)

    def test_no_smaller_marking_carries_it(self) -> None:
        smallest = draw_up(VAN, "planned", RULES).advice.smallest
        assert smallest is not None
        for at_1800_a, at_6000_a, enough in (
            (smallest.at_1800_a, smallest.at_6000_a, True),
            (smallest.at_1800_a - 1, smallest.at_6000_a, False),
            (0.65 * (smallest.at_6000_a - 5), smallest.at_6000_a - 5, False),
        ):
            fitted = ChangeDevice(device_id="g2", change={"at_1800_a": at_1800_a, "at_6000_a": at_6000_a})
            verdicts = self._verdicts(edited(VAN, [fitted], RULES, lambda: "new")).values()
            self.assertEqual(set(verdicts) <= {"pass", "unknown"}, enough)

    def test_the_charge_circuit_is_told_what_it_must_carry(self) -> None:
        told = draw_up(VAN, "planned", RULES).advice
        assert told.cable is not None
        self.assertEqual((told.cable.circuit_id, told.cable.carries_a, told.cable.fuse_a), ("charge-cable", 110, 125))
        bigger = edited(VAN, told.cures[0].edits, RULES, lambda: "new")
        self.assertGreaterEqual(bigger.circuits["charge-cable"].design_current_a, 100)

    def test_a_much_too_large_alternator_could_be_smaller(self) -> None:
        large = ChangeDevice(device_id="g2", change={"at_1800_a": 120, "at_6000_a": 240})
        told = draw_up(edited(VAN, [large], RULES, lambda: "new"), "planned", RULES).advice
        self.assertTrue(told.smaller_does)
        self.assertFalse(told.cures)

    def test_without_an_alternator_there_is_nothing_to_advise(self) -> None:
        system = system_of(unwired(G1=BATTERY, A1=FORTY_A))
        told = advice(system, balances(system, shown_scenarios(system.budget.vehicle), RULES), RULES)
        self.assertIsNone(told.smallest)
        self.assertEqual(str(Marking(57, 110)), "57/110 A")
