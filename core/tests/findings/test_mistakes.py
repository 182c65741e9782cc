"""Every planning mistake of the trade is noticed, and its cure really cures it."""

from dataclasses import replace
from itertools import count
from typing import Any
from unittest import TestCase

from core.tests.support.feed import FEED, PUMP, Devices, Parts, circuit, feed, piece, with_circuits
from core.tests.support.small import IDEAL_BATTERY, joint, key, small_vehicle
from percorso.circuits.design_case import planned
from percorso.findings.finding import Finding
from percorso.findings.operating_state import behaviour
from percorso.findings.plan import plan_findings
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.planning.apply import edited
from percorso.vehicle.model import Device, Segment, Vehicle
from percorso.vehicle.stages import vehicle_at
from percorso.vehicle.states import State

RULES = HouseRules()
CHARGING: Devices = {
    "G1": ({"+": "plus", "-": "minus"}, {"kind": "battery", "capacity_ah": 70, "cold_cranking_a": 600}),
    "G2": (
        {"B+": "b+", "B-": "minus", "D+": "lead", "S": "s"},
        {"kind": "alternator", "setpoint_v": 14.2, "at_1800_a": 40, "at_6000_a": 75},
    ),
    "E1": ({"+": "plus", "-": "minus"}, {"kind": "resistive", "rated_v": 13.0, "rated_a": 20.0}),
}
CHARGE_PATH: Parts = {
    "W1": ("b+", "end", {"kind": "wire", "size": "10 mm2", "length_m": 2.0, "zone": "engine bay"}),
    "F1": ("end", "plus", {"kind": "fuse", "family": "strip", "rating_a": 80}),
    "S1": ("plus", "k15", key("on", "start")),
    "R1": ("k15", "lead", {"kind": "resistor", "resistance_ohm": 470, "rated_w": 0.5}),
    "W9": ("plus", "s", {"kind": "wire", "size": "0.75 mm2", "length_m": 2.0}),
}


def noticed(vehicle: Vehicle, state: State | None = None) -> tuple[Finding, ...]:
    """What the plan's rules notice, or those of a solved state."""
    network = Network(vehicle_at(vehicle, "planned"))
    return behaviour(network, network.solve(state), RULES) if state else plan_findings(planned(network, RULES))


class Mistakes(TestCase):
    def caught(self, vehicle: Vehicle, title: str, *figures: str, state: State | None = None) -> Vehicle:
        """The finding is there with its figures; what its cure leaves, in which it is gone."""
        found = noticed(vehicle, state)
        [finding] = [each for each in found if title in each.title] or [None]
        assert finding, [each.title for each in found]
        for figure in figures:
            self.assertIn(figure, f"{finding.title} {finding.reason}")
        assert finding.cure, finding
        numbers = count()
        cured = edited(vehicle, finding.cure.edits, RULES, lambda: f"new{next(numbers)}")
        left = [each.title for each in noticed(cured, state)]
        self.assertFalse([each for each in left if title in each], left)
        return cured

    def test_a_sound_feed_shows_nothing(self) -> None:
        self.assertEqual([each.title for each in noticed(feed())], [])

    def test_return_path_forgotten_in_the_length(self) -> None:
        vehicle = feed(W4=None, J4=("load-", "minus", {"kind": "joint"}))
        cured = self.caught(vehicle, "The return of Pump has no length", "3.3 m lead out")
        self.assertEqual(len(cured.circuits["Pump"].return_path), 2)

    def test_fuse_sized_to_the_load_and_not_to_the_wire(self) -> None:
        """18 AWG stands 20 A (ABYC E-11, from memory): no fuse for 18 A ÷ 0.8 does both, so the route is sized anew."""
        self.caught(feed(W4=piece("W4", size="18 AWG")), "F1 25 A does not protect", "good for 20 A")
        self.caught(feed(F1=piece("F1", rating_a=40), W4=piece("W4", size="14 AWG")), "F1 40 A does not", "35 A")

    def test_fuse_too_small_and_a_start_that_opens_it(self) -> None:
        """18 A ÷ 0.8 = 22.5 A. 100 A is 400 % of 25 A: a blade fuse may open from 0.033 s on, between its gates."""
        self.caught(feed(F1=piece("F1", rating_a=20)), "F1 20 A is too small for 18 A", "22.5 A")
        slow = PUMP | {"inrush_a": 100.0, "inrush_s": 0.1}
        self.caught(feed(slow), "F1 25 A may open when its load starts", "100 A for 100 ms")

    def test_a_short_at_the_far_end_that_never_blows_the_fuse(self) -> None:
        """40 m of 16 AWG at 50 °C, 13.17 mΩ/m · 1.118: 12 V over 0.59 Ω and the rest give 19 A, under 2 · 25 A."""
        long = piece("W1", size="16 AWG", length_m=40)
        light = PUMP | {"rated_a": 1.0}
        vehicle = feed(light, W1=long, W4=piece("W4", size="16 AWG"), F1=piece("F1", rating_a=25))
        thin = with_circuits(vehicle, circuit("Pump", ("F1", "W1", "W2", "W3"), ("W4",), amps=1.0, device_id="M1"))
        wires = replace(thin, zone_temperature_c={**thin.zone_temperature_c, "cabin": 50.0})
        found = [each for each in noticed(wires) if "would not open in time" in each.title]
        self.assertEqual(found, [], "19 A is within what 16 AWG stands, 25 A: harmless")
        tight = feed(light, W1=piece("W1", size="16 AWG", length_m=18), F1=piece("F1", rating_a=25))
        weak = with_circuits(tight, circuit("Pump", ("F1", "W1", "W2", "W3"), ("W4",), amps=1.0, device_id="M1"))
        self.caught(weak, "F1 25 A would not open in time", "50 A open it within 5 s")
        strip = {"kind": "fuse", "family": "strip", "rating_a": 100}
        before = feed(light, W1=piece("W1", size="16 AWG", length_m=18), F0=("plus", "f0", strip))
        behind = replace(before.segments["F1"], from_point="f0")
        both = with_circuits(
            replace(before, segments={**before.segments, "F1": behind}),
            circuit("Pump", ("F0", "F1", "W1", "W2", "W3"), ("W4",), amps=1.0, device_id="M1"),
        )
        late = [each.title for each in noticed(both) if "would not open in time" in each.title]
        self.assertEqual(len(late), 1, "of two the smaller one opens, or ought to")

    def test_thin_piece_in_a_thick_cable(self) -> None:
        self.caught(feed(W2=piece("W2", size="16 AWG")), "W2 16 AWG is a thin piece", "are good for 25 A")

    def test_one_run_of_two_sizes_over_a_splice(self) -> None:
        """Metal in one run is of one size unless its current changes there (common practice)."""
        joined = {"J9": ("a", "j", {"kind": "splice"}), "W2": ("j", "b", FEED["W2"][2] | {"size": "6 mm2"})}
        vehicle = feed(supply=("F1", "W1", "J9", "W2", "W3"), **joined, W1=piece("W1", size="10 mm2"))
        self.caught(vehicle, "W2 6 mm2 and W1 10 mm2 are one run", "J9")
        self.assertEqual([each.title for each in noticed(feed(W1=piece("W1", size="6 mm2")))], [])  # 10 AWG is as thick

    def test_no_fuse_at_all_and_one_too_far_away(self) -> None:
        bare = feed(supply=("W1", "W2", "W3"), F1=None, W1=("plus", "a", FEED["W1"][2]))
        self.caught(bare, "Nothing protects Pump")
        late = feed(
            supply=("W1", "F1", "W2", "W3"),
            W1=("plus", "a", FEED["W1"][2]),
            F1=("a", "f", FEED["F1"][2]),
            W2=("f", "b", FEED["W2"][2]),
        )
        self.caught(late, "W1 leads 2 m from the battery without a fuse", "180 mm")

    def test_link_too_thick_for_its_wire(self) -> None:
        """Four AWG numbers below (common practice): 10 AWG takes a 14 AWG link."""
        link = ("plus", "f", {"kind": "fusible link", "size": "12 AWG"})
        self.caught(feed(F1=link), "F1, a 12 AWG link, is too thick", "14 AWG")

    def test_the_smaller_fuse_opens_first(self) -> None:
        twice = {"F2": ("f", "f2", {"kind": "fuse", "rating_a": 25}), "W1": ("f2", "a", FEED["W1"][2])}
        # IEC 60269 asks for 1.6 times (from memory): 40 A in front of 25 A, which 10 AWG (60 A) stands.
        self.caught(feed(supply=("F1", "F2", "W1", "W2", "W3"), **twice), "F1 may open before F2 does", "1.6")

    def test_second_fuse_missing_at_the_battery_end_of_a_charge_cable(self) -> None:
        parts = CHARGE_PATH | {
            "F1": ("b+", "end", CHARGE_PATH["F1"][2]),
            "W1": ("end", "plus", CHARGE_PATH["W1"][2]),
        }
        self.caught(self.charging(parts, ("F1", "W1")), "W1 leads 2 m from the battery without", "Both ends")

    def charging(self, parts: Parts, supply: tuple[str, ...], devices: Devices = CHARGING) -> Vehicle:
        vehicle = small_vehicle(parts | {"J9": ("minus", "minus2", joint(0.0001))}, devices)
        cable = circuit(
            "Charge cable", supply, ("J9",), "b+", "minus2", family="charging", amps=75.0, device_id="G1", state="road"
        )
        lead = circuit("Exciter", ("S1", "R1"), ("J9",), "plus", "minus2", family="exciter", amps=0.025)
        lead = replace(lead, supply=tuple(each for each in ("S1", "R1") if each in parts))
        return with_circuits(vehicle, cable, lead)

    def test_fuse_smaller_than_the_alternator_can_make(self) -> None:
        parts = CHARGE_PATH | {"F1": ("end", "plus", {"kind": "fuse", "family": "strip", "rating_a": 60})}
        self.caught(self.charging(parts, ("W1", "F1")), "F1 60 A is smaller than what the alternator can make", "75 A")

    def test_sense_lead_where_it_sees_the_wrong_voltage(self) -> None:
        parts = CHARGE_PATH | {
            "W8": ("plus", "bus", {"kind": "wire", "size": "2.5 mm2", "length_m": 2.0}),
            "W9": ("bus", "s", {"kind": "wire", "size": "0.75 mm2", "length_m": 2.0}),
        }
        devices = CHARGING | {"E1": ({"+": "bus", "-": "minus"}, CHARGING["E1"][1])}
        vehicle = self.charging(parts, ("W1", "F1"), devices)
        self.caught(vehicle, "The sense lead of G2 sees", "less than the battery", state="road")

    def test_exciter_fed_directly(self) -> None:
        """12.65 V over about 10 Ω would be 1.2 A; its regulator stands 0.5 A."""
        parts = CHARGE_PATH | {"R1": ("k15", "lead", joint(0.01))}
        cured = self.caught(self.charging(parts, ("W1", "F1")), "The exciter of G2 is fed directly: 1.3 A", state="on")
        self.assertIn("new0", cured.segments)

    def test_an_led_in_the_exciter_lead(self) -> None:
        devices = CHARGING | {
            "P1": (
                {"+": "k15", "-": "lead"},
                {"kind": "indicator lamp", "technology": "LED", "rated_v": 12, "rated_a": 0.01},
            )
        }
        parts = {name: part for name, part in CHARGE_PATH.items() if name != "R1"}
        vehicle = self.charging(parts, ("W1", "F1"), devices)
        self.caught(replace(vehicle, circuits={}), "G2 does not excite", state="idle")

    def test_the_lamp_lead_on_the_tachometer_tap(self) -> None:
        terminals = {"B+": "b+", "B-": "minus", "W": "lead", "D+": "tach", "S": "s"}
        vehicle = self.charging(CHARGE_PATH, ("W1", "F1"), CHARGING | {"G2": (terminals, CHARGING["G2"][1])})
        self.caught(vehicle, "Exciter ends on W of G2, the tachometer tap")

    def test_exciter_resistor_that_burns(self) -> None:
        """470 Ω at 14.4 V: 0.44 W. ½ W passes and ¼ W fails; between D+ and ground the whole voltage lies across it."""
        makes = {"setpoint_v": 14.4, "at_1800_a": 60, "at_6000_a": 90, "self_excites_rpm": 1500}
        devices: Devices = {
            "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
            "G2": ({"B+": "plus", "B-": "minus"}, {"kind": "alternator", **makes}),
        }
        for rated, burns in ((0.5, False), (0.25, True)):
            resistor = {"kind": "resistor", "resistance_ohm": 470, "rated_w": rated}
            vehicle = small_vehicle({"R1": ("plus", "minus", resistor)}, devices)
            if burns:
                self.caught(vehicle, "R1 burns: 0.44 W in a 0.25 W resistor", state="idle")
            else:
                self.assertEqual([each.title for each in noticed(vehicle, "idle") if "R1" in each.title], [])

    def test_a_bad_connection_and_a_holder_that_does_not_make_contact(self) -> None:
        self.caught(feed(F1=piece("F1", resistance_ohm=0.08)), "F1 has 80 mΩ", "4 mΩ at most")
        rusty = feed(
            W4=("load-", "x", FEED["W4"][2]), J4=("x", "minus", {"kind": "joint", "condition": "lug on paint or rust"})
        )
        self.caught(rusty, "J4 sits on paint or rust", "50 mΩ")

    def test_building_wire_on_a_moving_engine_and_soft_insulation_in_the_heat(self) -> None:
        self.caught(feed(W3=piece("W3", insulation="building wire", moves=True)), "W3: building wire on something")
        self.caught(feed(W3=piece("W3", insulation="PVC", zone="engine bay")), "W3: PVC is not good for", "80 °C")
        self.caught(feed(W3=piece("W3", insulation="silicone", moves=True)), "W3: silicone on something that moves")
        thin = piece("W3", size="14 AWG", insulation="shielded")
        self.caught(feed(W3=thin), "W3: shielded lead as a power feed")
        self.caught(feed(W3=piece("W3", joined="soldered", moves=True)), "W3 is only soldered and moves")

    def test_starter_current_in_a_control_cable(self) -> None:
        """12.65 V ÷ (10 + 40 mΩ, 10 mΩ strap missing): the throttle cable is the only way back."""
        vehicle = small_vehicle(
            {"B1": ("engine", "minus", {"kind": "body", "condition": "control cable", "resistance_ohm": 0.04})},
            {"G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY), "M1": (
                {"30": "plus", "31": "engine"},
                {"kind": "starter", "running_v": 9.6, "running_a": 150, "locked_v": 4.0, "locked_a": 400},
            )},
        )  # fmt: skip
        self.assertIn("control cable", noticed(vehicle, "cranking")[0].title)
        cured = edited(vehicle, noticed(vehicle, "cranking")[0].cure.edits, RULES, lambda: "strap")
        share = Network(cured).solve("cranking").segments
        self.assertGreater(share["strap"].current_a, 50 * (share["B1"].current_a or 0))

    def test_a_bypass_before_the_fault_is_proven(self) -> None:
        vehicle = feed()
        beside = Segment("W9", "W9", "a", "b", vehicle.segments["W2"].spec, origin="new")
        bypassed = replace(vehicle, segments={**vehicle.segments, "W9": beside})
        self.caught(bypassed, "W9 runs beside W2", "Prove the fault")

    def test_contact_too_weak_for_its_kind_of_load(self) -> None:
        """18 A of motor on a contact that switches 70 % of its rating for motors asks for 25.7 A (from memory)."""
        weak = feed(W2=("a", "b", {"kind": "relay contact", "rated_a": 20.0}))
        self.caught(weak, "The contact W2 20 A is too weak for 18 A", "25.7 A")

    def test_a_coil_diode_the_wrong_way_round(self) -> None:
        devices: Devices = {
            "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
            "K1": ({"86": "minus", "85": "coil"}, {"kind": "relay coil", "suppression": "diode"}),
        }
        vehicle = small_vehicle({"S1": ("plus", "coil", key("on")), "J1": ("minus", "m", joint(0.001))}, devices)
        trigger = circuit("Trigger", ("S1",), ("J1",), "plus", "minus", family="control", amps=0.15, device_id="K1")
        trigger = replace(trigger, return_point="minus", return_path=("J1",))
        self.caught(with_circuits(vehicle, trigger), "The coil diode of K1 is the wrong way round")

    def test_a_coil_that_gets_too_little_in_some_state(self) -> None:
        """12.65 V · 90 ÷ (90 + 75) Ω = 6.9 V, and it pulls in at 7.2 V."""
        devices: Devices = {
            "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
            "K1": ({"86": "coil", "85": "minus"}, {"kind": "relay coil"}),
        }
        ballast = {"kind": "resistor", "resistance_ohm": 75}
        parts: Parts = {"S1": ("plus", "s", key("start")), "R1": ("s", "coil", ballast)}
        found = [each for each in noticed(small_vehicle(parts, devices)) if "K1" in each.title]
        self.assertEqual([each.title for each in found], ["K1 does not pull in, cranking."])
        self.assertIn("6.9 V", found[0].reason)

    def test_a_changeover_whose_outputs_meet(self) -> None:
        both: Parts = {
            "K1": ("a", "b", {"kind": "relay contact", "coil": "K1c"}),
            "K2": ("a", "b", {"kind": "relay contact", "coil": "K1c", "form": "NC"}),
        }
        vehicle = feed(supply=("F1", "W1", "K1", "W3"), W2=None, **both)
        coil = small_vehicle({}, {"K1c": ({"86": "plus", "85": "minus"}, {"kind": "relay coil"})}).devices
        self.caught(replace(vehicle, devices=vehicle.devices | dict(coil)), "87 and 87a of K1 are joined")

    def test_two_relay_outputs_joined_on_one_bus(self) -> None:
        both: Parts = {
            "K1": ("a", "b", {"kind": "relay contact", "coil": "K1c"}),
            "K2": ("f", "b", {"kind": "relay contact", "coil": "K2c"}),
        }
        vehicle = feed(supply=("F1", "W1", "K1", "W3"), W2=None, **both)
        coils = {f"K{each}c": ({"86": "plus", "85": "minus"}, {"kind": "relay coil"}) for each in (1, 2)}
        second = circuit("Reserve", ("F1", "K2", "W3"), ("W4",))
        vehicle = replace(vehicle, devices=vehicle.devices | dict(small_vehicle({}, coils).devices))
        vehicle = replace(vehicle, circuits={**vehicle.circuits, "Reserve": second})
        self.caught(vehicle, "K1 and K2 have their outputs joined", "leaves M1 on", state="on")

    def test_two_devices_that_must_fail_alone_on_one_fuse(self) -> None:
        vehicle = feed()
        second = PUMP | {"independent_of": "M1"}
        vehicle = replace(vehicle, devices=vehicle.devices | _second(vehicle, second))
        both = (
            circuit("Pump", ("F1", "W1", "W2", "W3"), ("W4",), device_id="M1"),
            circuit("Reserve", ("F1", "W1", "W2", "W3"), ("W4",), device_id="M2"),
        )
        titles = [each.title for each in noticed(with_circuits(vehicle, *both))]
        self.assertIn("F1 takes M2 and Pump down together.", titles)


def _second(vehicle: Vehicle, values: dict[str, Any]) -> dict[str, Device]:
    like = vehicle.devices["M1"]
    made = small_vehicle({}, {"M2": (dict(like.terminals), values)}).devices
    return dict(made)
