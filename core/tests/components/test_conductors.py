"""Resistance, mass and ampacity of conductors against published tables."""

from unittest import TestCase

from core.tests.support.published import HANDBOOK_OHM_PER_KM
from percorso.components.conductors import (
    METRIC_STANDARDS,
    copper_mass_kg,
    find_size,
    resistance_20c_ohm_per_m,
    resistance_ohm,
    stocked_sizes,
)
from percorso.components.published_ampacity import ENGINE_SPACE_C, table_ampacity_a
from percorso.errors import UnknownSizeError


class Resistance(TestCase):
    def test_awg_formula_meets_the_handbook(self) -> None:
        for name, published in HANDBOOK_OHM_PER_KM.items():
            with self.subTest(name):
                computed = 1000 * resistance_20c_ohm_per_m(find_size(name))
                self.assertLess(abs(computed / published - 1), 0.005)

    def test_common_practice_sixteen_and_ten_gauge(self) -> None:
        """Common practice: 20 A through 30 ft loses 2.4 V on 16 AWG and 0.6 V on 10 AWG."""
        self.assertAlmostEqual(20 * resistance_ohm(find_size("16 AWG"), 9.144), 2.4, places=1)
        self.assertAlmostEqual(20 * resistance_ohm(find_size("10 AWG"), 9.144), 0.6, places=2)

    def test_metric_standards_agree_with_copper_of_their_area(self) -> None:
        """IEC 60028 copper of the nominal area is the physical bound: standards lie 0-15 % around it."""
        for standard in METRIC_STANDARDS:
            for size in stocked_sizes("metric", standard):
                with self.subTest(standard=standard, size=size.name):
                    ideal = 1.7241e-8 / (size.area_mm2 * 1e-6)
                    self.assertTrue(0.99 < resistance_20c_ohm_per_m(size, standard) / ideal < 1.16)

    def test_metric_values_are_the_standards(self) -> None:
        """ISO 6722-1 and IEC 60228 class 5, maximum mΩ/m at 20 °C, from memory."""
        for name, iso, iec in [("1.5 mm2", 12.7, 13.3), ("10 mm2", 1.82, 1.91), ("70 mm2", 0.259, 0.272)]:
            size = find_size(name)
            self.assertEqual(resistance_20c_ohm_per_m(size, "iso-6722-1"), iso / 1000)
            self.assertEqual(resistance_20c_ohm_per_m(size, "iec-60228"), iec / 1000)

    def test_hot_copper_resists_more(self) -> None:
        """IEC 60028: +0.393 % per kelvin at 20 °C, so ×1.2555 at 85 °C (65 K hotter)."""
        size = find_size("10 mm2")
        self.assertAlmostEqual(resistance_ohm(size, 1, 85) / resistance_ohm(size, 1, 20), 1.25545, places=5)

    def test_circular_mil_method_within_five_percent(self) -> None:
        """ABYC E-11, from memory: CM = 10.75 · I · L / E with L in feet out and back."""
        for name in HANDBOOK_OHM_PER_KM:
            size = find_size(name)
            circular_mils = size.area_mm2 / 5.067075e-4  # 1 cmil = π/4 · (25.4 µm)²
            by_rule = 10.75 * 20 * 30 / circular_mils
            self.assertLess(abs(20 * resistance_ohm(size, 9.144) / by_rule - 1), 0.05)

    def test_sizes_not_made_are_refused(self) -> None:
        for text in ("25 AWG", "5/0", "11 mm2", "0 mm2"):
            with self.subTest(text), self.assertRaises(UnknownSizeError):
                find_size(text)

    def test_copper_mass(self) -> None:
        """Handbook mass of bare 10 AWG: 46.77 kg/km (NBS Handbook 100, from memory)."""
        self.assertAlmostEqual(copper_mass_kg(find_size("10 AWG"), 1000), 46.77, delta=0.5)


class Ampacity(TestCase):
    def test_published_tables(self) -> None:
        """ABYC E-11 and ISO 10133, 105 °C, from memory; engine space × 0.85."""
        for name, amps in [("18 AWG", 20), ("10 AWG", 60), ("4/0 AWG", 445), ("1.5 mm2", 25), ("120 mm2", 450)]:
            self.assertEqual(table_ampacity_a(find_size(name)), amps)
        self.assertAlmostEqual(table_ampacity_a(find_size("10 AWG"), air_c=ENGINE_SPACE_C), 51.0)

    def test_unlisted_sizes_stay_on_the_safe_side(self) -> None:
        """3 AWG is not listed: as 4 AWG. Common practice for 22 AWG in free air is 7-9 A."""
        self.assertEqual(table_ampacity_a(find_size("3 AWG")), 160)
        self.assertTrue(7 <= table_ampacity_a(find_size("22 AWG")) <= 9)

    def test_thicker_never_carries_less(self) -> None:
        for series in ("awg", "metric"):
            amps = [table_ampacity_a(size) for size in stocked_sizes(series)]
            self.assertEqual(amps, sorted(amps))
