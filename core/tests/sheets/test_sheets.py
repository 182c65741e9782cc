"""The sheets a stranger builds the harness from: nothing missing, totals that add up, CSV that opens harmlessly."""

import csv
import io
from collections import Counter
from dataclasses import replace
from types import SimpleNamespace
from unittest import TestCase

from core.tests.support.demo import demo
from percorso.circuits.design_case import planned
from percorso.components.conductors import find_size
from percorso.house_rules import HouseRules
from percorso.network.operating_point import Network
from percorso.sheets.job_sheets import sheets
from percorso.sheets.terminations import heat_shrink, termination
from percorso.sheets.wires import WireRow, cut_length_m, other_system
from percorso.spreadsheet import csv_text
from percorso.vehicle.model import Point, Vehicle
from percorso.vehicle.resistance import segment_resistance_ohm
from percorso.vehicle.segments import Wire
from percorso.vehicle.stages import vehicle_at

RULES = HouseRules()
VAN = demo("market-van")


def made(vehicle: Vehicle = VAN) -> SimpleNamespace:
    worst = planned(Network(vehicle_at(vehicle, "planned")), RULES).worst
    return SimpleNamespace(**sheets(vehicle, worst, {}, RULES))


class SheetsOfTheVan(TestCase):
    def setUp(self) -> None:
        self.sheets = made()

    def test_every_wire_stands_in_the_schedule_and_only_new_ones_are_cut_labelled_and_bought(self) -> None:
        wires = [each for each in VAN.segments.values() if isinstance(each.spec, Wire)]
        self.assertEqual({row.wire for row in self.sheets.wires}, {each.designation for each in wires})
        new = {each.designation for each in wires if each.origin == "new" and each.fate == "kept"}
        self.assertEqual(sum(row.count for row in self.sheets.cuts), len(new))
        self.assertEqual(Counter(row.wire for row in self.sheets.labels), Counter(dict.fromkeys(new, 2)))

    def test_totals_add_up(self) -> None:
        rows = [row for row in self.sheets.wires if row.status == "new"]
        cut = sum(row.cut_m for row in rows)
        self.assertAlmostEqual(sum(row.total_m for row in self.sheets.cuts), cut)
        bought = sum(row.quantity for row in self.sheets.shopping if row.item.startswith("wire "))
        self.assertAlmostEqual(bought, cut)
        pieces = [
            row for row in self.sheets.shopping if row.unit in ("piece", "pieces") and row.detail.startswith("for ")
        ]
        self.assertEqual(sum(row.quantity for row in pieces), 2 * len(rows))
        self.assertTrue(all((row.unit == "piece") == (row.quantity == 1) for row in pieces))
        self.assertTrue(
            all(row.item.strip() and (row.detail.strip() or row.unit != "m") for row in self.sheets.shopping)
        )

    def test_the_schedule_says_what_a_gauge_holds(self) -> None:
        """10 AWG of thin-wall cable is SAE J1128's 4.65 mm², metric wire that of ISO 6722-1 (from memory)."""
        rows = {row.wire: row for row in self.sheets.wires}
        self.assertEqual((rows["W9"].other_system, rows["W9"].made_to), ("4.65 mm²", "SAE J1128"))
        self.assertEqual(rows["W1"].made_to, "ISO 6722-1")

    def test_what_goes_on_an_end_follows_what_it_meets(self) -> None:
        """Common practice: rings on studs and starters, blades in relays and fuse holders; M10 for 50 mm²."""
        ends = {row.wire: (row.from_end, row.to_end) for row in self.sheets.wires}
        self.assertEqual(ends["W4"], ("ring M10", "ring M10"))
        self.assertEqual(ends["W9"], ("blade 6.3 mm", "blade 6.3 mm"))  # 10 AWG is too thick for a small connector's
        self.assertEqual(ends["W16"][0], "connector terminal")
        w9 = VAN.segments["w9"]
        assert isinstance(w9.spec, Wire)
        said = replace(w9, spec=w9.spec.model_copy(update={"from_end": "ring"}))
        assert isinstance(said.spec, Wire)
        self.assertEqual(termination(VAN, said, said.spec, said.from_point).text, "ring M6")
        self.assertIn("adhesive-lined", heat_shrink(w9.spec))

    def test_fuse_and_relay_chart(self) -> None:
        fuse = next(row for row in self.sheets.fuses if row.fuse == "F7")
        self.assertEqual((fuse.rating, fuse.circuits, fuse.status), ("30 A", "Cold box feed", "new"))
        self.assertEqual(fuse.protects, "W8, W9, W10")
        trigger = next(row for row in self.sheets.fuses if row.fuse == "F3")
        self.assertEqual(trigger.load_state, "cranking")
        self.assertAlmostEqual(trigger.load_a, 9, delta=0.1)  # the solenoid's 9 A, and nothing else
        relay = next(row for row in self.sheets.relays if row.relay == "K3")
        self.assertIn("30-87 40 A", relay.contacts)
        self.assertEqual((relay.switches, relay.triggered_by), ("Cold box feed", "Cold box trigger"))

    def test_csv_reads_back_and_runs_no_formula(self) -> None:
        """RFC 4180; a name that begins like a formula stays text in a spreadsheet."""
        point = next(iter(VAN.points))
        named = replace(VAN, points={**VAN.points, point: Point(point, '=HYPERLINK("x"), "post"')})
        text = csv_text(made(named).wires, WireRow)
        self.assertTrue(text.startswith("wire,from_point,"))
        self.assertIn("\r\n", text)
        rows = list(csv.DictReader(io.StringIO(text)))
        self.assertEqual(len(rows), len(self.sheets.wires))
        self.assertTrue(any(row["from_point"].startswith("'=HYPERLINK") for row in rows))


class Cutting(TestCase):
    def test_slack_and_sizes_in_both_systems(self) -> None:
        """4.1 m · 1.05 + 0.1 m = 4.405 m, to the next 5 cm 4.45. 2.5 mm² lies nearest 14 AWG (2.08), 6 nearest 10."""
        self.assertEqual(cut_length_m(4.1, RULES), 4.45)
        for size, other in (("10 AWG", "5.26 mm²"), ("2.5 mm2", "≈ 14 AWG"), ("6 mm2", "≈ 10 AWG")):
            self.assertEqual(other_system(find_size(size)), other)

    def test_a_terminal_that_is_said_adds_its_typical_resistance(self) -> None:
        """0.1 mΩ for each crimp, 0.15 for each soldered one (typical, from memory)."""
        bare = Wire.model_validate({"size": "10 AWG", "length_m": 1.0})
        crimped = bare.model_copy(update={"from_end": "ring", "to_end": "ring"})
        soldered = bare.model_copy(update={"from_end": "ring", "joined": "soldered"})
        added = [segment_resistance_ohm(each) - segment_resistance_ohm(bare) for each in (crimped, soldered)]
        self.assertAlmostEqual(added[0], 0.0002)
        self.assertAlmostEqual(added[1], 0.00015)
