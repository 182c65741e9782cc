"""How warm wires get: against published tables, another way of computing the same, and handbook figures."""

import math
from unittest import TestCase

import ht
import numpy as np

from core.tests.support.published import ABYC_E_11, ISO_10133, ISO_10133_AREAS
from percorso.components.conductors import (
    at_temperature_ohm,
    find_size,
    in_gauge,
    resistance_20c_ohm_per_m,
    stocked_sizes,
)
from percorso.components.insulation import INSULATIONS, family, usual_insulation
from percorso.components.published_ampacity import bundling_factor, table_ampacity_a
from percorso.components.thermal import (
    KELVIN,
    Cable,
    adiabatic_k,
    ampacity_a,
    cable,
    heat_given_off_w_per_m,
    intermittent_ampacity_a,
    melting_current_a,
    temperature_c,
    time_constant_s,
    withstand_a2s,
)


def usual(name: str, limit_c: float = 105) -> Cable:
    """A size in its usual wall, at the limit the published tables are for."""
    size = find_size(name)
    return Cable(size, family(usual_insulation(size.area_mm2)).wall_mm(size.area_mm2), limit_c)


class SteadyTemperature(TestCase):
    def test_the_model_stands_close_over_the_marine_table(self) -> None:
        """ABYC E-11, 105 °C, 30 °C air, from memory: a table keeps some margin over a single wire in free air."""
        for gauge, amps in ABYC_E_11.items():
            with self.subTest(gauge):
                self.assertTrue(1.00 <= float(ampacity_a(usual(f"{gauge} AWG"))) / amps <= 1.25)

    def test_the_model_stands_steadily_over_the_metric_table(self) -> None:
        """ISO 10133 Annex A, 105 °C column, from memory: as over the marine table, on every size."""
        for area, amps in zip(ISO_10133_AREAS, ISO_10133[105], strict=True):
            with self.subTest(area):
                self.assertTrue(1.00 <= float(ampacity_a(usual(f"{area:g} mm2"))) / amps <= 1.25)

    def test_convection_as_a_general_heat_transfer_library_has_it(self) -> None:
        """`ht`, its Churchill and Chu for a horizontal cylinder, with air from Incropera's table A.4, from memory."""
        air_at_350_k = {"conductivity": 30.0e-3, "viscosity": 20.92e-6, "prandtl": 0.700}
        surface, around = 350 - KELVIN + 25, 350 - KELVIN - 25
        for diameter_mm in (1.5, 3, 6, 12, 20):
            length = diameter_mm / 1000
            grashof = 9.81 / 350 * 50 * length**3 / air_at_350_k["viscosity"] ** 2
            nusselt = ht.Nu_horizontal_cylinder_Churchill_Chu(Pr=air_at_350_k["prandtl"], Gr=grashof)
            convected = nusselt * air_at_350_k["conductivity"] / length * math.pi * length * 50
            radiated = 0.9 * 5.670374e-8 * math.pi * length * (375**4 - 325**4)
            ours = float(heat_given_off_w_per_m(diameter_mm, surface, around))
            self.assertLess(abs((ours - radiated) / convected - 1), 0.02, diameter_mm)

    def test_thicker_cooler_and_alone_carries_more(self) -> None:
        for series in ("awg", "metric"):
            amps = [float(ampacity_a(usual(size.name))) for size in stocked_sizes(series)]
            self.assertEqual(amps, sorted(amps))
        wire = usual("10 AWG")
        self.assertTrue((np.diff(ampacity_a(wire, np.arange(-40.0, 110.0, 10.0))) <= 0).all())
        self.assertTrue((np.diff(ampacity_a(wire, 30, np.arange(1, 50))) <= 0).all())
        self.assertEqual(float(ampacity_a(wire, 105)), 0)

    def test_heat_in_is_heat_out(self) -> None:
        """Conservation of energy, and the two questions are each other's inverse."""
        for name in ("22 AWG", "2.5 mm2", "2/0 AWG"):
            wire = usual(name)
            for current in (0.3, 0.8, 1.0):
                amps = current * float(ampacity_a(wire, 40))
                copper = float(temperature_c(wire, amps, 40))
                heat = amps**2 * at_temperature_ohm(resistance_20c_ohm_per_m(wire.size), copper)
                surface = copper - heat * wire.through_wall_k_m_per_w
                self.assertAlmostEqual(float(heat_given_off_w_per_m(wire.outer_mm, surface, 40) / heat), 1, places=5)
            self.assertAlmostEqual(copper, 105, places=4)
        self.assertEqual(float(temperature_c(usual("18 AWG"), 500)), math.inf)

    def test_free_convection_from_a_handbook_cylinder(self) -> None:
        """A pipe of 100 mm at 128 °C in 23 °C air: Nu 23.3 and h 7.4 W/m²K (Incropera, example, from memory)."""
        rise, area = 105.0, math.pi * 0.1
        radiated = 0.9 * 5.67e-8 * area * ((128 + 273.15) ** 4 - (23 + 273.15) ** 4)
        convected = float(heat_given_off_w_per_m(100, 128, 23)) - radiated
        self.assertLess(abs(convected / (rise * area) / 7.4 - 1), 0.10)

    def test_bundles(self) -> None:
        """ABYC E-11, from memory."""
        self.assertEqual(bundling_factor([1, 2, 3, 4, 6, 7, 24, 25]).tolist(), [1, 0.7, 0.7, 0.6, 0.6, 0.5, 0.5, 0.4])


class TableCorrections(TestCase):
    def test_engine_space_and_cooler_insulation(self) -> None:
        """ABYC E-11, from memory: × 0.85 in an engine space at 105 °C; 80 °C insulation of 10 AWG stands 50 A."""
        ten = find_size("10 AWG")
        self.assertAlmostEqual(table_ampacity_a(ten, engine_space=True), 51.0)
        self.assertAlmostEqual(table_ampacity_a(ten, engine_space=True, limit_c=180), 51.0)
        self.assertTrue(46 <= table_ampacity_a(ten, limit_c=80) <= 52)
        self.assertEqual(table_ampacity_a(ten, limit_c=125, air_c=0), 60)
        self.assertEqual(table_ampacity_a(ten, limit_c=70, air_c=85), 0)
        self.assertAlmostEqual(table_ampacity_a(in_gauge(ten, "sae")), 60 * math.sqrt(4.65 / 5.261), places=2)


class ShortTimes(TestCase):
    def test_warming_up_against_the_heat_balance_in_small_steps(self) -> None:
        """dT/dt = (I²R(T) − heat out) ÷ heat capacity, integrated: the first-order current ends within 15 % of it."""
        for name, seconds in (("16 AWG", 20), ("16 mm2", 30), ("1/0 AWG", 30)):
            wire = usual(name, 125)
            amps = float(intermittent_ampacity_a(wire, seconds, air_c=40))
            copper, steps = 40.0, 2000
            for _ in range(steps):
                surface = copper - self._through_wall(wire, copper)
                given = float(heat_given_off_w_per_m(wire.outer_mm, surface, 40))
                made = amps**2 * float(at_temperature_ohm(resistance_20c_ohm_per_m(wire.size), copper))
                copper += (made - given) / wire.heat_capacity_j_per_m_k * seconds / steps
            self.assertLess(abs((copper - 40) / 85 - 1), 0.15, name)

    def _through_wall(self, wire: Cable, copper: float) -> float:
        """Fall of temperature through the insulation, from three rounds of substitution."""
        fall = 0.0
        for _ in range(3):
            fall = float(heat_given_off_w_per_m(wire.outer_mm, copper - fall, 40)) * wire.through_wall_k_m_per_w
        return fall

    def test_a_short_start_may_carry_more_than_a_lasting_load(self) -> None:
        wire = usual("2 AWG", 125)
        lasting, resting = float(ampacity_a(wire)), float(intermittent_ampacity_a(wire, 30, 120))
        self.assertTrue(lasting < resting < float(intermittent_ampacity_a(wire, 10)))
        self.assertAlmostEqual(float(intermittent_ampacity_a(wire, 1e6)), lasting)
        self.assertTrue(120 < time_constant_s(wire) < 900)  # minutes for a battery cable, common practice

    def test_short_circuit_and_fusing(self) -> None:
        """(k·S)², k 143 from 90 °C and 115 from 70 °C (IEC 60364-4-43 Annex A); Onderdonk, from memory.

        10 AWG, 10 381 circular mils, 1 s from 40 °C: 10 381 · √(log₁₀(1 + 1043 ÷ 274) ÷ 33) = 1 492 A.
        """
        wire, soft = (cable(find_size("2.5 mm2"), each) for each in ("thin-wall cross-linked", "PVC"))
        self.assertAlmostEqual(float(withstand_a2s(wire, 90)) / (143 * 2.5) ** 2, 1, places=2)
        self.assertAlmostEqual(float(withstand_a2s(soft, 70)) / (115 * 2.5) ** 2, 1, places=2)
        self.assertGreater(float(adiabatic_k("cross-linked", 20)), 170)  # cold, 176 by the same formula
        self.assertEqual(float(adiabatic_k("PVC", 200)), 0)
        self.assertAlmostEqual(float(melting_current_a(find_size("10 AWG"), 1, 40)), 1492, delta=2)


class Families(TestCase):
    def test_what_trade_and_standards_say_of_each(self) -> None:
        """Temperature classes: SAE J1128 and J1127, ISO 6722 classes, from memory."""
        limits = {name: family(name).limit_c for name in INSULATIONS}
        for name, low, high in [
            ("thin-wall cross-linked", 125, 125), ("PVC", 80, 85), ("cross-linked battery cable", 125, 125),
            ("PVC battery cable", 80, 85), ("welding cable", 90, 105), ("silicone", 180, 200),
            ("fluoropolymer hook-up", 150, 150), ("building wire", 60, 75),
        ]:  # fmt: skip
            self.assertTrue(low <= limits[name] <= high, name)
        self.assertIn("moves", family("building wire").never)
        self.assertTrue(all(family(name).use and family(name).never for name in INSULATIONS))

    def test_walls_grow_with_size_and_kind(self) -> None:
        """Thin, general and thick walls of an 18 AWG wire: 0.3, 0.6 and 0.8 mm (SAE J1128, from memory)."""
        kinds = ("thin-wall cross-linked", "general cross-linked", "thick-wall cross-linked")
        walls = [family(kind).wall_mm(0.82) for kind in kinds]
        for wall, published in zip(walls, (0.3, 0.6, 0.8), strict=True):
            self.assertAlmostEqual(wall, published, delta=0.05)
        self.assertFalse(family("shielded").is_made_in(16))
