"""Advice that a practitioner would give at the counter: sizes, ends, fuses and reasons on whole vehicles."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Any
from unittest import TestCase

from core.tests.support.demo import demo
from core.tests.support.small import IDEAL_BATTERY, joint, small_vehicle
from percorso.circuits.design_case import Planned, planned
from percorso.circuits.voltage_profile import profile
from percorso.components.contacts import choose_contact
from percorso.findings.finding import Finding
from percorso.findings.operating_state import behaviour
from percorso.findings.plan import plan_findings
from percorso.house_rules import HouseRules
from percorso.load_budget.ledger import ledger_findings
from percorso.load_budget.sources import budgeted
from percorso.network.operating_point import Network
from percorso.planning.apply import edited
from percorso.planning.templates import STARTERS
from percorso.planning.templates.layout import Layout
from percorso.sizing.advice import Recommendation
from percorso.sizing.ampacity import copper_c
from percorso.sizing.ladders import Ladder, ladders
from percorso.sizing.search import recommend
from percorso.sizing.wire_ends import wire_ends
from percorso.targets import Target
from percorso.vehicle.model import Circuit, Vehicle, passing
from percorso.vehicle.segments import Wire, changed_spec
from percorso.vehicle.stages import vehicle_at
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.measured.preparations import preparation

RULES = HouseRules()


VAN = demo("market-van")


def ladders_of(plan: Planned) -> Iterator[tuple[Circuit, Ladder]]:
    for circuit in plan.vehicle.circuits.values():
        for ladder in ladders(plan, circuit, plan.profiles[circuit.id]).values():
            yield circuit, ladder


def relay_feed(amps: float, length_m: float, allowed_v: float, **relay: Any) -> Vehicle:
    """A new feed from the battery over a blade fuse and a relay to a heater, and a new wire back."""
    new = {"kind": "wire", "size": "2.5 mm2", "length_m": length_m / 2}
    vehicle = small_vehicle(
        {
            "F1": ("plus", "f", {"kind": "fuse", "rating_a": 40}),
            "W1": ("f", "30", {"kind": "wire", "size": "2.5 mm2", "length_m": 0.15}),
            "K1": ("30", "87", {"kind": "relay contact", "rated_a": 40, "resistance_ohm": 0.001} | relay),
            "W2": ("87", "load+", new),
            "W3": ("load-", "minus", new),
        },
        {
            "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
            "E1": ({"+": "load+", "-": "load-"}, {"kind": "resistive", "rated_v": 12.6, "rated_a": amps}),
        },
    )
    laid = {each.id: replace(each, origin="new") for each in vehicle.segments.values()}
    target = Target("max_drop_v", allowed_v)
    circuit = Circuit("c", "Heater", "feed", "Heater", amps, 12.6, target, "plus", ("F1", "W1", "K1", "W2"), "load-",
                      ("W3",), "on", "E1")  # fmt: skip
    return replace(vehicle, segments=laid, circuits={"c": circuit})


def sizes(found: Recommendation) -> dict[str, str]:
    return {each.segment_id: each.size for each in found.wires}


def noticed(vehicle: Vehicle) -> tuple[Finding, ...]:
    return plan_findings(planned(Network(vehicle), RULES))


class OneRoute(TestCase):
    def test_a_fan_of_15_a_over_3_m_lands_within_and_runs_cool(self) -> None:
        """10 % of 12 V (common practice); out and back of one size.

        15 A · 3.5 m · 18.5 mΩ/m · 1.118 of 1 mm² are 1.09 V without fuse, relay and body; 12.7 of 1.5 mm² 0.75 V
        (ISO 6722-1, from memory). Behind a 20 A fuse lie 2.5 mm² (common practice).
        """
        layout = Layout(VAN, RULES, iter(f"n{number}" for number in range(999)).__next__, "metric")
        circuit_id = STARTERS["relay-fed-device"].model_validate({}).lay(layout)
        laid = vehicle_at(layout.finished(), "planned")
        plan = planned(Network(laid), RULES)
        circuit, solved = laid.circuits[circuit_id], plan.profiles[circuit_id]
        self.assertEqual(circuit.target, Target("max_drop_percent", 10))
        self.assertEqual(solved.verdict.word, "pass")
        own = [each for each in circuit.whole_path if laid.segments[each].origin == "new"]
        wires = [spec for each in own if isinstance(spec := laid.segments[each].spec, Wire)]
        self.assertEqual({each.size for each in wires}, {"2.5 mm2"})
        self.assertTrue(all(copper_c(each.cable, 15.0, 50.0, 1) - 50 <= 40 for each in wires))

    def test_electronics_may_lose_three_percent(self) -> None:
        """Feed to electronics 3 %, general feed 10 % (common practice); a house may say otherwise."""
        targets = dict(RULES.targets) | {"feed": Target("max_drop_percent", 5)}
        house = replace(RULES, targets=tuple(targets.items()))
        for kind, rules, percent in (("constant power", RULES, 3), ("pump", RULES, 3), ("motor", house, 5)):
            layout = Layout(VAN, rules, iter(f"n{number}" for number in range(999)).__next__, "metric")
            circuit_id = STARTERS["relay-fed-device"].model_validate({"kind": kind}).lay(layout)
            self.assertEqual(layout.vehicle.circuits[circuit_id].target, Target("max_drop_percent", percent))

    def test_what_exists_need_not_be_alike_and_is_not_pulled_out_for_a_thinner_one(self) -> None:
        vehicle = relay_feed(10, 3, 0.6)
        self.assertEqual(len(set(sizes(recommend(vehicle, RULES)).values())), 1)
        thick = replace(vehicle.segments["W3"], origin="existing")
        thick = replace(thick, spec=thick.spec.model_copy(update={"size": "6 mm2"}))
        found = recommend(replace(vehicle, segments={**vehicle.segments, "W3": thick}), RULES)
        self.assertEqual(sizes(found)["W3"], "6 mm2")
        self.assertEqual(len({sizes(found)[each] for each in ("W1", "W2")}), 1)
        self.assertNotEqual(sizes(found)["W1"], "6 mm2")


class WhatEndsTake(TestCase):
    def test_no_8_awg_into_a_blade(self) -> None:
        """6.3 mm blades and their relay bases take 6 mm² or 10 AWG at most (from memory)."""
        vehicle = relay_feed(20, 12, 0.9)
        found = recommend(vehicle, RULES)
        self.assertLessEqual({sizes(found)["W1"], sizes(found)["W2"]}, {"4 mm2", "6 mm2"})
        told = found.circuits[0]
        self.assertIn("even the thickest wires that fit their ends", told.problem)
        self.assertRegex(" ".join(told.ways_out), "F1 as a 30 A bolt-down fuse.*K1 as a relay with studs")

    def test_a_heavier_relay_and_fuse_take_it(self) -> None:
        studs = relay_feed(20, 12, 0.9, base="studs")
        bolted = replace(
            studs.segments["F1"], spec=studs.segments["F1"].spec.model_copy(update={"family": "bolt-down"})
        )
        found = recommend(replace(studs, segments={**studs.segments, "F1": bolted}), RULES)
        self.assertEqual((found.circuits[0].problem, sizes(found)["W2"]), ("", "10 mm2"))

    def test_a_wire_that_does_not_go_in_is_found_and_its_cure_takes_it(self) -> None:
        vehicle = relay_feed(20, 4, 2.0)
        spec = vehicle.segments["W2"].spec.model_copy(update={"size": "8 AWG"})
        forced = replace(vehicle, segments={**vehicle.segments, "W2": replace(vehicle.segments["W2"], spec=spec)})
        [found] = [each for each in noticed(forced) if "does not go into" in each.title]
        self.assertEqual(found.title, "W2 8 AWG does not go into the base of K1.")
        assert found.cure
        cured = edited(forced, found.cure.edits, RULES, str)
        self.assertEqual([each.title for each in noticed(cured) if "does not go into" in each.title], [])

    def test_a_stud_takes_any_ring(self) -> None:
        """The main stud feeds seven fuses: cables on it are limited by nothing."""
        for name in ("w1", "w4"):
            segment = VAN.segments[name]
            assert isinstance(segment.spec, Wire)
            self.assertEqual(wire_ends(VAN, segment, segment.spec), ())


class Ladders(TestCase):
    """What a ladder does not refuse harms nobody: the wire is changed and every circuit through it judged anew."""

    def test_a_size_stands_its_whole_current_and_leaves_other_circuits_as_they_are(self) -> None:
        """What lies beside a path may open: the wire left must carry all of its circuit (common practice)."""
        words, tried = ("pass", "marginal", "fail"), 0
        for job in ("market-van", "vineyard-tractor", "school-minibus"):
            vehicle = vehicle_at(demo(job), "planned")
            plan = planned(Network(vehicle), RULES)
            for circuit, ladder in ladders_of(plan):
                wire = vehicle.segments[ladder.segment_id]
                rung = next((each for each in ladder.rungs if not each.refused), None)
                if not isinstance(wire.spec, Wire) or rung is None or rung.ampacity_a is None:
                    continue
                tried += 1
                if circuit.state != "cranking":
                    self.assertGreaterEqual(rung.ampacity_a, circuit.design_current_a)
                changed = replace(wire, spec=changed_spec(wire.spec, {"size": rung.label, "insulation": None}))
                after = replace(vehicle, segments={**vehicle.segments, wire.id: changed})
                for other in passing(vehicle, wire.id):
                    before, now = plan.profiles[other.id].verdict.word, profile(after, other, RULES).verdict.word
                    with self.subTest(f"{job}: {wire.designation} as {rung.label}, {other.name}"):
                        self.assertLessEqual(words.index(now), words.index(before))
        self.assertGreater(tried, 100)

    def test_what_stays_is_what_is_there_and_not_what_a_round_of_sizing_made_of_it(self) -> None:
        """In a route sized at once a good existing wire keeps its size exactly (common practice)."""
        for job in ("market-van", "vineyard-tractor", "school-minibus"):
            vehicle = vehicle_at(demo(job), "planned")
            stay = [each for each in recommend(vehicle, RULES).wires if each.governed_by == "what is there"]
            self.assertGreater(len(stay), 2)
            for each in stay:
                spec = vehicle.segments[each.segment_id].spec
                assert isinstance(spec, Wire)
                with self.subTest(f"{job}: {each.segment_id}"):
                    self.assertEqual(each.size, spec.size)

    def test_what_is_there_and_good_stays(self) -> None:
        """The route sized at once says so too: nobody pulls out a good cable for a thinner one (common practice)."""
        plan = planned(Network(vehicle_at(demo("school-minibus"), "planned")), RULES)
        steps = {ladder.segment_id: ladder for circuit, ladder in ladders_of(plan) if circuit.name == "Lift pump"}
        plus = next(each for each in steps.values() if plan.name(each.segment_id) == "W1")
        self.assertEqual([rung.label for rung in plus.rungs if rung.recommended], ["50 mm2"])
        self.assertIn("35 mm2 would do", plus.summary)


class Reasons(TestCase):
    def test_a_charge_fuse_is_judged_by_what_the_alternator_makes(self) -> None:
        """110 A take a 125 A fuse: the alternator cannot give more (common practice)."""
        there = vehicle_at(VAN, "planned")
        told = next(each for each in recommend(there, RULES, ["charge-cable"]).fuses if each.designation == "F1")
        self.assertEqual(told.choice.rating_a, 125)
        self.assertEqual([each.title for each in noticed(there) if each.title.startswith("F1")], [])

    def test_nothing_cooks_behind_a_fuse_that_opens_first(self) -> None:
        """262 A open 20 A within 0.1 s: 6 900 A²s at most, 2.5 mm² of cross-linked cable stands far more."""
        network = Network(prepared(vehicle_at(VAN, "found"), [preparation("bridge k4 body-rear")]))
        found = behaviour(network, network.solve("idle"), RULES)
        self.assertTrue(any("F8 20 A opens within" in each.title for each in found))
        self.assertFalse([each.title for each in found if each.title.startswith("W12") and "cook" in each.reason])

    def test_a_wired_load_is_not_said_to_be_unfed(self) -> None:
        """A lamp straight across the battery has wires, though no circuit describes them."""
        wired = small_vehicle(
            {"W": ("plus", "e+", joint(0.01))},
            {
                "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
                "E1": ({"+": "e+", "-": "minus"}, {"kind": "filament lamp", "rated_v": 12, "rated_a": 2}),
                "E2": ({}, {"kind": "filament lamp", "rated_v": 12, "rated_a": 3}),
            },
        )
        [found] = list(ledger_findings(budgeted(wired, "planned")))
        self.assertEqual(found.title, "No circuit feeds E2.")

    def test_a_solenoid_asks_more_of_its_contact_than_a_heater(self) -> None:
        """Inductive loads take a share of the rating (from memory): 10 A of solenoid want 20 A, of heater 10 A."""
        self.assertEqual(choose_contact(10, "solenoid").rated_a, 20)
        self.assertEqual(choose_contact(10, "resistive").rated_a, 10)

    def test_a_rusty_lug_is_mended_before_any_cable_is_made_thicker(self) -> None:
        """Common practice; the lug alone takes most of the loss, whoever's current flows through it."""
        found = plan_findings(planned(Network(vehicle_at(demo("vineyard-tractor"), "found")), RULES))
        suffering = ("Engine ground drops", "Starter cable drops", "What Start trigger shares")
        cures = [each.cure and each.cure.effect for each in found if each.title.startswith(suffering)]
        self.assertEqual(cures, ["J1 repaired"] * 3)

    def test_a_healthy_fuse_is_not_to_be_mended(self) -> None:
        """0.1 V at its rating is a fuse's usual drop (from memory)."""
        vehicle = relay_feed(20, 4, 0.1)
        [told] = recommend(vehicle, RULES).circuits
        self.assertIn("reroute past F1", " ".join(told.ways_out))
        self.assertNotIn("repair", " ".join(told.ways_out))
