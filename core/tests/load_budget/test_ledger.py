"""The load ledger: name plates and measurements, the circuits behind it, and its file with every mistake named."""

import re
from dataclasses import replace
from itertools import count
from typing import Any
from unittest import TestCase

from core.tests.support.charged import BATTERY, unwired
from core.tests.support.demo import demo
from percorso.errors import JobFileError
from percorso.house_rules import HouseRules
from percorso.load_budget.budget import draw_up
from percorso.load_budget.ledger import ledger, ledger_findings, typical_consumers
from percorso.load_budget.ledger_csv import COLUMNS, ledger_csv, ledger_edits, read_ledger_csv
from percorso.load_budget.sources import budgeted
from percorso.planning.apply import edited
from percorso.planning.templates import answered, lay_starter
from percorso.vehicle.devices import DEVICE_SPEC, changed_device, new_device
from percorso.vehicle.loads import Load
from percorso.vehicle.model import Vehicle
from percorso.vehicle.scenarios import STANDARD

VAN = demo("market-van")
RULES = HouseRules()
HEADER = ",".join(COLUMNS)


def load(**values: Any) -> Load:
    spec = DEVICE_SPEC.validate_python({"kind": "resistive", "rated_v": "12 V"} | values)
    assert isinstance(spec, Load)
    return spec


class NamePlates(TestCase):
    def test_watts_become_amperes(self) -> None:
        """P = U·I: 60 W at 12 V draw 5 A; an inverter that gives 300 W at 85 % draws 29.4 A."""
        self.assertAlmostEqual(load(rated_w="60 W").rated_a, 5)
        self.assertAlmostEqual(load(rated_w=300, efficiency=0.85).rated_a, 300 / 0.85 / 12)
        self.assertAlmostEqual(load(rated_a=4.98, rated_w=60).rated_a, 5)

    def test_what_was_said_last_rules(self) -> None:
        watts = load(rated_w="60 W", efficiency=0.5)
        for change, amperes, still_w in (
            ({"rated_w": "24 W"}, 4, 24),
            ({"rated_w": "24 W", "rated_a": 10}, 4, 24),
            ({"rated_a": "3 A"}, 3, None),
            ({"rated_a": "3 A", "rated_w": 60}, 3, None),
        ):
            after = changed_device(watts, change)
            assert isinstance(after, Load)
            self.assertAlmostEqual(after.rated_a, amperes)
            self.assertEqual(after.rated_w, still_w)
        self.assertEqual(getattr(changed_device(watts, {"rated_v": 24}), "rated_a"), 5)  # noqa: B009

    def test_measured_beats_rated_and_shows_the_difference(self) -> None:
        vehicle = unwired(E1={"kind": "resistive", "rated_v": 12, "rated_a": 5, "measured_a": 6, "measured_v": 13})
        [entry] = ledger(budgeted(vehicle, "planned"))
        self.assertEqual((entry.load.drawn_v, entry.load.drawn_a), (13, 6))
        self.assertEqual(load(rated_a=5, measured_a="6000 mA").typed, {"rated_v": "12 V", "measured_a": "6000 mA"})
        self.assertAlmostEqual(entry.differs_percent or 0, 100 * (6 / (5 * 13 / 12) - 1))  # 5.4 A by Ohm's law at 13 V

    def test_mistakes_name_their_field(self) -> None:
        for values, field, says in (
            ({"rated_w": 60, "rated_v": None}, "rated_v", "watts say nothing without the volts"),
            ({}, "rated_a", "say what it draws, in ampere or in watts"),
            ({"rated_w": 60, "rated_a": 9}, "rated_a", "60 W at 12 V draw 5 A, not 9"),
            ({"rated_a": 5, "duty_percent": 101}, "duty_percent", "less than or equal to 100"),
            ({"rated_w": 5, "efficiency": 1.1}, "efficiency", "less than or equal to 1"),
            ({"rated_w": "5 V"}, "rated_w", '"V" is not a unit of power'),
            ({"rated_a": 5, "measured_v": 13}, "measured_a", "say what current was measured"),
        ):
            with self.assertRaisesRegex(ValueError, re.escape(says)) as caught:
                load(**values)
            [problem] = caught.exception.errors()
            told = getattr(problem.get("ctx", {}).get("error"), "field", ()) or problem["loc"][-1:]
            self.assertEqual(tuple(told)[-1], field)

    def test_when_a_load_runs(self) -> None:
        wiper = load(rated_a=5, duty_percent=40, seasons=["rain"], times=["night"], rests_in=["off"])
        for scenario, share in (("idle-night-rain", 0.4), ("idle-day-rain", 0), ("road-night-winter", 0)):
            self.assertEqual(wiper.duty(STANDARD[scenario], "m"), share)
        self.assertEqual(wiper.duty(STANDARD["off-night-rain"], "m"), 0)
        self.assertEqual(wiper.duty(replace(STANDARD["off-night-rain"], duty_percent={"m": 25}), "m"), 0.25)

    def test_typical_consumers_are_all_loads_and_say_they_are_typical(self) -> None:
        listed = typical_consumers(24)
        for each in listed:
            values = {"kind": each.kind, "rated_v": each.rated_v, "rated_w": each.rated_w, "used_in": each.used_in}
            values |= {"times": each.times, "seasons": each.seasons, "priority": each.priority}
            self.assertIsInstance(new_device(values, 24), Load)
            self.assertIn("measure yours", each.source)
        self.assertEqual(len({each.name for each in listed}), len(listed))


class BehindTheLedger(TestCase):
    def test_a_load_without_a_circuit_is_noticed(self) -> None:
        [found] = ledger_findings(budgeted(VAN, "planned"))
        self.assertRegex(found.title, "^No circuit feeds .*Radio")
        self.assertNotIn("Cold box", found.title)

    def test_a_circuit_for_another_current_is_noticed_and_cured(self) -> None:
        circuits = {**VAN.circuits, "cold-box-feed": replace(VAN.circuits["cold-box-feed"], design_current_a=12.0)}
        vehicle = replace(VAN, circuits=circuits)
        [found] = [each for each in draw_up(vehicle, "planned", RULES).findings if each.severity == "caution"]
        self.assertEqual(found.title, "Cold box feed is designed for 12 A, its load draws 18 A.")
        assert found.cure is not None
        cured = edited(vehicle, found.cure.edits, RULES, lambda: "new")
        self.assertEqual(cured.circuits["cold-box-feed"].design_current_a, 18)

    def test_a_route_laid_for_it_wires_the_load_of_the_ledger(self) -> None:
        ids = map(str, count())
        radio = {"kind": "constant power", "rated_v": 13.5, "rated_a": 2, "measured_a": 1.8}
        vehicle = unwired(G1=BATTERY, A1=radio)
        answers = answered("relay-fed-device", {"name": "A1", "amps": "1.8 A"})
        laid, _ = lay_starter(vehicle, answers, RULES, lambda: f"new-{next(ids)}", "metric")
        self.assertEqual(set(laid.devices["A1"].terminals), {"+", "-"})
        self.assertEqual(laid.devices["A1"].spec, vehicle.devices["A1"].spec)
        self.assertFalse(list(ledger_findings(budgeted(laid, "planned"))))


class LedgerFile(TestCase):
    def _read(self, text: str | bytes, vehicle: Vehicle = VAN) -> Any:
        ids = map(str, count())
        return read_ledger_csv(text, vehicle, lambda: f"new-{next(ids)}")

    def _problems(self, text: str | bytes) -> list[str]:
        with self.assertRaises(JobFileError) as caught:
            self._read(text)
        return [f"{each.path}: {each.message}" for each in caught.exception.problems]

    def test_out_and_in_again_changes_nothing(self) -> None:
        text = ledger_csv(draw_up(VAN, "planned", RULES).entries)
        lines = self._read(b"\xef\xbb\xbf" + text.encode())
        self.assertEqual({each.does for each in lines}, {"leave"})
        self.assertEqual(ledger_edits(lines), [])

    def test_new_and_changed_lines(self) -> None:
        text = "name,kind,rated_v,rated_w,measured_a,used_in\n"
        text += '"Horn, left",motor,12 V,60,,road\nRadio,constant power,13.5,25,2.5 A,idle road\n'
        horn, radio = self._read(text)
        self.assertEqual((horn.does, horn.device.name, horn.device.spec.rated_a), ("add", "Horn, left", 5))
        self.assertEqual(
            (radio.does, radio.device.spec.drawn_a, radio.device.spec.priority), ("change", 2.5, "comfort")
        )

    def test_its_edits_make_of_the_job_what_the_file_says(self) -> None:
        ledger_file = ledger_csv(draw_up(VAN, "planned", RULES).entries).replace(",60,", ",61,")
        other = replace(VAN, devices={k: each for k, each in VAN.devices.items() if each.name != "Radio"})
        ids = map(str, count())
        made = edited(other, ledger_edits(self._read(ledger_file, other)), RULES, lambda: f"made-{next(ids)}")
        self.assertEqual({each.does for each in self._read(ledger_file, made)}, {"leave"})
        self.assertEqual(len(made.devices), len(VAN.devices))

    def test_a_name_that_a_spreadsheet_would_run_comes_back_as_it_was(self) -> None:
        vehicle = unwired(A1={"kind": "resistive", "rated_v": 12, "rated_a": 5, "group": "@home"})
        odd = replace(vehicle, devices={"A1": replace(vehicle.devices["A1"], name="=2+3")})
        text = ledger_csv(ledger(budgeted(odd, "planned")))
        self.assertIn("'=2+3,'@home", text)
        [line] = self._read(text, odd)
        self.assertEqual((line.device.name, line.load.group, line.does), ("=2+3", "@home", "leave"))

    def test_what_the_file_leaves_out_stays_and_an_empty_cell_clears(self) -> None:
        head = "name,kind,rated_v,rated_a"
        [kept] = self._read(head + "\nCold box,motor,13.2,17")
        self.assertEqual((kept.load.measured_a, kept.load.duty_percent, kept.load.min_v), (18, 60, 12))
        [cleared] = self._read(head + ",measured_a,measured_v,measured_how,duty_percent\nCold box,motor,13.2,17,,,,")
        self.assertEqual((cleared.load.measured_a, cleared.load.duty_percent, cleared.load.min_v), (None, 100, 12))
        self.assertEqual(cleared.device.terminals, VAN.devices["m2"].terminals)

    def test_every_wrong_line_is_named(self) -> None:
        lines = (
            ("A,motor,,5,,", "line 2, rated_v: this is needed"),
            ('B,motor,12,"7,5",,', 'line 3, rated_a: "7,5" has a comma, which could mean two things'),
            ("C,motor,12,5,120,", "line 4, duty_percent: this must be at most 100"),
            ("D,battery,12,5,,", 'line 5, kind: "battery" is not a kind of consumer'),
            ("Battery,motor,12,5,,", "line 6, name: Battery is a battery in this job"),
            ("E,motor,12,5,,moon", "line 7, used_in: this must be one of 'off', 'accessory'"),
            ('F,motor,12,5,"1,5",', 'line 8, duty_percent: "1,5" is not a number; decimals have a point'),
            ("<b>,motor,12,5,,", 'line 9, name: the signs "<" and ">" are not allowed'),
            ("Horn,motor,12,5,,", ""),
            ("Horn,motor,12,6,,", 'line 11, name: "Horn" stands on line 10 already'),
        )
        text = "\n".join(["name,kind,rated_v,rated_a,duty_percent,used_in", *(line for line, _ in lines)])
        found = "\n".join(self._problems(text))
        for _, says in lines:
            self.assertIn(says, found)
        [told] = self._problems("name,kind,rated_v,rated_a\nHorn,motor,13.5,5\nFan,motor,13.5,7,4")
        self.assertIn("line 3: 5 cells under 4 columns; write decimals with a point", told)

    def test_what_is_no_ledger_at_all(self) -> None:
        for text, says in (
            ("", "is empty"),
            ("name;kind;rated_v;rated_a\nHorn;motor;12;5", "not separated by commas"),
            ("name,kind,volts\n", '"volts" is not a column'),
            ("kind,kind,rated_v,rated_a\n", '"kind" stands twice'),
            (HEADER + "\n", "no consumers below"),
            (HEADER + "\n" + '"Horn', "this is no CSV"),
            (HEADER.encode("utf-16"), "not UTF-8"),
            ("name,kind,rated_v,rated_a\n" + "Horn,motor,12,5\n" * 40_000, "more than 500 lines"),
            ("name,kind,rated_v,rated_a\n" + "Horn,motor,12,5\n" * 100_000, "larger than 1 MB"),
        ):
            self.assertIn(says, " ".join(self._problems(text)), text[:60])
