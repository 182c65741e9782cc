"""The tests a job asks for: in a safe order, each possible as asked, and adding up as Kirchhoff has it."""

from collections import defaultdict
from dataclasses import replace
from itertools import groupby
from unittest import TestCase

from core.tests.support.demo import demo
from core.tests.support.small import IDEAL_BATTERY, joint, key, small_vehicle
from percorso.house_rules import HouseRules
from percorso.network.mornings import cranked
from percorso.study import Study
from percorso.targets import Target
from percorso.vehicle.model import STAGES, Circuit, Stage, Vehicle
from percorso.vehicle.segments import Connector, Switch
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import ENGINE, Input
from percorso.verification.checks.asked import GROUPS, Check
from percorso.verification.judging.expected import Expected
from percorso.verification.measured.preparations import BatteryOff

JOBS = ("market-van", "vineyard-tractor", "school-minibus")


def told(study: Study, stage: Stage = "planned") -> dict[str, tuple[Check, Expected]]:
    """Every test by its title, and what is expected of it."""
    asked = study.checks(stage)
    expected = study.judge.expected([one.measurement for one in asked])
    return {one.title: (one, each) for one, each in zip(asked, expected, strict=True)}


class DemoJobs(TestCase):
    def test_every_test_can_be_done_and_comes_in_a_safe_order(self) -> None:
        """Battery off first, the engine never runs without its battery, one situation at a time, nothing twice."""
        for name, stage in ((name, stage) for name in JOBS for stage in STAGES):
            study = Study(demo(name), HouseRules())
            asked = study.checks(stage)
            self.assertEqual(len({each.id for each in asked}), len(asked))
            once = [each.measurement.key for each in asked if each.only_if is None]
            self.assertEqual(len(set(once)), len(once))
            places = [GROUPS.index(each.group) for each in asked]
            self.assertEqual(places, sorted(places))
            for _, group in groupby(asked, key=lambda each: each.group):
                situations = [each for each, _ in groupby(group, key=lambda one: one.measurement.situation.key)]
                self.assertEqual(len(situations), len(set(situations)))
            for each in asked:
                off = any(isinstance(done, BatteryOff) for done in each.measurement.situation.preparations)
                self.assertFalse(off and ENGINE[each.measurement.situation.state] != "stopped")
                self.assertTrue(each.how.count(". ") >= 1 and each.minutes > 0, each.title)
            for each, expected in zip(asked, study.judge.expected([one.measurement for one in asked]), strict=True):
                self.assertTrue(expected.outcome or expected.value is not None or expected.why_not, each.title)

    def test_voltages_add_up(self) -> None:
        """Kirchhoff: pieces lose what their side loses, source = out + device + back, within 1 mV."""
        study = Study(demo("market-van"), HouseRules())
        whole = {one.id: each for one, each in told(study).values()}
        pieces: dict[str, float] = defaultdict(float)
        for one, each in told(study).values():
            if one.only_if is not None:
                pieces[one.only_if] += each.value or 0.0
        self.assertGreater(len(pieces), 12)
        for side, lost in pieces.items():
            self.assertAlmostEqual(lost, whole[side].value or 0.0, delta=1e-3)
        for name in ("Work lamps", "Blower", "Fuel pump feed"):
            circuit = next(each for each in study.vehicle.circuits.values() if each.name == name)
            asked = {each.what: each for each in study.checks("planned", circuit.id)}
            parts = ("source", "device", "supply", "return")
            expected = study.judge.expected([asked[each].measurement for each in parts])
            source, device, out, back = (each.value or 0.0 for each in expected)
            self.assertAlmostEqual(source, out + device + back, delta=1e-3)

    def test_drain_fuses_cranking_current_and_charging_with_and_without_loads(self) -> None:
        """What practitioners look for: 50 mA at rest, a fuse on both sides, the charge with everything on."""
        tests = told(Study(demo("vineyard-tractor"), HouseRules()))
        drain, rests = tests["Battery: drain at rest, in W2"]
        assert drain.target and rests.value is not None
        self.assertEqual((drain.measurement.situation.state, drain.target.value), ("off", 0.05))
        self.assertLess(abs(rests.value), 0.05)
        self.assertIn("modules sleep", drain.how)
        fed, whole = (tests[f"F4: {side}, key on"][1].value or 0.0 for side in ("in", "out"))
        self.assertAlmostEqual(fed, whole, delta=0.1)
        tractor = vehicle_at(demo("vineyard-tractor"), "planned")
        morning = cranked(tractor, tractor.devices["m1"], -10)
        says = f"On a morning of -10 °C about {morning.starter_v:.3g} V"
        self.assertEqual(sum(says in one.how for one, _ in tests.values()), 1)
        self.assertGreater(tests["Starter: current in W1"][1].value or 0.0, 50)
        off, on = (
            tests[f"Alternator: at the battery, {each}"][1].value or 0.0 for each in ("loads off", "all loads on")
        )
        self.assertGreater(off, on)
        van = told(Study(demo("market-van"), HouseRules()))
        self.assertAlmostEqual(
            van["Alternator: lost from battery plus to its sense terminal"][1].value or 0.0, 0, delta=0.05
        )

    def test_a_relay_that_is_switched_at_its_minus_takes_two_jumpers_by_hand(self) -> None:
        van, title = demo("market-van"), "Cold box feed: Cold box with K3 energised by a jumper"
        tests = told(Study(van, HouseRules()))
        ground = next(each for each in van.segments.values() if "k3-85" in (each.from_point, each.to_point))
        switched = replace(ground, spec=Switch(closed_in=("start",)))
        minus = told(Study(replace(van, segments={**van.segments, ground.id: switched}), HouseRules()))
        for found, jumpers in ((tests, 1), (minus, 2)):
            one, expected = found[title]
            self.assertEqual(len(one.measurement.situation.preparations), jumpers)
            self.assertEqual(expected.outcome, "weak")  # the engine stands

    def test_a_plug_has_its_pin_sheet_feeds_and_grounds_first(self) -> None:
        study = Study(demo("school-minibus"), HouseRules())
        pins = [each for each in study.checks("planned") if each.group == "pins"]
        sheet = [f"X9 pin {pin}, key off, unplugged" for pin in (1, 2, 4, 3)]
        self.assertEqual([each.title for each in pins[:4]], sheet)
        found = told(study)
        on, cranking = (found[f"X9 pin 3, {when}, unplugged"][1].value or 0.0 for when in ("key on", "cranking"))
        self.assertLess(abs(on), 0.1)
        self.assertGreater(cranking, 9)
        ways = [each for each, spec in study.vehicle.segments_of(Connector) if spec.plug == "X9"]
        self.assertEqual(len(ways), 4)


def pump() -> Vehicle:
    """A pump over a relay whose coil a key and a door switch feed, on a battery with a new fuse."""
    vehicle = small_vehicle(
        {
            "W1": ("plus", "stud", joint(0.002)),
            "F1": ("stud", "a", {"kind": "fuse", "rating_a": 20, "resistance_ohm": 0.004}),
            "K1": ("a", "b", {"kind": "relay contact", "coil": "C1", "resistance_ohm": 0.005}),
            "W2": ("b", "pump", joint(0.01)),
            "W3": ("ground", "minus", joint(0.005)),
            "S1": ("stud", "kl15", key("on")),
            "S2": ("kl15", "coil", {"kind": "switch", "input": "door", "closed_in": ["open"], "resistance_ohm": 0.01}),
        },
        {
            "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
            "M1": ({"+": "pump", "-": "ground"}, {"kind": "motor", "rated_v": 12, "rated_a": 10, "rests_in": ["off"]}),
            "C1": ({"86": "coil", "85": "minus"}, {"kind": "relay coil"}),
        },
        Input("door", "Door", ("shut", "open")),
    )
    circuit = Circuit(
        "pump-feed", "Pump feed", "feed", "Pump", 10, 12.6, Target("max_drop_v", 0.5), "plus",
        ("W1", "F1", "K1", "W2"), "ground", ("W3",), "on", "M1",
    )  # fmt: skip
    return Vehicle(**{**vars_of(vehicle), "circuits": {"pump-feed": circuit}})


def vars_of(vehicle: Vehicle) -> dict[str, object]:
    return {name: getattr(vehicle, name) for name in ("nominal_v", "points", "segments", "devices", "inputs")}


class OwnJob(TestCase):
    def test_the_situation_that_loads_a_circuit_is_found(self) -> None:
        """Key on and door open; at 10 A the hand says 2 + 4 + 5 + 10 mΩ out and 5 mΩ back."""
        found = told(Study(pump(), HouseRules()), "found")
        supply, expected = found["Pump feed: supply drop"]
        situation = supply.measurement.situation
        self.assertEqual((situation.state, situation.inputs), ("on", {"door": "open"}))
        current = (expected.value or 0) / 0.021
        self.assertAlmostEqual(current, 10, delta=0.6)
        self.assertAlmostEqual(found["Pump feed: return drop"][1].value or 0, 0.005 * current, delta=1e-4)
        self.assertEqual(found["M1 must rest, key off"][1].outcome, "dead")
        self.assertIn("Door open", supply.how.replace("door open", "Door open"))
        self.assertEqual(found["C1 C1, key on"][1].outcome, "dead")

    def test_the_words_are_all_said(self) -> None:
        groups = {each.group for name in JOBS for each in Study(demo(name), HouseRules()).checks("planned")}
        self.assertEqual(groups | {"independence"}, set(GROUPS))
