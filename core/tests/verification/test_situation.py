"""What is done to the metal for a test, against hand arithmetic and the edited network."""

from dataclasses import replace
from unittest import TestCase

from core.tests.support.demo import demo
from core.tests.support.small import IDEAL_BATTERY, joint, key, small_vehicle, solved
from percorso.errors import PreparationError
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.study import Study
from percorso.vehicle.model import Vehicle
from percorso.vehicle.segments import GUARDS
from percorso.verification.bench.prepared_vehicle import prepared
from percorso.verification.checks.offers import offers
from percorso.verification.measured.preparations import preparation


def bench() -> Vehicle:
    """A fused heater of 2 Ω through a plug, a relay whose contact feeds a lamp, and a key over both."""
    return small_vehicle(
        {
            "S1": ("plus", "kl15", key("on")),
            "F3": ("kl15", "a", {"kind": "fuse", "rating_a": 10, "resistance_ohm": 0.01}),
            "X4": ("a", "b", {"kind": "connector", "resistance_ohm": 0.01}),
            "W9": ("b", "heater", {"kind": "wire", "size": "14 AWG", "length_m": 2}),
            "J2": ("ground", "minus", joint(0.01)),
            "K1": ("plus", "out", {"kind": "relay contact", "coil": "C1", "resistance_ohm": 0.01}),
            "K2": ("plus", "rest", {"kind": "relay contact", "coil": "C1", "form": "NC", "resistance_ohm": 0.01}),
            "W5": ("kl15", "trigger", joint(0.01)),
        },
        {
            "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
            "E1": ({"+": "heater", "-": "ground"}, {"kind": "resistive", "rated_v": 12, "rated_a": 6}),
            "E2": ({"+": "out", "-": "minus"}, {"kind": "resistive", "rated_v": 12, "rated_a": 1}),
            "E3": ({"+": "rest", "-": "minus"}, {"kind": "resistive", "rated_v": 12, "rated_a": 1}),
            "C1": ({"86": "trigger", "85": "minus"}, {"kind": "relay coil"}),
        },
    )


def running(*done: str) -> set[str]:
    """Which loads of the bench run with the key on, after what was done."""
    solution = solved(prepared(bench(), map(preparation, done)))
    return {each for each in ("E1", "E2", "E3") if each in solution.devices and solution.devices[each].on}


class WhatStaysOn(TestCase):
    def test_each_preparation_takes_out_what_hangs_on_it(self) -> None:
        """Facts of the trade: a relay out of its socket has no contact at all, at rest or not."""
        for done, left in (
            ((), {"E1", "E2"}),
            (("pull F3",), {"E2"}),
            (("unplug X4",), {"E2"}),
            (("lift W9",), {"E2"}),
            (("lift J2",), {"E2"}),
            (("unplug E1",), {"E2"}),
            (("unplug S1",), {"E3"}),
            (("lift W5",), {"E1", "E3"}),  # the coil drops out: at rest 87a is closed
            (("pull K1",), {"E1"}),
            (("pull C1",), {"E1"}),
            (("pull F3", "bridge kl15 a"), {"E1", "E2"}),
            (("bridge plus out", "pull C1"), {"E1", "E2"}),
            (("pull F3", "bridge plus heater", "unplug E2"), {"E1"}),
        ):
            with self.subTest(done):
                self.assertEqual(running(*done), left)

    def test_what_is_offered_can_be_done(self) -> None:
        """Also at a plug of several ways: all of it, or one way pushed out."""
        for name in ("market-van", "school-minibus"):
            vehicle = demo(name)
            for circuit in vehicle.circuits.values():
                for offer in offers(vehicle, circuit):
                    is_same = prepared(vehicle, [preparation(offer.text)]) is vehicle
                    self.assertEqual(is_same, offer.text.startswith("swap"), offer.says)
                    of = vehicle.segments.get(offer.segment_id or "")
                    self.assertFalse(of and isinstance(of.spec, GUARDS) and "jumper" in offer.says, offer.says)
        bus = demo("school-minibus")
        signal = replace(next(iter(bus.circuits.values())), supply=("x9-way3",), return_path=())
        said = {offer.says: prepared(bus, [preparation(offer.text)]).opened for offer in offers(bus, signal)}
        self.assertEqual(len(said["unplug X9, all its ways"]), 4)
        self.assertEqual(said["push X9.3 out of its plug"], {"x9-way3"})

    def test_a_jumper_and_a_lamp_carry_what_ohm_says(self) -> None:
        """A jumper of 20 mΩ across an open fuse drops 20 mV per ampere. Into a dead short a lamp of 21 W at 12 V lets
        its own 1.75 A through, and has all but the voltage that the rest loses."""
        bridged = solved(prepared(bench(), map(preparation, ("pull F3", "bridge kl15 a"))))
        jumper = bridged.segments["jumper-1"]
        self.assertAlmostEqual(jumper.drop_v or 0, 0.020 * (jumper.current_a or 0))
        self.assertAlmostEqual(jumper.current_a or 0, 6.15, delta=0.1)
        shorted = map(preparation, ("lamp F3", "bridge heater minus"))
        lamp = solved(prepared(bench(), shorted)).devices["lamp-1"]
        self.assertAlmostEqual(lamp.current_a or 0, 21 / 12, delta=0.15)
        self.assertGreater(lamp.voltage_v or 0, 12)

    def test_a_known_lamp_shows_the_joint_that_a_meter_does_not(self) -> None:
        """Common practice: an open circuit shows battery voltage through any resistance; 55 W behind 3 Ω does not."""
        fuse = bench().segments["F3"]
        burnt = replace(fuse, spec=fuse.spec.model_copy(update={"resistance_ohm": 3.0}))
        rotten = replace(bench(), segments={**bench().segments, "F3": burnt})
        no_load = solved(prepared(rotten, [preparation("unplug E1")]))
        loaded = solved(prepared(rotten, map(preparation, ("unplug E1", "load heater"))))
        battery_v = no_load.voltage_v("plus", "minus") or 0
        self.assertAlmostEqual(no_load.voltage_v("heater", "minus") or 0, battery_v, delta=0.01)
        self.assertLess(loaded.voltage_v("heater", "minus") or 0, 0.6 * battery_v)

    def test_a_prepared_van_is_the_edited_van(self) -> None:
        """Pulling is not fitting; nothing of it stays in the job that is studied."""
        van = demo("market-van")
        study = Study(van, HouseRules())
        fuse = next(each for each in study.at("planned").vehicle.segments.values() if each.spec.kind == "fuse")
        pulled = study.solved("road", "planned", {}, (preparation(f"pull {fuse.designation}"),))
        emptied = fuse.spec.model_copy(update={"fitted": False})
        edited = study.at("planned").vehicle
        edited = replace(edited, segments={**edited.segments, fuse.id: replace(fuse, spec=emptied)})
        expected = Network(edited).solve("road")
        assert pulled is not None
        for point, result in expected.points.items():
            self.assertAlmostEqual(result.v or 0, pulled.solution.points[point].v or 0, delta=1e-9)
        self.assertEqual(van, demo("market-van"))
        self.assertFalse(study.at("planned").vehicle.opened)

    def test_without_a_battery_nothing_is_live(self) -> None:
        self.assertEqual(running("battery off"), set())


class WhatCannotBeDone(TestCase):
    def test_what_is_refused_says_why_and_which(self) -> None:
        for done, hint in (
            ("pull F9", 'no part "F9"'),
            ("pull W9", "W9 is a wire"),
            ("lift F3", "F3 is a fuse"),
            ("unplug W9", "W9 is a wire"),
            ("lamp E1", "E1 is a resistive"),
            ("bridge a a", "two different points"),
            ("bridge a nowhere", 'no point "nowhere"'),
            ("load minus", "where voltages count from"),
            ("swap W9", "W9 is a wire"),
            ("swap F9", 'no part "F9"'),
        ):
            with self.subTest(done), self.assertRaisesRegex(PreparationError, hint) as refused:
                prepared(bench(), [preparation("pull F3"), preparation(done)])
            self.assertEqual(refused.exception.field, ("preparations", 1))

    def test_what_cannot_be_read_says_how_to_write_it(self) -> None:
        for text in ("", "pull", "pull F3 F4", "bridge a", 'bridge "a b', "dismantle K1"):
            with self.subTest(text), self.assertRaisesRegex(PreparationError, "pull F3"):
                preparation(text)
