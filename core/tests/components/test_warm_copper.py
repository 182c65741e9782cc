"""How warm copper gets by its own current, and what resistance it has then: against standards and handbook sums."""

import math
from pathlib import Path
from unittest import TestCase

from core.tests.support.published import ISO_10133, ISO_10133_AREAS
from percorso.components.conductors import find_size, resistance_20c_ohm_per_m, warm_as, warmed
from percorso.components.thermal import Cable, ampacity_a, cable, temperature_c, time_constant_s
from percorso.components.warm_copper import CRANKING_S, LASTS, STEPS, warm_copper_c, warming
from percorso.vehicle.segments import ZONE_TEMPERATURE_C, Wire


def loses_w_per_m(wire: Cable, copper_c: float, air_c: float) -> float:
    """What a wire gives off by McAdams's simplified formula, h = 1.32 (ΔT ÷ D)^¼, and by radiation (from memory)."""
    low, high = air_c, copper_c
    for _ in range(60):
        surface = (low + high) / 2
        rise, mean_k = surface - air_c, (surface + air_c) / 2 + 273.15
        per_k = 1.32 * (rise / (wire.outer_mm / 1000)) ** 0.25 + 0.9 * 4 * 5.67e-8 * mean_k**3
        given = per_k * rise * math.pi * wire.outer_mm / 1000
        low, high = (low, surface) if surface + given * wire.through_wall_k_m_per_w > copper_c else (surface, high)
    return given


class Lasting(TestCase):
    def test_conductors_at_their_class_limit_have_the_resistance_of_the_standard(self) -> None:
        """IEC 60228:2004 Annex A, from memory: R20 = 0.784 R at 90 °C, 254.5 ÷ (234.5 + 105) = 0.750 R at 105 °C."""
        for limit_c, factor in ((90.0, 0.784), (105.0, 0.750)):
            for area in ISO_10133_AREAS:
                wire = cable(find_size(f"{area:g} mm2"), limit_c)
                copper_c = float(warm_copper_c(wire, ampacity_a(wire, 30.0), 30.0))
                with self.subTest(area=area, limit_c=limit_c):
                    self.assertAlmostEqual(copper_c, limit_c, delta=0.2)
                    self.assertAlmostEqual(1 / warmed(copper_c), factor, delta=0.002)

    def test_three_points_by_hand(self) -> None:
        """The heat that the current makes at that temperature leaves by McAdams's formula, within a tenth."""
        for name, amps, air_c in (("1.5 mm2", 18.0, 50.0), ("10 mm2", 60.0, 50.0), ("50 mm2", 180.0, 85.0)):
            wire = cable(find_size(name), 125.0)
            copper_c = float(warm_copper_c(wire, amps, air_c))
            made = amps**2 * resistance_20c_ohm_per_m(wire.size) * (1 + 0.00393 * (copper_c - 20))
            with self.subTest(name):
                self.assertAlmostEqual(loses_w_per_m(wire, copper_c, air_c) / made, 1.0, delta=0.1)

    def test_at_nine_tenths_of_the_table_a_drop_in_the_cabin_is_a_sixth_more(self) -> None:
        """The rise goes with the square and a little less: 0.75 of 55 K in 50 °C air make 1.16 times (ISO 10133)."""
        wire = cable(find_size("10 mm2"), 105.0)
        amps = 0.9 * ISO_10133[105][ISO_10133_AREAS.index(10)] * math.sqrt((105 - 50) / (105 - 30))
        more = warmed(float(warm_copper_c(wire, amps, 50.0))) / warmed(50.0)
        self.assertTrue(1.10 < more < 1.18, more)

    def test_between_the_steps_it_is_as_the_thermal_model_says(self) -> None:
        for name, limit_c in (("0.75 mm2", 85.0), ("6 AWG", 105.0), ("70 mm2", 125.0)):
            for air_c in (-10.0, 30.0, 85.0):
                wire = cable(find_size(name), limit_c)
                squared, copper_c = warming(wire, air_c, 5)
                for step in range(STEPS - 1):
                    amps = math.sqrt((squared[step] + squared[step + 1]) / 2)
                    exact = float(temperature_c(wire, amps, air_c, 5))
                    self.assertAlmostEqual(float(warm_copper_c(wire, amps, air_c, 5)), exact, delta=0.25)
                self.assertAlmostEqual(warm_as(warmed(float(copper_c[-1]))), copper_c[-1])

    def test_nothing_is_warmer_than_its_insulation_stands_in_a_short_circuit(self) -> None:
        """250 °C cross-linked, 160 °C PVC (IEC 60364-4-43, from memory); in air that is hotter, as that is."""
        for insulation, most_c in (("thin-wall cross-linked", 250.0), ("PVC", 160.0)):
            self.assertEqual(float(warm_copper_c(cable(find_size("2.5 mm2"), insulation), 900.0, 30.0)), most_c)
        self.assertEqual(float(warm_copper_c(cable(find_size("2.5 mm2"), "PVC"), 900.0, 170.0)), 170.0)


class WhileCranking(TestCase):
    def test_seconds_warm_by_what_the_copper_takes_up(self) -> None:
        """260 A for 10 s: 0.368 mΩ/m · 1.118 · 260² · 10 s = 278 J on 172 J/K of copper, 290 J/K with its wall."""
        wire = cable(find_size("50 mm2"), 105.0)
        joules = 0.368e-3 * warmed(50.0) * 260**2 * 10.0  # ten seconds into a start, common practice
        rise = float(warm_copper_c(wire, 260.0, 50.0, seconds=CRANKING_S)) - 50.0
        self.assertTrue(joules / 300 < rise < joules / 172, rise)

    def test_after_its_time_constant_it_has_63_percent_of_its_rise(self) -> None:
        wire = cable(find_size("4 mm2"), 105.0)
        tau_s = time_constant_s(wire, 30.0)
        some, all_of_it = (float(warm_copper_c(wire, 20.0, 30.0, seconds=s)) - 30 for s in (tau_s, 50 * tau_s))
        self.assertAlmostEqual(some / all_of_it, 1 - math.exp(-1), places=6)


class Documented(TestCase):
    def test_the_ten_wires_of_the_docs(self) -> None:
        """docs/numbers.md: I · R₂₀ · l by ISO 6722-1 and ASTM B258, times 1 + 0.00393 (T − 20) for each temperature."""
        text = (Path(__file__).parents[3] / "docs" / "numbers.md").read_text().partition("## Ten wires")[2]
        rows = [line.strip("| ").split(" | ") for line in text.splitlines() if line.startswith("| ") and "mm²," in line]
        self.assertGreaterEqual(len(rows), 8)
        for wire, flows, *figures in rows:
            size, length, zone = wire.split(", ")
            amps, seconds = float(flows.split(" A")[0]), CRANKING_S if "10 s" in flows else LASTS
            spec = Wire.model_validate({"size": size, "length_m": length, "zone": zone})
            handbook_v = amps * resistance_20c_ohm_per_m(spec.conductor) * spec.length_m
            copper_c = float(warm_copper_c(spec.cable, amps, ZONE_TEMPERATURE_C[spec.zone], 1, seconds))
            volts = [handbook_v * warmed(each) for each in (20.0, ZONE_TEMPERATURE_C[spec.zone], copper_c)]
            self.assertEqual(figures[:4], [*(f"{each:.3f}" for each in volts), f"{copper_c:.0f}"], wire)
