"""Editing a route keeps every circuit one unbroken path: checked by walking it and by Ohm's law in series."""

from dataclasses import replace
from unittest import TestCase

from core.tests.support.pump_feed import pump_feed
from percorso.changes.edits import SplitWire
from percorso.changes.extensions import extensions
from percorso.changes.routes import (
    Insertion,
    insert_segment,
    lead_over,
    move_segment,
    remove_segment,
    with_circuit,
    with_segments,
)
from percorso.circuits.voltage_profile import profile
from percorso.errors import PathError
from percorso.house_rules import HouseRules
from percorso.planning.apply import edited
from percorso.vehicle.model import Point, Segment, Vehicle, stations
from percorso.vehicle.segments import SEGMENT_SPEC, Wire

CONTACT = Segment("K1", "K1", "", "", SEGMENT_SPEC.validate_python({"kind": "relay contact", "resistance_ohm": 0.005}))
JOINT = Point("new", "K1 in")


def total_drop_v(vehicle: Vehicle, circuit_id: str = "pump") -> float:
    return profile(vehicle, vehicle.circuits[circuit_id], HouseRules()).total_drop_v


def with_charger() -> Vehicle:
    """The pump feed, and a charger whose current passes W1 and F1 the other way, from W1's far end to the stud."""
    vehicle, pump = pump_feed()
    charger = replace(
        pump, id="charger", name="Charger", source_point="plus", supply=("W1", "F1"), return_point="minus"
    )
    return with_circuit(vehicle, charger)


class Rerouting(TestCase):
    def test_a_piece_in_series_adds_its_drop_to_every_circuit_that_passes(self) -> None:
        """5 mΩ at 20 A adds 0.100 V, also to the circuit that runs the other way."""
        before = with_charger()
        for beside in ("F1", "W1"):
            for after in (True, False):
                with self.subTest(beside=beside, after=after):
                    grown = insert_segment(before, Insertion("pump", beside, after), CONTACT, JOINT)
                    for circuit_id in ("pump", "charger"):
                        added = total_drop_v(grown, circuit_id) - total_drop_v(before, circuit_id)
                        self.assertAlmostEqual(added, 0.100)
                    order = grown.circuits["pump"].supply
                    self.assertEqual(order.index("K1") - order.index(beside), 1 if after else -1)
                    ends = stations(grown, grown.circuits["pump"], "supply")
                    self.assertEqual((ends[0], ends[-1]), ("stud", "plus"))

    def test_removing_what_was_inserted_gives_the_old_route_back(self) -> None:
        before = with_charger()
        grown = insert_segment(before, Insertion("pump", "F1", True), CONTACT, JOINT)
        again = remove_segment(grown, "K1")
        self.assertEqual({c.id: (c.supply, c.return_path) for c in again.circuits.values()},
                         {c.id: (c.supply, c.return_path) for c in before.circuits.values()})  # fmt: skip
        self.assertAlmostEqual(total_drop_v(again), total_drop_v(before))

    def test_terminals_survive_a_removal(self) -> None:
        vehicle, _ = pump_feed()
        without_fuse = remove_segment(vehicle, "F1")
        self.assertEqual(stations(without_fuse, without_fuse.circuits["pump"], "supply"), ("stud", "plus"))

    def test_a_side_never_loses_its_last_segment(self) -> None:
        vehicle, _ = pump_feed()
        with self.assertRaisesRegex(PathError, "all there is of the return side"):
            remove_segment(remove_segment(vehicle, "W2"), "G1")

    def test_a_segment_between_two_branches_is_not_removed(self) -> None:
        vehicle, _ = pump_feed()
        spec = vehicle.segments["W1"].spec
        points = {**vehicle.points, **{name: Point(name, name) for name in "abcd"}}
        branches = [Segment(end + name, end + name, end, name, spec) for end, name in
                    [("f", "a"), ("f", "b"), ("stud", "c"), ("stud", "d")]]  # fmt: skip
        with self.assertRaisesRegex(PathError, "move their ends first"):
            remove_segment(with_segments(replace(vehicle, points=points), branches), "F1")

    def test_moving_along_the_route_exchanges_neighbours(self) -> None:
        vehicle = with_charger()
        moved = move_segment(vehicle, "pump", "F1", 1)
        self.assertEqual(moved.circuits["pump"].supply, ("W1", "F1"))
        self.assertEqual(moved.circuits["charger"].supply, ("F1", "W1"))
        self.assertEqual(stations(moved, moved.circuits["pump"], "supply"), ("stud", "f", "plus"))
        self.assertAlmostEqual(total_drop_v(moved), total_drop_v(vehicle))
        self.assertEqual(move_segment(moved, "pump", "F1", -1), vehicle)
        with self.assertRaisesRegex(PathError, "already at the end"):
            move_segment(vehicle, "pump", "F1", -1)

    def test_an_end_can_not_leave_the_job_or_meet_itself(self) -> None:
        vehicle, _ = pump_feed()
        for changes, field in [({"to_point": "other job"}, "to_point"), ({"to_point": "f"}, "to_point")]:
            with self.assertRaises(PathError) as caught:
                with_segments(vehicle, [replace(vehicle.segments["W1"], **changes)])
            self.assertEqual(caught.exception.field, (field,))

    def test_a_wire_split_at_a_new_point_loses_what_it_lost(self) -> None:
        before = with_charger()
        edit = SplitWire(segment_id="W1", first_m="5 ft", point_name="Tap")
        split = edited(before, [edit], HouseRules(), iter(("new", "point")).__next__)
        lengths = [each.spec.length_m for each in split.segments.values() if isinstance(each.spec, Wire)]
        self.assertAlmostEqual(sorted(lengths)[0], 5 * 0.3048)
        for circuit_id in ("pump", "charger"):
            self.assertAlmostEqual(total_drop_v(split, circuit_id), total_drop_v(before, circuit_id))
            self.assertIn("new", split.circuits[circuit_id].supply)
        for wrong, field in ((SplitWire(segment_id="W1", first_m=4.572), "first_m"),
                             (SplitWire(segment_id="F1", first_m=1), "segment_id")):  # fmt: skip
            with self.assertRaises(PathError) as caught:
                edited(before, [wrong], HouseRules(), str)
            self.assertEqual(caught.exception.field, (field,))

    def test_led_over_a_parallel_path_the_old_one_goes_unless_another_circuit_needs_it(self) -> None:
        vehicle = with_charger()
        beside = [
            replace(vehicle.segments["W1"], id="W8", designation="W8", from_point="f", to_point="half"),
            replace(vehicle.segments["W1"], id="W9", designation="W9", from_point="plus", to_point="half"),
        ]
        points = {**vehicle.points, "half": Point("half", "Half way")}
        both = with_segments(replace(vehicle, points=points), beside)
        led = lead_over(both, "pump", ("W9", "W8"))
        self.assertEqual(led.circuits["pump"].supply, ("F1", "W8", "W9"))
        self.assertIn("W1", led.segments)  # the charger still passes it
        alone = lead_over(replace(both, circuits={"pump": both.circuits["pump"]}), "pump", ("W8", "W9"))
        self.assertNotIn("W1", alone.segments)
        with self.assertRaisesRegex(PathError, "do not lead"):
            lead_over(both, "pump", ("W8",))


class Extending(TestCase):
    def test_a_route_leads_on_at_either_end_and_never_back_to_itself(self) -> None:
        """A cable in front of the stud and a strap behind the minus post; a wire across the route is none."""
        vehicle, pump = pump_feed()
        points = {**vehicle.points, "battery": Point("battery", "Battery"), "body": Point("body", "Body")}
        wire = vehicle.segments["W1"]
        source, end = stations(vehicle, pump, "supply")[0], stations(vehicle, pump, "return")[-1]
        more = (
            replace(wire, id="C1", designation="C1", from_point="battery", to_point=source),
            replace(wire, id="S1", designation="S1", from_point=end, to_point="body"),
            replace(wire, id="X1", designation="X1", from_point=source, to_point=wire.to_point),
        )
        grown = replace(vehicle, points=points, segments={**vehicle.segments, **{each.id: each for each in more}})
        found = {each.segment_id: each for each in extensions(grown, pump)}
        self.assertEqual(
            {key: each.says for key, each in found.items()}, {"C1": "starts at Battery", "S1": "returns to Body"}
        )
        led = edited(grown, [each.edit for each in found.values()][:1], HouseRules(), lambda: "new")
        self.assertEqual(stations(led, led.circuits[pump.id], "supply")[0], "battery")
        self.assertGreater(total_drop_v(led), total_drop_v(vehicle))
