"""Edits as data: each does what it says on a whole vehicle, and refuses what would break one."""

from dataclasses import replace
from itertools import count
from typing import Any, get_args
from unittest import TestCase

from pydantic import TypeAdapter, ValidationError

from core.tests.support.feed import feed
from core.tests.support.small import IDEAL_BATTERY, joint, small_vehicle
from percorso.changes.edits import Edit
from percorso.changes.labels import label
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


JOINT = {"kind": "joint"}
LAMP = {"kind": "resistive", "rated_v": 12, "rated_a": 1}
ALTERNATOR = {"kind": "alternator", "setpoint_v": 14.2, "at_1800_a": 45, "at_6000_a": 110}
PUMP_VALUES = {"name": "Pump", "family": "feed", "device": "Pump", "design_current_a": 16, "source_v": 13}
PUMP_VALUES |= {"target_kind": "max_drop_v", "target_value": "0.8 V"}
FAN = PUMP_VALUES | {"name": "Fan feed", "device": "Fan", "source": "plus", "ground": "minus"}
FAN |= {"supply_length_m": 2, "return_length_m": 1, "device_kind": "motor"}
NIGHT = {"name": "Night", "state": "off", "outside_c": 5}
SPELL = {"name": "stand", "minutes": 60, "scenario": "s9"}
PATH = {"source_point": "plus", "supply": ["F1", "J1", "W3"], "return_point": "load-", "return_path": ["W4"]}
# Each kind of edit, one after the other on the pump feed, and what the undo list says of it.
EVERY: list[tuple[dict[str, Any], str]] = [
    ({"do": "add point", "id": "p9", "name": "GND6"}, "add point GND6"),
    ({"do": "rename point", "point_id": "p9", "name": "GND7"}, "rename point GND7"),
    ({"do": "add segment", "id": "J1", "from_point": "f", "to_point": "b", "spec": JOINT}, "add J1"),
    ({"do": "route circuit", "circuit_id": "Pump", **PATH}, "reroute Pump"),
    ({"do": "lead over", "circuit_id": "Pump", "segment_ids": ["W1", "W2"]}, "lead over Pump"),
    ({"do": "insert segment", "circuit_id": "Pump", "beside": "W1", "after": True, "id": "X1",
      "spec": {"kind": "connector"}}, "insert X1"),
    ({"do": "remove segment", "segment_id": "X1"}, "delete X1"),
    ({"do": "change segment", "segment_id": "W1", "fate": "stowed", "change": {"size": "8 AWG"}}, "change W1"),
    ({"do": "set fate", "segment_id": "W1", "fate": "kept"}, "change W1"),
    ({"do": "set access", "of": "segment", "id": "W1", "access": "inside the loom"}, "way to W1"),
    ({"do": "set access", "of": "point", "id": "p9", "access": "panel"}, "way to GND7"),
    ({"do": "move segment", "circuit_id": "Pump", "segment_id": "W1", "steps": -1}, "move W1"),
    ({"do": "split wire", "segment_id": "W1", "first_m": "1 m"}, "split W1"),
    ({"do": "add device", "id": "E1", "name": "Lamp", "terminals": {"+": "plus", "-": "dash"}, "spec": LAMP},
     "add Lamp"),
    ({"do": "change device", "device_id": "E1", "name": "Dash lamp", "change": {"rated_a": "2 A"}},
     "change Dash lamp"),
    ({"do": "move terminals", "device_id": "E1", "terminals": {"-": "minus"}}, "move Dash lamp"),
    ({"do": "move end", "segment_id": "W4", "from_point": "minus", "to_point": "p9"}, "move W4"),
    ({"do": "remove device", "device_id": "E1"}, "delete Dash lamp"),
    ({"do": "add device", "id": "G2", "name": "Alternator", "spec": ALTERNATOR}, "add Alternator"),
    ({"do": "set access", "of": "device", "id": "G2", "access": "under the vehicle"}, "way to Alternator"),
    ({"do": "scale alternator", "device_id": "G2", "at_6000_a": 150}, "change Alternator"),
    ({"do": "add input", "id": "fan", "name": "Fan switch"}, "add input Fan switch"),
    ({"do": "change input", "input_id": "fan", "name": "Fan", "positions": ["off", "low", "high"]},
     "change input Fan"),
    ({"do": "remove input", "input_id": "fan"}, "delete input Fan"),
    ({"do": "lay circuit", "id": "Fan", **FAN}, "lay Fan feed"),
    ({"do": "set design current", "circuit_id": "Fan", "current_a": "30 A"}, "change Fan feed"),
    ({"do": "resize circuit", "circuit_id": "Fan"}, "size Fan feed"),
    ({"do": "remove circuit", "circuit_id": "Fan"}, "delete Fan feed"),
    ({"do": "change circuit", "circuit_id": "Pump", **PUMP_VALUES}, "change Pump"),
    ({"do": "add point", "id": "p8", "name": "GND8"}, "add point GND8"),
    ({"do": "remove point", "point_id": "p8"}, "delete point GND8"),
    ({"do": "start route", "starter": "ignition-feed"}, "lay Ignition coil feed"),
    ({"do": "set scenario", "scenario_id": "s9", **NIGHT}, "scenario Night"),
    ({"do": "set drive", "drive_id": "d9", "name": "Stand", "spells": [SPELL]}, "drive Stand"),
    ({"do": "remove drive", "drive_id": "d9"}, "delete drive Stand"),
    ({"do": "remove scenario", "scenario_id": "s9"}, "delete scenario Night"),
]  # fmt: skip


class Vocabulary(TestCase):
    def test_every_kind_of_edit_does_something_and_is_said_in_a_few_words(self) -> None:
        vehicle, numbers = feed(), count()
        for values, says in EVERY:
            edit = EDIT.validate_python(values)
            with self.subTest(values["do"]):
                changed = edited(vehicle, [edit], RULES, lambda: f"new{next(numbers)}")
                self.assertNotEqual(changed, vehicle)
                self.assertEqual(label([edit], vehicle, changed), says)
                vehicle = changed
        kinds = {kind.model_fields["do"].default for kind in get_args(get_args(Edit)[0])}
        self.assertEqual({values["do"] for values, _ in EVERY}, kinds)

    def test_several_are_counted(self) -> None:
        edits = [
            EDIT.validate_python({"do": "set fate", "segment_id": each, "fate": "stowed"}) for each in ("W1", "W2")
        ]
        self.assertEqual(label(edits, feed(), feed()), "change W1 and 1 more")


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

    def test_what_is_assumed_is_seen_once_somebody_says_so(self) -> None:
        """Confirmed as it is, or said otherwise; another fate of it says nothing of what it is."""
        vehicle = feed()
        assumed = replace(
            vehicle, segments={each.id: replace(each, known="assumed") for each in vehicle.segments.values()}
        )
        edit = {"do": "change segment", "segment_id": "W1"}
        for said, known in (
            ({"known": "seen"}, "seen"),
            ({"change": {"size": "8 AWG"}}, "seen"),
            ({"fate": "stowed"}, "assumed"),
            ({"change": {"length_m": 2}, "known": "measured"}, "measured"),
        ):
            self.assertEqual(after(assumed, edit | said).segments["W1"].known, known)
        confirmed = EDIT.validate_python(edit | {"known": "seen"})
        self.assertEqual(label([confirmed], assumed, assumed), "confirm W1")

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
