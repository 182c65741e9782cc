"""As found against as planned, ways beside a route, and what a circuit shows in a solved state."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

from core.tests.support.small import IDEAL_BATTERY, Piece, joint, key, small_vehicle
from percorso.changes.parts import remove_device, remove_input, with_device, with_input
from percorso.changes.routes import remove_point, remove_segment
from percorso.circuits.comparison import difference
from percorso.circuits.parallel_paths import forks
from percorso.circuits.voltage_profile import NotLive, Profile, profile, solved_profile
from percorso.errors import PathError
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.targets import Target
from percorso.vehicle.model import Circuit, Vehicle, in_order
from percorso.vehicle.segments import changed_spec
from percorso.vehicle.stages import is_changed, vehicle_at
from percorso.vehicle.states import Input
from percorso.verification.judging.readings import DropReading, mark

RULES = HouseRules()
LOAD = {"kind": "constant current", "rated_v": 12, "rated_a": 10}


def fed(extra: dict[str, Piece] | None = None, *inputs: Input, **devices: Any) -> Vehicle:
    """10 A through two joints of 10 mΩ out and one of 20 mΩ back, from a battery of 12.65 V and 10 mΩ."""
    parts: dict[str, Piece] = {
        "J1": ("plus", "mid", joint(0.01)),
        "J2": ("mid", "in", joint(0.01)),
        "J3": ("out", "minus", joint(0.02)),
    }
    base: dict[str, Any] = {
        "G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY),
        "A1": ({"+": "in", "-": "out"}, LOAD),
    }
    vehicle = small_vehicle(parts | (extra or {}), base | devices, *inputs)
    circuit = Circuit(
        "c",
        "C",
        "feed",
        "A1",
        10,
        12.6,
        Target("max_drop_v", 0.5),
        "plus",
        ("J1", "J2"),
        "out",
        ("J3",),
        device_id="A1",
    )
    return replace(vehicle, circuits={"c": circuit})


def shown(vehicle: Vehicle, **inputs: str) -> Profile | NotLive:
    circuit = next(iter(vehicle.circuits.values()))
    return solved_profile(vehicle, circuit, Network(vehicle).solve("on", inputs), RULES)


def live(vehicle: Vehicle, **inputs: str) -> Profile:
    result = shown(vehicle, **inputs)
    assert isinstance(result, Profile), result
    return result


class SolvedProfiles(TestCase):
    def test_alone_it_is_the_series_sum_from_the_voltage_under_load(self) -> None:
        """10 A × 40 mΩ = 0.4 V of 12.65 V − 10 A × 10 mΩ."""
        solved = live(fed())
        self.assertAlmostEqual(solved.total_drop_v, 0.4, places=3)
        self.assertAlmostEqual(solved.source_v, 12.55, places=3)
        self.assertAlmostEqual(solved.device_v, 12.15, places=3)
        self.assertEqual(solved.verdict.word, "pass")

    def test_a_shared_return_shows_everybody_s_drop(self) -> None:
        """Another 20 A through the same 20 mΩ raise its share from 0.2 V to 0.6 V; the design is 0.2 V still."""
        vehicle = fed(A2=({"+": "plus", "-": "out"}, LOAD | {"rated_a": 20}))
        self.assertAlmostEqual(live(vehicle).return_drop_v, 0.6, places=2)
        self.assertEqual(live(vehicle).verdict.word, "fail")
        self.assertAlmostEqual(profile(vehicle, vehicle.circuits["c"], RULES).return_drop_v, 0.2)

    def test_what_is_open_floats_or_hardly_flows_is_said(self) -> None:
        opened = fed({"J2": ("mid", "in", key("start"))})
        self.assertIn("J2 is open in this state", str(shown(opened)))
        tiny = live(fed(A1=({"+": "in", "-": "out"}, LOAD | {"rated_a": 1})))
        self.assertEqual(tiny.verdict.word, "unknown")
        self.assertIn("proves nothing about 10 A", tiny.verdict.reason)
        flat = ({"+": "plus", "-": "minus"}, IDEAL_BATTERY | {"state_of_charge_percent": 20})
        backwards = fed(G1=flat, G2=({"+": "in", "-": "out"}, IDEAL_BATTERY | {"resistance_ohm": 0.001}))
        self.assertIn("the other way", live(backwards).verdict.reason)

    def test_a_reading_stands_where_the_shown_current_puts_it(self) -> None:
        """50 mV at 4 A are 12.5 mΩ: 125 mV at the 10 A that flow."""
        solved = live(fed())
        placed = mark(solved, DropReading("mid", "in", 0.05, 4))
        assert placed
        self.assertAlmostEqual(placed.drop_v, 0.125, places=3)
        self.assertAlmostEqual(placed.lost_v, 0.1 + 0.125, places=3)
        self.assertIsNone(mark(solved, DropReading("nowhere", "in", 0.05, 4)))


class WaysBeside(TestCase):
    def test_a_bypass_shares_by_conductance_at_design_current_and_solved(self) -> None:
        """10 + 10 mΩ on the route, 5 mΩ beside it: 80 % go beside."""
        vehicle = fed({"W9": ("in", "plus", joint(0.005))})
        for solved in (live(vehicle), profile(vehicle, vehicle.circuits["c"], RULES)):
            [way] = solved.forks
            self.assertEqual((way.side, way.start_point, way.end_point), ("supply", "plus", "in"))
            self.assertAlmostEqual(way.share, 0.8, places=6)
            self.assertAlmostEqual(way.pieces[0].current_a, 8, places=2)
            self.assertAlmostEqual(way.pieces[0].drop_v, 0.04, places=4)
            self.assertAlmostEqual(solved.supply_drop_v, 0.04, places=4)

    def test_stubs_switched_off_ways_and_bridges_to_the_other_side_are_none(self) -> None:
        vehicle = fed(
            {
                "W1": ("mid", "stub", joint(0.01)),
                "W2": ("stub", "end", joint(0.01)),
                "S1": ("plus", "in", key("start")),
                "W3": ("in", "out", joint(5)),
            }
        )
        circuit = vehicle.circuits["c"]
        self.assertEqual(forks(vehicle, circuit, vehicle.unswitched), ())
        [way] = forks(vehicle, circuit, vehicle.segments)
        self.assertEqual(way.segment_ids, ("S1",))

    def test_a_way_of_several_pieces_is_one_fork(self) -> None:
        vehicle = fed(
            {"W1": ("plus", "x", joint(0.01)), "P1": ("x", "y", joint(0.02)), "W2": ("y", "mid", joint(0.01))}
        )
        [way] = live(vehicle).forks
        self.assertEqual(way.segment_ids, ("P1", "W1", "W2"))
        self.assertAlmostEqual(way.share, 0.2, places=6)  # 40 mΩ beside 10 mΩ


class FoundAndPlanned(TestCase):
    def mended(self) -> Vehicle:
        """J3 is renewed: 20 mΩ come out, 5 mΩ go in at the same place."""
        vehicle = fed({"J9": ("out", "minus", joint(0.005))})
        old, new = replace(vehicle.segments["J3"], fate="removed"), replace(vehicle.segments["J9"], origin="new")
        circuit = replace(vehicle.circuits["c"], return_path=("J9",))
        return replace(vehicle, segments={**vehicle.segments, "J3": old, "J9": new}, circuits={"c": circuit})

    def test_each_stage_has_its_pieces_and_the_route_takes_what_is_there(self) -> None:
        found, planned = (vehicle_at(self.mended(), stage) for stage in ("found", "planned"))
        self.assertEqual(found.circuits["c"].return_path, ("J3",))
        self.assertEqual(planned.circuits["c"].return_path, ("J9",))
        self.assertTrue(is_changed(self.mended()))
        self.assertFalse(is_changed(fed()))

    def test_the_difference_in_volts(self) -> None:
        """15 mΩ less at 10 A: 0.15 V."""
        found, planned = (vehicle_at(self.mended(), stage) for stage in ("found", "planned"))
        runs = [solved_profile(each, each.circuits["c"], Network(each).solve("on"), RULES) for each in (found, planned)]
        change = difference("c", *runs)
        assert change.found_drop_v and change.planned_drop_v and change.found_device_v and change.planned_device_v
        self.assertAlmostEqual(change.found_drop_v - change.planned_drop_v, 0.15, places=3)
        self.assertAlmostEqual(change.planned_device_v - change.found_device_v, 0.15, places=3)

    def test_a_route_that_is_not_there_yet_has_no_figure(self) -> None:
        vehicle = self.mended()
        fresh = {each.id: replace(each, origin="new") for each in vehicle.segments.values() if each.id in ("J1", "J2")}
        found = vehicle_at(replace(vehicle, segments={**vehicle.segments, **fresh}), "found")
        self.assertEqual(found.circuits, {})

    def test_an_old_battery_stands_in_the_place_of_the_new_one(self) -> None:
        vehicle = fed(G2=({"+": "plus", "-": "minus"}, IDEAL_BATTERY | {"state_of_charge_percent": 50}))
        devices = {
            **vehicle.devices,
            "G1": replace(vehicle.devices["G1"], origin="new"),
            "G2": replace(vehicle.devices["G2"], fate="removed"),
        }
        circuit = replace(vehicle.circuits["c"], device_id="G1")
        vehicle = replace(vehicle, devices=devices, circuits={"c": circuit})
        self.assertEqual(vehicle_at(vehicle, "found").circuits["c"].device_id, "G2")
        self.assertEqual(vehicle_at(vehicle, "planned").circuits["c"].device_id, "G1")


class Editing(TestCase):
    def test_what_others_depend_on_stays(self) -> None:
        lamp = {"kind": "switch", "input": "lamp", "closed_in": ["on"]}
        vehicle = fed(
            {"K1": ("plus", "x", {"kind": "relay contact", "coil": "K1c"}), "S1": ("x", "y", lamp)},
            Input("lamp", "Lamp"),
            K1c=({"86": "plus", "85": "minus"}, {"kind": "relay coil"}),
        )
        for change, hint in (
            (lambda: remove_device(vehicle, "K1c"), "K1 is moved by this coil"),
            (lambda: remove_input(vehicle, "lamp"), "S1 is driven by it"),
            (lambda: remove_point(vehicle, "plus"), "G1"),
            (lambda: with_input(vehicle, Input("lamp", "Lamp", ("dim", "bright"))), 'cannot be closed in "on"'),
            (lambda: with_input(vehicle, Input("key", "Key")), "the ignition key itself"),
            (lambda: with_device(vehicle, replace(vehicle.devices["A1"], terminals={"+": "in"})), "its terminal -"),
        ):
            with self.subTest(hint), self.assertRaisesRegex(PathError, hint):
                change()
        freed = remove_device(vehicle, "A1")
        self.assertEqual((freed.circuits["c"].device_id, freed.circuits["c"].device), (None, "A1"))
        self.assertNotIn("S1", remove_segment(vehicle, "S1").segments)

    def test_lists_are_in_the_order_people_count(self) -> None:
        vehicle = fed({f"W{number}": ("plus", f"p{number}", joint(0.01)) for number in (2, 10, 1)})
        self.assertEqual(
            [each.id for each in in_order(vehicle.segments.values())], ["J1", "J2", "J3", "W1", "W2", "W10"]
        )

    def test_a_contact_that_becomes_a_wire_forgets_its_coil(self) -> None:
        vehicle = fed({"K1": ("plus", "x", {"kind": "relay contact", "coil": "K1c", "resistance_ohm": "3 mohm"})})
        wire = changed_spec(vehicle.segments["K1"].spec, {"kind": "wire", "size": "4 mm2", "length_m": "1 m"})
        self.assertEqual(wire.model_dump(exclude_defaults=True)["typed"], {"length_m": "1 m"})
