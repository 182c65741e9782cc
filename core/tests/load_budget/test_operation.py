"""Battery, alternator and consumers at random: as the general network solver, and every rule of a regulator kept."""

from dataclasses import replace
from random import Random
from typing import Any
from unittest import TestCase

import numpy as np

from core.tests.support.charged import ALTERNATOR, BATTERY, Devices, at, system_of, unwired, wired
from core.tests.support.small import Piece, joint, small_vehicle
from percorso.house_rules import HouseRules
from percorso.load_budget.balance import Balance, balances
from percorso.load_budget.system import ChargingSystem, alternator_c
from percorso.network.operating_point import Network
from percorso.targets import Target
from percorso.vehicle.devices import changed_device
from percorso.vehicle.model import Circuit, Vehicle
from percorso.vehicle.scenarios import BALANCED, STANDARD, Scenario
from percorso.vehicle.segments import SEGMENT_SPEC
from percorso.vehicle.states import State

KINDS = ("resistive", "motor", "filament lamp", "constant current", "constant power")
SEEDS = range(40)


def random_vehicle(seed: int) -> Vehicle:
    """Two to eight loads of any kind on a tree of wires, some sharing wires and grounds; a sense lead or none."""
    random = Random(seed)
    segments: dict[str, Piece] = {"W0": ("post", "plus", joint(random.uniform(0.001, 0.01)))}
    devices: Devices = {
        "G1": ({"+": "plus", "-": "minus"}, BATTERY | {"state_of_charge_percent": random.uniform(5, 100)}),
        "G2": ({"B+": "post", "B-": "minus"}, ALTERNATOR | {"at_1800_a": random.uniform(5, 80)}),
    }
    supplies, grounds = ["plus"], ["minus"]
    for number in range(random.randint(2, 8)):
        load, ground = f"load {number}", f"ground {number}"
        segments[f"S{number}"] = (random.choice(supplies), load, joint(random.uniform(0.005, 0.08)))
        segments[f"R{number}"] = (ground, random.choice(grounds), joint(random.uniform(0.001, 0.02)))
        supplies.append(load)
        grounds.append(ground)
        values: dict[str, Any] = {"kind": random.choice(KINDS), "rated_v": 13, "rated_a": random.uniform(0.5, 15)}
        devices[f"A{number}"] = ({"+": load, "-": ground}, values | {"used_in": ["on", "idle", "road"]})
    if random.random() < 0.5:
        terminals, values = devices["G2"]
        devices["G2"] = (terminals | {"S": random.choice(supplies)}, values)
    return small_vehicle(segments, devices)


def solved(vehicle: Vehicle, scenario: Scenario) -> tuple[Balance, ChargingSystem]:
    system = system_of(vehicle)
    return balances(system, [scenario], HouseRules())[0], system


class AtRandom(TestCase):
    def _as_warm(self, vehicle: Vehicle, scenario: Scenario) -> Vehicle:
        """The vehicle with the temperatures that a scenario gives its battery and alternator."""
        for name, warm in (("G1", scenario.outside_c), ("G2", alternator_c(scenario))):
            device = vehicle.devices[name]
            spec = changed_device(device.spec, {"temperature_c": warm})
            vehicle = replace(vehicle, devices={**vehicle.devices, name: replace(device, spec=spec)})
        return vehicle

    def test_as_the_general_solver(self) -> None:
        states: tuple[State, ...] = ("on", "idle", "road")
        limited = 0
        for seed in SEEDS:
            vehicle = random_vehicle(seed)
            for state in states:
                scenario = at(state, 18)
                found, _ = solved(vehicle, scenario)
                whole = Network(self._as_warm(vehicle, scenario)).solve(state).devices
                limited += found.regulation == "at its limit"
                with self.subTest(seed=seed, state=state):
                    self.assertTrue(found.settled)
                    self.assertAlmostEqual(found.battery_v, whole["G1"].voltage_v or 0, places=6)
                    self.assertAlmostEqual(found.battery_a, -(whole["G1"].current_a or 0), places=5)
                    self.assertAlmostEqual(found.alternator_a, whole["G2"].current_a or 0, places=5)
                    for drawn in found.drawn:
                        self.assertAlmostEqual(drawn.voltage_v, whole[drawn.device_id].voltage_v or 0, places=6)
        self.assertGreater(limited, 10)  # the seeds bring both sides of the limit

    def test_a_regulator_keeps_its_rules(self) -> None:
        """Currents balance; the limit is kept; below it the setpoint is held, and never exceeded by the alternator."""
        for seed in SEEDS:
            vehicle = random_vehicle(seed)
            for name in BALANCED:
                found, system = solved(vehicle, STANDARD[name])
                taken = sum(each.current_a for each in found.drawn)
                self.assertAlmostEqual(found.alternator_a, taken + found.battery_a, places=6)
                self.assertLessEqual(found.alternator_a, found.capability_a + 1e-6)
                self.assertGreaterEqual(found.alternator_a, -1e-6)
                if found.regulation == "at its limit":
                    self.assertAlmostEqual(found.alternator_a, found.capability_a, places=6)
                self.assertEqual(found.capability_a, system.capability_a(STANDARD[name]))

    def test_many_conditions_at_once_are_each_as_alone(self) -> None:
        for seed in list(SEEDS)[:8]:
            system = system_of(random_vehicle(seed))
            runs = [(STANDARD[name], charge) for name in BALANCED for charge in (0.0, 50.0, 100.0)]
            together, _ = system.operating.solve(system.conditions(runs))
            for place, run in enumerate(runs):
                alone, _ = system.operating.solve(system.conditions([run]))
                self.assertAlmostEqual(float(together.battery_v[place]), float(alone.battery_v[0]), places=7)
                np.testing.assert_allclose(together.port_a[place], alone.port_a[0], atol=1e-7)


class AtTheEdge(TestCase):
    def test_more_than_a_battery_gives_has_no_operating_point(self) -> None:
        """The most a 12.65 V battery of 4.5 mΩ gives is V² ÷ 4R = 8.9 kW; 12 kW have no voltage."""
        load = {"kind": "constant power", "rated_v": 12, "min_v": 3, "used_in": ["on"]}
        for kilowatts, there_is in ((8, True), (12, False)):
            battery = BATTERY | {"state_of_charge_percent": 100}
            vehicle = unwired(G1=battery, A1=load | {"rated_a": kilowatts * 1000 / 12})
            found, _ = solved(vehicle, at("on", 25))
            self.assertEqual(found.settled and found.battery_v > 4, there_is)
            self.assertEqual(found.verdict, "unknown" if found.settled else "fail")

    def test_without_a_battery_the_alternator_holds_the_voltage_alone(self) -> None:
        load = {"kind": "resistive", "rated_v": 14.2, "rated_a": 20}
        found, _ = solved(unwired(G2=ALTERNATOR, E1=load), at("road", 25))
        self.assertAlmostEqual(found.alternator_a, 20, places=3)
        self.assertAlmostEqual(found.alternator_v, 14.2, places=3)

    def test_a_sense_lead_at_the_battery_makes_up_for_the_charge_cable(self) -> None:
        """40 A through 10 mΩ: 0.4 V more at its post, the battery's post stays at 14.2 V."""
        load = {"kind": "constant current", "rated_v": 13, "rated_a": 40}
        for sense, battery_v in (({"S": "plus"}, 14.2), ({}, 13.8)):
            vehicle = small_vehicle(
                {"W1": ("post", "plus", joint(0.01))},
                {
                    "G1": ({"+": "plus", "-": "minus"}, BATTERY | {"charge_a": 0.001}),
                    "G2": ({"B+": "post", "B-": "minus"} | sense, ALTERNATOR),
                    "A1": ({"+": "plus", "-": "minus"}, load),
                },
            )
            found, _ = solved(vehicle, at("road", 25))
            self.assertAlmostEqual(found.battery_v, battery_v, places=2)

    def test_what_is_not_joined_to_the_battery_counts_without_loss(self) -> None:
        load = {"kind": "constant current", "rated_v": 13, "rated_a": 10}
        vehicle = small_vehicle(
            {"W1": ("far", "farther", joint(1))},
            {"G1": ({"+": "plus", "-": "minus"}, BATTERY), "A1": ({"+": "far", "-": "farther"}, load)},
        )
        found, _ = solved(vehicle, at("idle", 25))
        self.assertAlmostEqual(found.drawn[0].voltage_v, found.battery_v, places=9)
        self.assertAlmostEqual(found.demand_a, 10, places=2)

    def test_contacts_of_feeds_count_as_closed_and_others_as_open(self) -> None:
        """The load's own relay contact, 5 mΩ, carries; a stray switch from plus to minus does not short the battery."""
        text = small_vehicle(
            {
                "K1": ("plus", "load", {"kind": "switch", "closed_in": ["start"], "resistance_ohm": 0.005}),
                "S9": ("plus", "minus", {"kind": "switch", "closed_in": ["start"], "resistance_ohm": 0.001}),
                "W2": ("load -", "minus", joint(0.005)),
            },
            {
                "G1": ({"+": "plus", "-": "minus"}, BATTERY),
                "A1": ({"+": "load", "-": "load -"}, {"kind": "constant current", "rated_v": 13, "rated_a": 10}),
            },
        )
        feed = Circuit(
            "c", "Feed", "feed", "A1", 10, 13, Target("max_drop_v", 1), "plus", ("K1",), "load -", ("W2",), "idle", "A1"
        )
        found, _ = solved(replace(text, circuits={"c": feed}), at("idle", 25))
        self.assertAlmostEqual(found.battery_v - found.drawn[0].voltage_v, 10 * 0.01, places=3)


class Wiring(TestCase):
    def test_impedances_are_those_of_shared_wires_and_grounds(self) -> None:
        """4 mΩ from post to battery, then 6 mΩ to a stud, 20 mΩ on to the heater, and 3 mΩ of ground for both loads.

        Both lose 6 + 3 mΩ to each other's current, the heater 20 more to its own; the regulator at the stud sees the
        6 mΩ only; the alternator's current lifts its own post by 4 mΩ and nothing beyond the battery.
        """
        wiring = system_of(wired()).wiring
        self.assertEqual([each.id for each in wiring.ports], ["A1", "E1"])
        np.testing.assert_allclose(wiring.between, [[0.009, 0.009], [0.009, 0.029]], atol=1e-12)
        np.testing.assert_allclose(wiring.raised, [0, 0], atol=1e-12)
        np.testing.assert_allclose(wiring.sense_lost, [0.006, 0.006], atol=1e-12)
        np.testing.assert_allclose(wiring.post_lost, [0, 0], atol=1e-12)
        self.assertAlmostEqual(wiring.post_raised, 0.004)
        self.assertAlmostEqual(wiring.sense_raised, 0)

    def test_what_two_ways_share_goes_by_conductance(self) -> None:
        """A second wire of 12 mΩ beside the 6 mΩ: 4 mΩ together (parallel resistances)."""
        vehicle = wired()
        beside = replace(
            vehicle.segments["W2"], id="W5", designation="W5", spec=SEGMENT_SPEC.validate_python(joint(0.012))
        )
        wiring = system_of(replace(vehicle, segments={**vehicle.segments, "W5": beside})).wiring
        np.testing.assert_allclose(wiring.between, [[0.007, 0.007], [0.007, 0.027]], atol=1e-12)

    def test_feeds_that_would_short_the_battery_together_count_without_loss(self) -> None:
        """A changeover to ground and to plus is never on both ways at once; both are feeds of somebody."""
        vehicle = small_vehicle(
            {
                "K1": ("plus", "common", {"kind": "switch", "closed_in": ["on"]}),
                "K2": ("common", "minus", {"kind": "switch", "closed_in": ["off"]}),
                "W1": ("plus", "M1 +", joint(0.01)),
                "W2": ("M2 -", "minus", joint(0.01)),
            },
            {
                "G1": ({"+": "plus", "-": "minus"}, BATTERY),
                "M1": ({"+": "M1 +", "-": "common"}, {"kind": "motor", "rated_v": 12, "rated_a": 5}),
                "M2": ({"+": "common", "-": "M2 -"}, {"kind": "motor", "rated_v": 12, "rated_a": 5}),
            },
        )
        target = Target("max_drop_v", 1)
        one = Circuit("a", "A", "feed", "M1", 5, 13, target, "plus", ("W1",), "common", ("K2",), "idle", "M1")
        other = Circuit("b", "B", "feed", "M2", 5, 13, target, "plus", ("K1",), "M2 -", ("W2",), "idle", "M2")
        found, _ = solved(replace(vehicle, circuits={"a": one, "b": other}), at("idle", 25))
        self.assertTrue(found.settled)
        self.assertEqual({each.voltage_v for each in found.drawn}, {found.battery_v})
