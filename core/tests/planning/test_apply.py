"""Edits as data: each does what it says on a whole vehicle, and refuses what would break one."""

from itertools import count
from typing import Any
from unittest import TestCase

from pydantic import TypeAdapter, ValidationError

from core.tests.support.feed import feed
from core.tests.support.small import IDEAL_BATTERY, joint, small_vehicle
from percorso.changes.edits import Edit
from percorso.circuits.voltage_profile import profile
from percorso.errors import PercorsoError
from percorso.house_rules import HouseRules
from percorso.planning.apply import edited
from percorso.vehicle.model import Vehicle, stations

EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)
RULES = HouseRules()


def after(vehicle: Vehicle, *edits: dict[str, Any]) -> Vehicle:
    numbers = count()
    return edited(vehicle, [EDIT.validate_python(each) for each in edits], RULES, lambda: f"new{next(numbers)}")


class CarriedOut(TestCase):
    def test_values_of_pieces_and_devices_and_what_becomes_of_them(self) -> None:
        changed = after(
            feed(),
            {"do": "change segment", "segment_id": "W1", "change": {"size": "4ga"}},
            {"do": "change device", "device_id": "M1", "change": {"rated_a": "12 A"}},
            {"do": "set fate", "segment_id": "W2", "fate": "stowed"},
        )
        self.assertEqual(changed.segments["W1"].spec.size, "4 AWG")
        self.assertEqual(changed.devices["M1"].spec.rated_a, 12)
        self.assertEqual(changed.segments["W2"].fate, "stowed")

    def test_a_piece_inserted_is_new_named_and_in_series(self) -> None:
        fuse = {"kind": "fuse", "rating_a": 20}
        for beside, later, place in (("W1", True, 2), ("F1", False, 0)):
            grown = after(
                feed(), {"do": "insert segment", "circuit_id": "Pump", "beside": beside, "after": later, "spec": fuse}
            )
            with self.subTest(beside):
                made = grown.segments[grown.circuits["Pump"].supply[place]]
                self.assertEqual((made.designation, made.origin), ("F2", "new"))
                self.assertEqual(stations(grown, grown.circuits["Pump"], "supply")[0], "plus")

    def test_a_strap_added_between_two_points(self) -> None:
        strap = {"kind": "wire", "size": "25 mm2", "length_m": 0.5}
        edit = {"do": "add segment", "from_point": "load-", "to_point": "minus", "spec": strap}
        made = after(feed(), edit).segments["new0"]
        self.assertEqual((made.designation, made.from_point, made.to_point), ("W5", "load-", "minus"))

    def test_a_guard_moved_along_the_route(self) -> None:
        moved = after(feed(), {"do": "move segment", "circuit_id": "Pump", "segment_id": "F1", "steps": 2})
        self.assertEqual(moved.circuits["Pump"].supply, ("W1", "W2", "F1", "W3"))
        back = after(moved, {"do": "move segment", "circuit_id": "Pump", "segment_id": "F1", "steps": -2})
        self.assertEqual(back, feed())

    def test_ends_and_terminals_on_other_points(self) -> None:
        vehicle = small_vehicle(
            {"W1": ("plus", "sense", joint(0.01))},
            {"G1": ({"+": "plus", "-": "minus"}, IDEAL_BATTERY), "K1": ({"86": "sense", "85": "minus"},
                                                                        {"kind": "relay coil"})},
        )  # fmt: skip
        moved = after(vehicle, {"do": "move end", "segment_id": "W1", "from_point": "plus", "to_point": "minus"})
        self.assertEqual(moved.segments["W1"].from_point, "minus")
        swap = {"do": "move terminals", "device_id": "K1", "terminals": {"86": "minus", "85": "sense"}}
        self.assertEqual(after(vehicle, swap).devices["K1"].terminals, {"86": "minus", "85": "sense"})

    def test_a_circuit_sized_anew_keeps_its_target(self) -> None:
        """18 A through 5.3 m of 20 AWG, 33 mΩ/m: 3 V and more lost of 1.2 V allowed."""
        thin = after(feed(), *({"do": "change segment", "segment_id": each, "change": {"size": "20 AWG"}}
                               for each in ("W1", "W2", "W3", "W4")))  # fmt: skip
        sized = after(thin, {"do": "resize circuit", "circuit_id": "Pump"})
        verdicts = [profile(each, each.circuits["Pump"], RULES).verdict.word for each in (thin, sized)]
        self.assertEqual(verdicts[0], "fail")
        self.assertIn(verdicts[1], ("pass", "marginal"))

    def test_what_would_break_the_vehicle_is_refused_and_named(self) -> None:
        for edit, field in [
            ({"do": "change segment", "segment_id": "W99", "change": {}}, "segment_id"),
            ({"do": "change device", "device_id": "M99", "change": {}}, "device_id"),
            ({"do": "resize circuit", "circuit_id": "Sauna"}, "circuit_id"),
            ({"do": "move end", "segment_id": "W1", "from_point": "minus", "to_point": "plus"}, "from_point"),
            ({"do": "move end", "segment_id": "W1", "from_point": "a", "to_point": "f"}, "to_point"),
            ({"do": "add segment", "from_point": "plus", "to_point": "moon",
              "spec": {"kind": "joint"}}, "to_point"),
        ]:  # fmt: skip
            with self.subTest(edit), self.assertRaises(PercorsoError) as caught:
                after(feed(), edit)
            self.assertEqual(caught.exception.field[0], field)
        with self.assertRaises(ValidationError):
            after(feed(), {"do": "change segment", "segment_id": "F1", "change": {"rating_a": "22 A"}})
        with self.assertRaises(ValidationError):
            EDIT.validate_python({"do": "change segment", "segment_id": "W1", "change": {}, "extra": 1})
