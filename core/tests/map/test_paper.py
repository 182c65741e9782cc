"""The map on sheets of paper, and with circuits folded away."""

from unittest import TestCase

from core.tests.support.demo import demo
from percorso.map.folding import folded
from percorso.map.paper import CAPTION_MM, MARGIN_MM, SIDES_MM, Paper, sheets_of
from percorso.vehicle.stages import vehicle_at

POINT_MM = 25.4 / 72
LABEL_PX = 9.5


class OnPaper(TestCase):
    def test_every_px_is_on_one_sheet_and_can_be_read(self) -> None:
        """Six points is what a note under a drawing has at least (common practice)."""
        papers: tuple[Paper, ...] = ("A4", "A3")
        for paper in papers:
            for size in ((300, 200), (1118, 903), (2300, 780), (640, 5200)):
                with self.subTest(paper, size=size):
                    sheets = sheets_of(*size, paper)
                    self.assertGreaterEqual(LABEL_PX * sheets.scale, 6 * POINT_MM)
                    self.assertAlmostEqual(sum(each.width * each.height for each in sheets.tiles), size[0] * size[1])
                    across, down = SIDES_MM[paper] if sheets.landscape else SIDES_MM[paper][::-1]
                    for each in sheets.tiles:
                        self.assertLessEqual(each.width * sheets.scale, across - 2 * MARGIN_MM + 1e-6)
                        self.assertLessEqual(each.height * sheets.scale, down - 2 * MARGIN_MM - CAPTION_MM + 1e-6)

    def test_what_fits_is_one_sheet_and_what_is_high_stands_upright(self) -> None:
        """A4 without margins and caption is 277 by 184 mm: 1232 by 818 px of 0.85 times 25.4 / 96 mm."""
        self.assertEqual([len(sheets_of(1230, height, "A4").tiles) for height in (810, 825)], [1, 2])
        high = sheets_of(820, 1150, "A4")
        self.assertEqual((len(high.tiles), high.landscape), (1, False))


class Folding(TestCase):
    def test_what_only_a_folded_circuit_passes_is_gone_and_what_others_share_stays(self) -> None:
        vehicle = vehicle_at(demo("market-van"), "planned")
        cold = next(each for each in vehicle.circuits.values() if each.name == "Cold box feed")
        shown = folded(vehicle, [cold.id])
        gone = {vehicle.segments[each].designation for each in vehicle.segments.keys() - shown.segments.keys()}
        others = {each for circuit in shown.circuits.values() for each in circuit.whole_path}
        self.assertEqual(gone, {vehicle.segments[each].designation for each in cold.whole_path if each not in others})
        self.assertIn("W9", gone)
        self.assertNotIn(cold.device_id, shown.devices)

    def test_one_circuit_alone_is_its_metal_with_the_battery(self) -> None:
        vehicle = vehicle_at(demo("market-van"), "planned")
        one = next(each for each in vehicle.circuits.values() if each.name == "Cold box feed")
        shown = folded(vehicle, vehicle.circuits.keys() - {one.id}, alone=True)
        self.assertEqual(set(shown.segments), set(one.whole_path))
        others = {each.spec.kind for each in shown.devices.values() if each.id != one.device_id}
        self.assertEqual(others, {"battery"})
