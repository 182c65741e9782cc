"""Charge and voltage over a drive: closed forms, a general solver of differential equations, and Ah that add up."""

from typing import Any
from unittest import TestCase

import numpy as np
from scipy.integrate import quad, solve_ivp
from scipy.optimize import brentq

from core.tests.support.charged import ALTERNATOR, BATTERY, drive, system_of, unwired, wired
from percorso.components.batteries import charge_acceptance_a, open_circuit_v, peukert_factor, temperature_share
from percorso.errors import PercorsoError
from percorso.load_budget.drive import Driven, run_drive
from percorso.load_budget.endurance import endurances, hours_between
from percorso.load_budget.table import GRID_PERCENT, tables
from percorso.vehicle.model import Vehicle
from percorso.vehicle.scenarios import PRESETS, STANDARD, Drive, Scenario

PARKED = {"used_in": ["off"]}
I20 = {"kind": "constant current", "rated_v": 12, "rated_a": 4.75} | PARKED  # the twenty-hour current of 95 Ah
POWER = {"kind": "constant power", "rated_v": 12, "rated_a": 15} | PARKED
STARTER = {"kind": "starter", "running_v": 10, "running_a": 160, "locked_v": 4, "locked_a": 400}


def driven(vehicle: Vehicle, passed: Drive, morning_c: float = -10.0) -> Driven:
    return run_drive(system_of(vehicle), passed, morning_c)


class ClosedForms(TestCase):
    def test_two_hours_at_the_twenty_hour_current_take_a_tenth(self) -> None:
        found = driven(unwired(G1=BATTERY, A1=I20), drive((120, "off-day-summer")))
        self.assertAlmostEqual(found.charge_percent[0] - found.charge_percent[-1], 10, places=2)
        self.assertAlmostEqual(found.taken_ah, 9.5, places=2)
        self.assertAlmostEqual(found.discharged_ah, 9.5, places=2)
        self.assertEqual((found.given_ah, found.charged_ah), (0, 0))

    def test_an_alternator_that_regulates_charges_by_what_the_battery_takes(self) -> None:
        """No load: I = (14.2 V − OCV) ÷ R, with R so that it takes its acceptance at 14.4 V; 0.9 of it stays in."""
        found = driven(unwired(G1=BATTERY | {"charge_a": 20}, G2=ALTERNATOR), drive((1, "road-day-summer")))
        share = charge_acceptance_a("lead-acid", 95, 80, 30) / charge_acceptance_a("lead-acid", 95, 80, 25)
        amperes = 20 * share * (14.2 - 12.49) / (14.4 - 12.49)
        self.assertAlmostEqual(found.battery_a[0], amperes, places=6)
        gained = found.charge_percent[-1] - found.charge_percent[0]
        expected = 100 * 0.9 * amperes / 60 / 95
        self.assertAlmostEqual(gained, expected, delta=0.01 * expected)  # less and less within the minute

    def test_peukert(self) -> None:
        """Peukert (1897) for a capacity at the twenty-hour rate: t = 20 h · (95 ÷ (20 · 19))^1.2 = 3.79 h, not 5 h."""
        self.assertAlmostEqual(20 * (95 / (20 * 19)) ** 1.2, 5 / peukert_factor(19, 95, 1.2))
        nineteen = {"kind": "constant current", "rated_v": 12, "rated_a": 19} | PARKED
        for exponent, hours in ((1, 5), (1.2, 20 * 0.25**1.2)):
            system = system_of(unwired(G1=BATTERY | {"peukert": exponent, "state_of_charge_percent": 100}, A1=nineteen))
            table = tables(system, [STANDARD["off-day-summer"]])["off-day-summer"]
            self.assertAlmostEqual(hours_between(table, 100, 0) or 0, hours, delta=0.002 * hours)

    def test_constant_power_empties_a_battery_faster_as_its_voltage_falls(self) -> None:
        """180 W: the current solves P = V·I with V = OCV − R·I; a general quadrature sums up; Peukert off and on."""

        def hours_per_percent(charge: float, exponent: float) -> float:
            rest, ohm = open_circuit_v("lead-acid", charge, 12), 5.4 / 600 * 0.5 * (2 - charge / 100)
            amperes = (rest - (rest**2 - 4 * ohm * 180) ** 0.5) / (2 * ohm)
            return 95 / 100 / amperes / float(peukert_factor(amperes, 95, exponent))

        for exponent in (1.0, 1.25):
            values = BATTERY | {"state_of_charge_percent": 100, "peukert": exponent}
            [found] = endurances(system_of(unwired(G1=values, A1=POWER)), [STANDARD["off-day-summer"]])
            for until, hours in (
                (temperature_share("start_percent", "lead-acid", 30), found.starts_until_h),
                (0.0, found.empty_after_h),
            ):
                expected = quad(hours_per_percent, until, 100, args=(exponent,), limit=200)[0]
                self.assertAlmostEqual(hours or 0, expected, delta=0.003 * expected)

    def test_tables_end_where_they_are_said_to(self) -> None:
        """Rest voltage of a flat and a full lead-acid battery (BCI, from memory); cold takes and leaves less."""
        self.assertEqual([open_circuit_v("lead-acid", charge, 12) for charge in (0, 100)], [11.89, 12.65])
        self.assertEqual([open_circuit_v("lead-acid", charge, 12) for charge in (-5, 105)], [11.89, 12.65])
        self.assertEqual([temperature_share("acceptance_share", "lead-acid", c) for c in (-40, 25, 60)], [0.1, 1, 1])
        self.assertEqual(charge_acceptance_a("LiFePO4", 100, 50, -1), 0)


class AgainstAGeneralSolver(TestCase):
    """SciPy's ODE solver on the battery's equation, its voltage found anew at every step by bracketing."""

    HEATER_OHM, WATTS = 0.7, 260.0
    LOADS: dict[str, Any] = {
        "E1": {"kind": "resistive", "rated_v": 14, "rated_a": 20, "used_in": ["idle", "road", "off"]},
        "A1": {"kind": "constant power", "rated_v": 13, "rated_w": 260, "used_in": ["idle", "road", "off"]},
    }

    def _change(self, charge: float, limit_a: float) -> float:
        """Change of charge, % per hour, at 30 °C outside, with an alternator that holds 14.2 V up to its limit."""
        rest = open_circuit_v("lead-acid", charge, 12)
        gives = 5.4 / 600 * 0.5 * (2 - charge / 100)
        takes = (14.4 - rest) / charge_acceptance_a("lead-acid", 95, charge, 30)

        def into(volts: float) -> float:
            return (volts - rest) / (gives if volts < rest else takes)

        def asked(volts: float) -> float:
            return volts / self.HEATER_OHM + self.WATTS / volts + into(volts)

        held = limit_a > 0 and asked(14.2) <= limit_a
        amperes = into(14.2 if held else brentq(lambda volts: asked(volts) - limit_a, 9, 15))
        factor = 0.9 if amperes > 0 else peukert_factor(-amperes, 95, 1.2)
        return 100 * amperes * factor / 95

    def test_every_spell_of_a_drive(self) -> None:
        passed = drive((45, "off-day-summer"), (60, "idle-day-summer"), (90, "road-day-summer"))
        battery = BATTERY | {"state_of_charge_percent": 88, "peukert": 1.2}
        found = driven(unwired(G1=battery, G2=ALTERNATOR, **self.LOADS), passed)
        charge = 88.0
        for spell, limit_a in zip(found.spells, (0.0, 40 * (1 - 0.0025 * 50), 90 * (1 - 0.0025 * 35)), strict=True):
            hours = (spell.to_min - spell.from_min) / 60
            exact = solve_ivp(
                lambda _, y, limit=limit_a: [self._change(y[0], limit)], (0, hours), [charge], rtol=1e-9, atol=1e-9
            ).y[0, -1]
            before = next(
                one for one, minute in zip(found.charge_percent, found.minute, strict=True) if minute == spell.from_min
            )
            self.assertAlmostEqual(spell.to_percent - before, exact - charge, delta=0.005 * abs(exact - charge))
            charge = exact

    def test_minutes_are_fine_enough(self) -> None:
        """Eight hours in one spell and the same in pieces that are no whole minutes."""
        whole, pieces = (drive(*[(480 / parts, "off-day-summer")] * parts) for parts in (1, 49))
        one, other = (driven(unwired(G1=BATTERY, A1=I20), each).charge_percent[-1] for each in (whole, pieces))
        self.assertAlmostEqual(one, other, places=4)


class NothingIsLost(TestCase):
    def test_charge_is_conserved(self) -> None:
        """What the alternator and the battery give is what consumers and battery take; and it shows in its charge."""
        passed = drive((30, "off-day-summer"), (40, "idle-night-winter"), (50, "road-day-rain"))
        found = driven(wired(), passed)
        given, taken = found.given_ah + found.discharged_ah, found.taken_ah + found.charged_ah
        self.assertAlmostEqual(given, taken, delta=0.001 * taken)
        stored = 0.9 * found.charged_ah - found.discharged_ah
        gained = 0.95 * (found.charge_percent[-1] - found.charge_percent[0])
        self.assertAlmostEqual(gained, stored, delta=0.001 * found.charged_ah + 0.001 * found.discharged_ah)

    def test_starts_cost_their_share_and_can_fail(self) -> None:
        battery = BATTERY | {"state_of_charge_percent": 34}
        vehicle = unwired(G1=battery, G2=ALTERNATOR, M1=STARTER, A1=I20 | {"rated_a": 10})
        once = drive((10, "off-day-summer"), (10, "road-day-summer"))
        found = driven(vehicle, once)
        self.assertIsNone(found.stranded_min)
        self.assertEqual(found.starts_left, 0)  # on the coldest morning, from a third of its charge
        self.assertGreater(driven(vehicle, once, morning_c=25.0).starts_left or 0, 0)
        cold = driven(vehicle, drive((10, "off-night-winter"), (10, "road-night-winter")))
        self.assertEqual((cold.stranded_min, cold.starts_left, len(cold.spells)), (10, 0, 1))
        self.assertEqual(driven(vehicle, drive((60, "off-day-summer"), (5, "road-day-summer"))).lasts, 0)

    def test_total_loss_without_an_alternator(self) -> None:
        """76 Ah until it is empty at 30 °C, 5 Ah in each run of an hour: 15 runs, the sixteenth ends empty."""
        found = driven(unwired(G1=BATTERY, A1=I20 | {"rated_a": 5}), drive((60, "off-day-summer")))
        self.assertEqual(found.lasts, 15)
        self.assertIsNone(found.settles_percent)
        self.assertIsNone(found.starts_left)  # there is no starter

    def test_what_goes_on_for_ever_says_where_it_settles(self) -> None:
        found = driven(unwired(G1=BATTERY, G2=ALTERNATOR), PRESETS["motorway"])
        self.assertIsNone(found.lasts)
        self.assertGreater(found.settles_percent or 0, 99)
        self.assertGreater(found.gained_percent, 0)

    def test_what_cannot_be_driven(self) -> None:
        with self.assertRaisesRegex(PercorsoError, "needs a battery"):
            driven(unwired(G2=ALTERNATOR), PRESETS["motorway"])
        with self.assertRaisesRegex(PercorsoError, 'no scenario "moon"'):
            driven(unwired(G1=BATTERY), drive((5, "moon")))

    def test_own_scenarios_switch_single_loads(self) -> None:
        own = Scenario("own", "own", "off", "day", "summer", 30, {"A1": 50, "E1": 0})
        vehicle = unwired(G1=BATTERY, A1=I20, E1=I20)
        table = tables(system_of(vehicle), [own])["own"]
        self.assertAlmostEqual(float(np.interp(80, GRID_PERCENT, table.taken_a)), 2.375, places=3)


class Chemistries(TestCase):
    """Each kind of battery on an alternator that holds 14.2 V on the road, nothing else running."""

    def _gained(self, minutes: float, scenario: str = "road-day-summer", **values: Any) -> float:
        battery = BATTERY | values
        return driven(unwired(G1=battery, G2=ALTERNATOR), drive((minutes, scenario))).gained_percent

    def test_lithium_takes_no_charge_below_freezing(self) -> None:
        lithium = {"chemistry": "LiFePO4", "state_of_charge_percent": 40}
        self.assertAlmostEqual(self._gained(60, "road-night-winter", **lithium), 0, places=3)
        self.assertGreater(self._gained(60, **lithium), 30)

    def test_agm_takes_more_than_flooded_and_cold_less_than_warm(self) -> None:
        for chemistry in ("lead-acid", "AGM"):
            values = {"chemistry": chemistry, "state_of_charge_percent": 50}
            self.assertGreater(self._gained(30, **values), 1.5 * self._gained(30, "road-day-winter", **values))
        agm, flooded = (self._gained(30, chemistry=each, state_of_charge_percent=50) for each in ("AGM", "lead-acid"))
        self.assertGreater(agm, 1.2 * flooded)

    def test_none_is_charged_beyond_full(self) -> None:
        for chemistry in ("lead-acid", "AGM", "LiFePO4"):
            found = driven(
                unwired(G1=BATTERY | {"chemistry": chemistry, "state_of_charge_percent": 99}, G2=ALTERNATOR),
                drive((600, "road-day-summer")),
            )
            self.assertLessEqual(max(found.charge_percent), 100)
            self.assertGreater(found.charge_percent[-1], 99.5)

    def test_measured_resistance_and_acceptance_go_along_with_charge_and_cold(self) -> None:
        """A battery measured twice as good as its marking is so in every condition."""
        usual = charge_acceptance_a("lead-acid", 95, 80, 25)
        for measured, times in (({"charge_a": 2 * usual}, 2), ({}, 1)):
            system = system_of(unwired(G1=BATTERY | measured, G2=ALTERNATOR))
            for scenario in ("road-day-summer", "road-night-winter"):
                conditions = system.conditions([(STANDARD[scenario], 60.0)])
                outside = STANDARD[scenario].outside_c
                rest = open_circuit_v("lead-acid", 60, 12)
                expected = (14.4 - rest) / (times * charge_acceptance_a("lead-acid", 95, 60, outside))
                self.assertAlmostEqual(float(conditions.takes_ohm[0]), expected)
        weak = system_of(unwired(G1=BATTERY | {"resistance_ohm": 0.0108}))  # 25 °C, 80 %: 5.4 mΩ by its marking
        [cold] = weak.conditions([(STANDARD["off-night-winter"], 80.0)]).gives_ohm
        warmth = 0.5 + 0.5 * 30 / 43  # from −18 °C on straight to half at 25 °C
        self.assertAlmostEqual(float(cold), 2 * 0.009 * warmth * 1.2)

    def test_a_cold_battery_is_empty_sooner(self) -> None:
        """A twentieth of 95 Ah each hour: 16 h from 80 % in summer; at −5 °C a quarter of it is not to be had."""
        hours = [
            endurances(system_of(unwired(G1=BATTERY, A1=I20)), [STANDARD[each]])[0].empty_after_h or 0
            for each in ("off-day-summer", "off-night-winter")
        ]
        floor = 100 * (1 - temperature_share("capacity_share", "lead-acid", -5))
        self.assertAlmostEqual(hours[0], 16, delta=0.02)
        self.assertAlmostEqual(hours[1], (80 - floor) / 5, delta=0.02)
