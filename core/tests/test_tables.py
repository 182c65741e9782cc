"""The shipped tables hold what the named sources publish, every row of it, each with its source."""

from pathlib import Path
from unittest import TestCase

from core.tests.support.published import ABYC_E_11, IEC_60228, ISO_6722_1, ISO_10133, ISO_10133_AREAS, SAE_J1128
from percorso import tables
from percorso.components.conductors import find_size, in_gauge, resistance_20c_ohm_per_m, stocked_sizes
from percorso.components.insulation import INSULATIONS, conductor, family
from percorso.components.published_ampacity import table_ampacity_a
from percorso.sizing.wire_ends import terminals


class PublishedTables(TestCase):
    def test_metric_resistance(self) -> None:
        for standard, published in (("iso-6722-1", ISO_6722_1), ("iec-60228", IEC_60228)):
            self.assertEqual([size.area_mm2 for size in stocked_sizes("metric", standard)], list(published))
            for area, milliohm in published.items():
                computed = resistance_20c_ohm_per_m(find_size(f"{area:g} mm2"), standard)
                self.assertAlmostEqual(computed * 1000, milliohm, places=9)

    def test_ampacity(self) -> None:
        for gauge, amps in ABYC_E_11.items():
            self.assertEqual(table_ampacity_a(find_size(f"{gauge} AWG")), amps)
        for limit, column in ISO_10133.items():
            for area, amps in zip(ISO_10133_AREAS, column, strict=True):
                self.assertEqual(table_ampacity_a(find_size(f"{area:g} mm2"), limit_c=limit), amps, (limit, area))

    def test_each_insulation_reads_the_column_of_its_own_class(self) -> None:
        """ISO 10133 Annex A, from memory: 80 °C reads 70, 90 °C reads 85-90, 180 °C nothing above 125."""
        for insulation, column in (("PVC", 70), ("welding cable", 85), ("shielded", 105), ("silicone", 125)):
            limit = family(insulation).limit_c
            self.assertEqual(table_ampacity_a(find_size("2.5 mm2"), limit_c=limit), ISO_10133[column][3])

    def test_road_vehicle_cable_holds_less_copper(self) -> None:
        """SAE J1128 minimum areas, from memory; thicker gauges and other cable stay as ASTM B258 has them."""
        for gauge, area in SAE_J1128.items():
            size = in_gauge(find_size(f"{gauge} AWG"), "sae")
            self.assertAlmostEqual(size.area_mm2, area)
            self.assertAlmostEqual(resistance_20c_ohm_per_m(size) * area, 0.017241)
        self.assertEqual(in_gauge(find_size("4 AWG"), "sae"), find_size("4 AWG"))
        made = {each: conductor(find_size("10 AWG"), each).area_mm2 for each in INSULATIONS}
        sae = {"thin-wall cross-linked", "general cross-linked", "thick-wall cross-linked", "PVC"}
        self.assertEqual({each for each, area in made.items() if abs(area - 4.65) < 1e-9}, sae)

    def test_what_a_terminal_takes(self) -> None:
        """From memory: blades of 6.3 mm and small relay bases to 6 mm² or 10 AWG, small connectors to 2.5 mm²."""
        takes = {
            name: [text for text in ("1 mm2", "2.5 mm2", "10 AWG", "6 mm2", "8 AWG") if each.takes(find_size(text))]
            for name, each in terminals().items()
        }
        self.assertEqual(takes["blade 6.3 mm"], ["1 mm2", "2.5 mm2", "10 AWG", "6 mm2"])
        self.assertEqual(takes["connector terminal"], ["1 mm2", "2.5 mm2"])
        self.assertEqual(takes["butt splice, red"], ["1 mm2"])
        self.assertEqual(takes["butt splice, blue"], ["2.5 mm2"])
        self.assertEqual(takes["butt splice, yellow"], ["2.5 mm2", "10 AWG", "6 mm2"])
        self.assertTrue(all(row["source"] for row in tables.rows("terminals")))

    def test_fuses(self) -> None:
        """ISO 8820-3 blade ratings, from memory."""
        blades = [float(row["rating_a"]) for row in tables.rows("fuses") if row["family"] == "blade"]
        self.assertEqual(blades, [1, 2, 3, 4, 5, 7.5, 10, 15, 20, 25, 30, 35, 40])

    def test_connections_lie_in_the_typical_ranges(self) -> None:
        """Typical, from memory, mΩ: the ranges a practitioner expects of each connection."""
        expected = {
            "ring on clean stud": (0.1, 0.5),
            "crimped": (0.2, 1),
            "crimped and soldered": (0.1, 0.5),
            "twisted and taped": (1, 100),
            "new blade": (1, 3),
            "tired blade": (5, 20),
            "bulkhead pair": (2, 5),
            "relay": (2, 10),
            "seam path": (0.5, 2),
            "lug on paint or rust": (10, 500),
            "control cable": (10, 200),
            "bearing": (5, 500),
            **dict.fromkeys(("pressure", "level", "temperature"), (5, 50)),
        }
        for row in tables.rows("connections"):
            low, high = expected.get(row["condition"], (2, 10))
            self.assertEqual((float(row["low_mohm"]), float(row["high_mohm"])), (low, high))
            self.assertTrue(low <= float(row["typical_mohm"]) <= high)

    def test_every_row_names_its_source(self) -> None:
        for path in (Path(tables.__file__).parent).glob("*.csv"):
            for row in tables.rows(path.stem):
                self.assertRegex(row["source"], "ISO|IEC|ABYC|BCI|common practice|from memory")

    def test_the_page_that_counts_how_sure_they_are_is_the_one_that_is_shipped(self) -> None:
        page = Path(__file__).parents[2] / "docs" / "tables.md"
        self.assertTrue(page.read_text(encoding="utf-8") == tables.as_page(), "make api writes docs/tables.md anew")
