"""The twelve route starters: whole, sized and without a planning mistake, on an empty job and on one in use."""

from dataclasses import replace
from itertools import count
from typing import Any
from unittest import TestCase

from core.tests.support.demo import demo
from percorso.circuits.design_case import planned
from percorso.components.conductors import find_size
from percorso.errors import AnswersError
from percorso.findings.operating_state import behaviour
from percorso.findings.plan import plan_findings
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.network.results import Solution
from percorso.planning.templates import STARTERS, answered, lay_starter
from percorso.study import Study
from percorso.vehicle.form_fields import form_fields
from percorso.vehicle.model import STAGES, Circuit, Vehicle
from percorso.vehicle.segments import Fuse, Switch, Wire
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import State

RULES = HouseRules()
EMPTY = Vehicle(12, {}, {}, {})
NUMBERS = count()


def laid(starter: str, vehicle: Vehicle = EMPTY, series: Any = "metric", **answers: Any) -> Vehicle:
    after, first = lay_starter(vehicle, answered(starter, answers), RULES, lambda: f"new{next(NUMBERS)}", series)
    assert first in after.circuits
    return after


def solved(vehicle: Vehicle, state: State, **inputs: str) -> Solution:
    return Network(vehicle_at(vehicle, "planned")).solve(state, inputs)


def is_on(vehicle: Vehicle, name: str, state: State, **inputs: str) -> bool | None:
    device = next(each for each in vehicle.devices.values() if each.name == name)
    return solved(vehicle, state, **inputs).devices[device.id].on


def named(vehicle: Vehicle, name: str) -> Circuit:
    return next(each for each in vehicle.circuits.values() if each.name == name)


class EveryStarter(TestCase):
    def test_asks_five_questions_at_most_each_with_a_usual_answer(self) -> None:
        self.assertEqual(len(STARTERS), 12)
        for kind in STARTERS.values():
            asked = form_fields(kind)
            self.assertTrue(1 <= len(asked) <= 5)
            self.assertTrue(all(each.label and each.start for each in asked))

    def test_lays_circuits_that_keep_their_targets_and_every_rule(self) -> None:
        """On empty jobs of 12 and 24 V, in both size systems: no error and nothing over its target."""
        for nominal, series in ((12, "awg"), (12, "metric"), (24, "metric")):
            for starter in STARTERS:
                plan = planned(Network(laid(starter, replace(EMPTY, nominal_v=nominal), series)), RULES)
                with self.subTest(starter, nominal=nominal, series=series):
                    words = {each.verdict.word for each in plan.profiles.values()}
                    self.assertLessEqual(words, {"pass", "marginal"})
                    errors = [each.title for each in plan_findings(plan) if each.severity == "error"]
                    self.assertEqual(errors, [])
                    wires = [each.spec for each in plan.vehicle.segments.values() if isinstance(each.spec, Wire)]
                    self.assertTrue(all(("AWG" in wire.size) == (series == "awg") for wire in wires))

    def test_fits_into_a_job_in_use_and_leaves_its_pieces_as_they_are(self) -> None:
        for job in ("market-van", "vineyard-tractor", "school-minibus"):
            before = demo(job)
            for starter in STARTERS:
                after = laid(starter, before)
                with self.subTest(starter, job=job):
                    self.assertGreater(len(after.circuits), len(before.circuits))
                    for each, segment in before.segments.items():
                        self.assertEqual(after.segments[each].spec, segment.spec)

    def test_what_was_laid_before_gets_no_thinner_with_what_is_laid_after(self) -> None:
        """A starter's 5 m of cable want 50 mm² straps, whatever else returns over them."""
        first = laid("starter-cables", cranking_a="180 A", plus_m="5 m")
        for starter in STARTERS:
            after = laid(starter, first)
            for each, segment in first.segments.items():
                with self.subTest(starter, wire=segment.designation):
                    now = after.segments[each].spec
                    if isinstance(segment.spec, Wire) and isinstance(now, Wire):
                        self.assertGreaterEqual(find_size(now.size).area_mm2, find_size(segment.spec.size).area_mm2)

    def test_a_job_laid_from_nothing_is_answered_as_found_too_where_there_is_no_metal_yet(self) -> None:
        for starter in STARTERS:
            study = Study(laid(starter), RULES)
            for stage in STAGES:
                with self.subTest(starter, stage=stage):
                    seen = (study.proof(stage).forbidden, study.pulled(stage, {}), study.checks(stage))
                    self.assertEqual(any(seen), stage == "planned")

    def test_the_same_one_twice_makes_routes_of_its_own(self) -> None:
        once = laid("relay-fed-device")
        numbers = count(1000)
        twice, _ = lay_starter(once, answered("relay-fed-device", {}), RULES, lambda: f"new{next(numbers)}", "metric")
        self.assertEqual(len({each.name for each in twice.circuits.values()}), 4)
        self.assertEqual(
            sum(isinstance(each.spec, Fuse) for each in twice.segments.values()), 4
        )  # of the key and of coils one

    def test_wrong_answers_name_the_question(self) -> None:
        for answers, field in [
            ({"amps": "fast"}, "amps"), ({"length_m": "3"}, "length_m"), ({"name": ""}, "name"),
            ({"trigger": "by magic"}, "trigger"), ({"colour": "red"}, "colour"), ({"amps": "5000 A"}, "amps"),
        ]:  # fmt: skip
            with self.subTest(answers), self.assertRaises(AnswersError) as caught:
                laid("relay-fed-device", **answers)
            self.assertEqual(caught.exception.items[0]["loc"][0], field)


class WhatTheyDo(TestCase):
    def test_a_relay_fed_device_by_ignition_hand_and_module(self) -> None:
        for way, off in (("with the ignition", {}), ("hand switch", {"fan_switch": "off"}),
                         ("module to ground", {"fan_request": "off"})):  # fmt: skip
            vehicle = laid("relay-fed-device", trigger=way)
            self.assertTrue(is_on(vehicle, "Fan", "idle"), way)
            self.assertFalse(is_on(vehicle, "Fan", "off"), way)
            if off:
                self.assertFalse(is_on(vehicle, "Fan", "idle", **off), way)
        back = named(vehicle, "Fan trigger").return_path
        self.assertTrue(any(isinstance(vehicle.segments[each].spec, Switch) for each in back))

    def test_one_of_two_devices_keeps_working_without_the_others_fuse(self) -> None:
        vehicle = laid("two-devices")
        own = named(vehicle, "Fuel pump 1 feed")
        fuse = next(each for each in own.supply if isinstance(vehicle.segments[each].spec, Fuse))
        pulled = vehicle.segments[fuse].spec.model_copy(update={"fitted": False})
        without = {**vehicle.segments, fuse: replace(vehicle.segments[fuse], spec=pulled)}
        broken = replace(vehicle, segments=without)
        self.assertEqual([is_on(broken, f"Fuel pump {each}", "idle") for each in (1, 2)], [False, True])

    def test_a_pump_runs_while_cranking_and_then_only_with_pressure(self) -> None:
        vehicle = laid("pressure-interlock")
        runs = [is_on(vehicle, "Fuel pump", state, oil_pressure=oil) for state, oil in [
            ("on", "off"), ("cranking", "off"), ("idle", "on"), ("idle", "off"), ("off", "on"),
        ]]  # fmt: skip
        self.assertEqual(runs, [False, True, True, False, False])

    def test_the_start_relay_takes_over_the_old_lead_and_lets_go(self) -> None:
        """The tractor has a key-fed solenoid; left connected, its lead would hold the relay from its own output."""
        vehicle = laid("start-trigger", demo("vineyard-tractor"))
        pulled = {state: solved(vehicle, state).devices["m1"].pulled_in for state in ("on", "cranking", "idle")}
        self.assertEqual(pulled, {"on": False, "cranking": True, "idle": False})

    def test_an_alternator_wakes_up_over_each_kind_of_exciter_lead_and_senses_at_the_battery(self) -> None:
        ways = ("charge lamp", "resistor", "lamp with resistor beside it", "switched feed with diode")
        for way in ways:
            vehicle = laid("built-in-regulator", exciter=way)
            alternator = next(each for each in vehicle.devices.values() if each.name == "Alternator")
            with self.subTest(way):
                self.assertIn(alternator.id, solved(vehicle, "idle").modes.excited)
                network = Network(vehicle)
                self.assertEqual([each.title for each in behaviour(network, network.solve("on"), RULES)], [])
        battery = next(each for each in vehicle.devices.values() if each.name == "Battery")
        sensed = solved(vehicle, "idle").voltage_v(battery.terminals["+"], battery.terminals["-"])
        self.assertAlmostEqual(sensed or 0, 14.2, delta=0.1)

    def test_the_bypass_takes_its_share_beside_the_old_path(self) -> None:
        vehicle = laid("charge-bypass", demo("vineyard-tractor"))
        first = named(vehicle, "Charge bypass 2").supply[0]
        self.assertGreater(abs(solved(vehicle, "road").segments[first].current_a or 0), 4)

    def test_a_module_gets_its_voltage_while_cranking_over_leads_of_its_own(self) -> None:
        """Needs 7 V; at 5 A its leads may lose 2 V of 9 V. Ground and supply go straight to the battery and the key."""
        vehicle = laid("module-feed", amps="5 A", least_v="7 V")
        feed = named(vehicle, "Control module switched supply")
        self.assertEqual((feed.state, feed.target.value), ("cranking", 7.0))
        memory = next(each for each in vehicle.devices.values() if each.name == "Control module memory")
        for state in ("off", "cranking"):
            self.assertTrue(solved(vehicle, state).devices[memory.id].on)
        self.assertFalse(is_on(vehicle, "Control module", "off"))
        self.assertTrue(is_on(vehicle, "Control module", "cranking"))

    def test_usual_values_go_with_the_nominal_voltage(self) -> None:
        """A 24 V relay coil has four times the ohms, so a quarter of 90 Ω's power stays; it pulls in at 14.4 V."""
        vehicle = laid("relay-fed-device", replace(EMPTY, nominal_v=24))
        coil = next(each.spec for each in vehicle.devices.values() if each.name == "Fan relay")
        self.assertEqual((coil.resistance_ohm, coil.pull_in_v), (360, 14.4))
        self.assertAlmostEqual(named(vehicle, "Fan trigger").design_current_a, 24 / 360, places=3)

    def test_lengths_stay_as_they_were_typed_and_wires_get_a_colour(self) -> None:
        """Grounds black, triggers yellow, feeds red: one way of many, common practice."""
        vehicle = laid("relay-fed-device", length_m="13 ft")
        wires = [each.spec for each in vehicle.segments.values() if isinstance(each.spec, Wire)]
        self.assertIn("13 ft", [wire.typed.get("length_m") for wire in wires])
        self.assertEqual({wire.colour for wire in wires}, {"RD", "BK", "YE"})
        self.assertTrue(all(each.origin == "new" for each in vehicle.segments.values()))

    def test_a_ground_set_with_two_heads_and_a_battery_moved_to_the_back(self) -> None:
        """5 m of plus cable for 150 A at 85 °C, 0.8 V with the grounds: 35 mm² at least."""
        grounds = laid("ground-set", heads="two heads")
        self.assertEqual(len([each for each in grounds.circuits.values() if each.family == "ground"]), 4)
        moved = laid("starter-cables", plus_m="5 m")
        cable = named(moved, "Starter cables").supply[0]
        spec = moved.segments[cable].spec
        assert isinstance(spec, Wire)
        self.assertGreaterEqual(find_size(spec.size).area_mm2, 35)

    def test_the_ground_of_a_starter_carries_its_current_once_and_is_like_its_cable(self) -> None:
        """150 A, not 300, though the cable and its ground are a circuit each; 25 to 50 mm² (common practice)."""
        vehicle = laid("starter-cables")
        plan = planned(Network(vehicle), RULES)
        cable = named(vehicle, "Starter cables")
        for each in cable.whole_path:
            self.assertAlmostEqual(plan.worst.cranking_a(each), 150)
        self.assertEqual(plan_findings(plan), ())
        plus, minus = (vehicle.segments[each].spec for each in (cable.supply[0], cable.return_path[-1]))
        assert isinstance(plus, Wire)
        assert isinstance(minus, Wire)
        self.assertEqual(plus.size, minus.size)
        self.assertIn(plus.size, ("25 mm2", "35 mm2", "50 mm2"))
