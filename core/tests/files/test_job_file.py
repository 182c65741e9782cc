"""Values of segments as they are changed and described, names, and job files as they come from outside."""

import json
import re
from copy import deepcopy
from functools import partial
from itertools import count
from pathlib import Path
from typing import Any
from unittest import TestCase

from jsonschema import Draft202012Validator
from pydantic import TypeAdapter, ValidationError

from core.tests.support.demo import DEMO
from core.tests.support.in_time import in_time
from percorso.circuits.voltage_profile import profile
from percorso.errors import JobFileError, PercorsoError
from percorso.files.job_file import job_file_schema, vehicle_of, write_job_file
from percorso.files.reading import read_job_file
from percorso.house_rules import HouseRules
from percorso.load_budget.budget import draw_up
from percorso.names import Name
from percorso.study import Study
from percorso.vehicle.devices import DEVICE_SPEC
from percorso.vehicle.ids import new_ids, with_ids
from percorso.vehicle.segments import SEGMENT_SPEC, ZONE_TEMPERATURE_C, changed_spec, describe
from percorso.vehicle.stages import vehicle_at
from percorso.verification.judging.logged import Logged
from percorso.verification.judging.readings import DropReading, judge_reading

VAN = DEMO / "market-van.json"
RULES = HouseRules()


class ChangedSpecs(TestCase):
    def setUp(self) -> None:
        self.wire = SEGMENT_SPEC.validate_python(
            {"kind": "wire", "size": "10 AWG", "length_m": "13 ft", "colour": "rd"}
        )

    def test_a_change_keeps_the_rest(self) -> None:
        thicker = changed_spec(self.wire, {"size": "8 AWG"})
        self.assertEqual(thicker.model_dump() | {"size": "10 AWG"}, self.wire.model_dump())

    def test_typed_text_goes_with_its_value(self) -> None:
        self.assertEqual(changed_spec(self.wire, {"length_m": 4}).typed, {})
        self.assertEqual(changed_spec(self.wire, {"length_m": "4 m"}).typed, {"length_m": "4 m"})
        forged = changed_spec(self.wire, {"length_m": 4, "typed": {"length_m": "1 m"}})
        self.assertEqual(forged.typed, {})

    def test_another_kind_starts_afresh(self) -> None:
        fuse = changed_spec(self.wire, {"kind": "fuse", "rating_a": "25 A"})
        self.assertEqual((fuse.kind, fuse.typed), ("fuse", {"rating_a": "25 A"}))
        with self.assertRaises(ValidationError):
            changed_spec(self.wire, {"kind": "fuse"})

    def test_a_fuse_is_of_its_family(self) -> None:
        strip = SEGMENT_SPEC.validate_python({"kind": "fuse", "family": "strip", "rating_a": 200})
        self.assertEqual(describe(strip), "200 A strip")
        with self.assertRaises(ValidationError):
            changed_spec(strip, {"family": "blade"})

    def test_descriptions_speak_in_typed_units(self) -> None:
        self.assertEqual(describe(self.wire), "10 AWG, 13 ft")
        self.assertEqual(describe(changed_spec(self.wire, {"length_m": 4})), "10 AWG, 4 m")
        self.assertEqual(describe(SEGMENT_SPEC.validate_python({"kind": "relay contact"})), "relay")


class Names(TestCase):
    def test_plain_names_pass_and_others_do_not(self) -> None:
        name = TypeAdapter(Name)
        self.assertEqual(name.validate_python("  B− post ½ "), "B− post ½")
        for wrong in ("", "   ", "x" * 81, "<b>", "a\x00b", "tab\there"):
            with self.subTest(wrong[:6]), self.assertRaises(ValidationError):
                name.validate_python(wrong)


class TheDemoVan(TestCase):
    """The demo is invented; that its figures hang together is not."""

    def setUp(self) -> None:
        self.file = read_job_file(VAN.read_bytes())
        self.vehicle = vehicle_at(vehicle_of(self.file), "planned")
        self.solved = {each.id: profile(self.vehicle, each, RULES) for each in self.vehicle.circuits.values()}

    def test_it_shows_every_verdict_and_family_the_walk_needs(self) -> None:
        words = [solved.verdict.word for solved in self.solved.values()]
        self.assertGreaterEqual(words.count("pass"), 1)
        self.assertEqual(words.count("marginal"), 1)
        self.assertGreaterEqual(words.count("fail"), 1)
        self.assertLessEqual({"charging", "starting", "ground", "feed"}, {each.family for each in self.file.circuits})
        measured = {reading.circuit for reading in self.file.readings if reading.circuit}
        self.assertTrue(measured and measured < set(self.vehicle.circuits))

    def test_its_readings_can_be_judged(self) -> None:
        """As expected, all but the one that was superseded and those of a fault that was traced; before and after."""
        study, corrected = Study(vehicle_of(self.file), RULES), {each.supersedes for each in self.file.readings}
        traced = {reading for case in self.file.cases for reading in case.readings}
        for reading in self.file.readings:
            if reading.id in traced:
                continue
            judged = study.judge.judged(Logged(reading, reading.circuit, reading.current_a, reading.lead_offset))
            if reading.id in corrected:
                self.assertEqual(judged.outcome.compared, "higher")
            elif judged.drop is not None:
                self.assertEqual(judged.drop.compared, "as expected", reading.id)
            else:
                self.assertEqual(judged.outcome.compared, "as expected", reading.id)

    def test_a_broken_file_of_version_1_is_refused_as_any_other(self) -> None:
        path = Path(__file__).parent / "version_1" / "market-van.json"
        document = json.loads(path.read_text())
        document["circuits"][0]["id"] = ["no", "id"]
        document["readings"][0] = {"circuit": {}, "stage": 3}
        with self.assertRaises(JobFileError):
            read_job_file(json.dumps(document))

    def test_files_of_version_1_are_carried_over(self) -> None:
        """All demo files as they were: a drop stays the same number, read in the state its circuit is judged in."""
        for path in sorted(Path(__file__).parent.joinpath("version_1").glob("*.json")):
            before, after = json.loads(path.read_text()), read_job_file(path.read_text())
            states = {each["id"]: each.get("state", "idle") for each in before["circuits"]}
            for old, new in zip(before["readings"], after.readings, strict=True):
                self.assertEqual((old["value_v"], old["instrument"]), (new.value, new.meter))
                self.assertEqual((new.quantity, new.situation.state), ("voltage", states[old["circuit"]]))
                self.assertEqual(new.situation.stage, old.get("stage", "planned"))
            again = write_job_file(after)
            self.assertEqual((json.loads(again)["version"], write_job_file(read_job_file(again))), (3, again))

    def test_what_a_file_of_version_2_has_was_seen(self) -> None:
        text = Path(__file__).parent.joinpath("version_2", "vineyard-tractor.json").read_text()
        job = read_job_file(text)
        self.assertEqual({each.known for each in (*job.segments, *job.devices)}, {"seen"})
        self.assertEqual(job, read_job_file(text.replace('"version": 2', '"version": 3')))


class BrokenFiles(TestCase):
    def setUp(self) -> None:
        self.good: dict[str, Any] = json.loads(VAN.read_text())

    def _refused(self, *path: str | int, value: Any) -> str:
        broken = deepcopy(self.good)
        place = broken
        for step in path[:-1]:
            place = place[step]
        place[path[-1]] = value
        with self.assertRaises(PercorsoError) as caught:
            read_job_file(json.dumps(broken))
        return str(caught.exception)

    def test_each_problem_is_named_with_its_place(self) -> None:
        for path, value, hint in [
            (("version",), 4, "$.version: this file has version 4; this Percorso reads up to 3"),
            (("format",), "other", "$.format"),
            (("nominal_v",), 13, "$.nominal_v"),
            (("segments", 0, "spec", "length_m"), -1, "$.segments[0].spec.length_m: length must be above 0"),
            (("segments", 0, "spec", "size"), "11 mm2", "not a standard size"),
            (("segments", 2, "spec", "resistance_ohm"), -0.1, "$.segments[2].spec.resistance_ohm"),
            (("segments", 1, "id"), "w1", '$.segments[1].id: "w1" is already at $.segments[0].id'),
            (("devices", 1, "id"), "w1", '$.devices[1].id: "w1" is already at $.segments[0].id'),
            (("circuits", 0, "supply"), [], "no supply side"),
            (("circuits", 0, "supply", 0), "w99", '$.circuits[0].supply[0]: there is no segment "w99"'),
            (("circuits", 0, "source_point"), "nowhere", "there is no point"),
            (("circuits", 0, "device_id"), "nobody", "$.circuits[0].device_id: there is no device"),
            (("devices", 0, "terminals", "+"), "nowhere", "$.devices[0].terminals.+: there is no point"),
            (("devices", 0, "terminals", "87"), "b-plus", "a battery has no terminal 87"),
            (("devices", 1, "spec", "at_6000_a"), 1, "does not make less at 6000 rpm"),
            (("inputs", 0, "by_state", "idle"), "sideways", 'cannot be "sideways"'),
            (("points", 0, "name"), "<script>", "not allowed"),
            (("points", 0, "name"), "\ud800", "$.points[0].name"),
            (("devices", 7, "spec", "rated_w"), 60, "$.devices[7].spec.rated_a: 60 W at 13.2 V draw 4.55 A, not 16.5"),
            (("devices", 7, "spec", "duty_percent"), 0, "$.devices[7].spec.duty_percent"),
            (("devices", 1, "spec", "output"), "1800", "$.devices[1].spec.output: write points as rpm and ampere"),
            (
                ("scenarios", 0, "duty_percent"),
                {"x": 5},
                "$.scenarios[0].duty_percent.x: Market, engine",
            ),
            (("scenarios", 0, "id"), "idle-day-rain", "is a standard scenario; call yours otherwise"),
            (("scenarios", 0, "outside_c"), "90 C", "$.scenarios[0].outside_c"),
            (("drives", 0, "id"), "motorway", "is one of the usual drives; call yours otherwise"),
            (
                ("drives", 0, "spells", 1, "scenario"),
                "x",
                '$.drives[0].spells[1].scenario: there is no scenario "x"',
            ),
            (("drives", 0, "spells", 1, "minutes"), 0, "$.drives[0].spells[1].minutes"),
            (("drives", 0, "spells"), [], "$.drives[0].spells"),
            (("segments", 0, "spec", "length_m"), True, "$.segments[0].spec.length_m: yes or no is no"),
            (("segments", 0, "spec", "bundle"), True, "$.segments[0].spec.bundle: yes or no is no answer"),
            (("devices", 0, "spec", "capacity_ah"), 1e-300, "$.devices[0].spec.capacity_ah"),
            (
                ("devices", 7, "spec", "max_v"),
                11,
                "$.devices[7].spec.min_v: it cannot need 12 V and be good for only 11 V",
            ),
            (
                ("devices", 7, "spec", "locked_a"),
                18,
                "$.devices[7].spec.locked_a: standing it draws more than the 18 A",
            ),
            (("devices", 10, "spec", "min_v"), 1e-300, "$.devices[10].spec.min_v"),
            (("devices", 10, "spec", "min_v"), 1, "$.devices[10].spec.min_v: a supply of 13.2 V works from 1.32 V"),
            (("circuits", 0, "source_v"), 90, "$.circuits[0].source_v: a source of a 12 V vehicle has 3.6 to 18 V"),
            (("circuits", 0, "target_value"), 99, "$.circuits[0].target_value: that leaves 99 V to lose of 14.2 V"),
            (("circuits", 7, "target_value"), 21, "$.circuits[7].target_value: that leaves -7.4 V to lose of 13.6 V"),
            (("readings", 0, "supersedes"), "r2", '"r2" was not taken before'),
            (("readings", 0, "taken_at"), "0001-01-01T00:00:00+14:00", "not a time"),
        ]:
            with self.subTest(path):
                self.assertIn(hint, self._refused(*path, value=value))

    def test_what_would_be_no_physics_is_refused(self) -> None:
        """An LED at or under its 2 V, a motor that draws less standing than running (facts of the trade)."""
        for spec, field in [
            ({"kind": "indicator lamp", "technology": "LED", "rated_v": 2.0, "rated_a": 0.02}, "rated_v"),
            ({"kind": "indicator lamp", "technology": "LED", "rated_v": 1.8, "rated_a": 0.02}, "rated_v"),
            ({"kind": "motor", "rated_v": 12, "rated_a": 20, "locked_a": 20}, "locked_a"),
            ({"kind": "motor", "rated_v": 12, "rated_a": 20.5, "locked_a": "20 A"}, "locked_a"),
            ({"kind": "battery", "capacity_ah": 70}, "cold_cranking_a"),
        ]:
            with self.subTest(spec), self.assertRaises(ValidationError) as caught:
                DEVICE_SPEC.validate_python(spec)
            [problem] = caught.exception.errors()
            self.assertEqual(getattr(problem["ctx"]["error"], "field", None), (field,))

    def test_a_zone_that_is_left_out_has_its_usual_temperature(self) -> None:
        job = read_job_file(json.dumps(self.good | {"zone_temperature_c": {"cabin": 40}}))
        self.assertEqual(vehicle_of(job).zone_temperature_c, {**ZONE_TEMPERATURE_C, "cabin": 40})
        empty = read_job_file(json.dumps(self.good | {"zone_temperature_c": {}}))
        self.assertEqual(empty.zone_temperature_c, ZONE_TEMPERATURE_C)

    def test_a_hundred_problems_are_listed_and_the_rest_counted_at_once(self) -> None:
        """Files that took minutes or were answered with megabytes: linear in their length, and short."""
        doubled = "{" + ",".join(f'"{name}": 1' for name in [*range(20_000), *range(20_000)]) + "}"
        points = json.dumps(self.good | {"points": [{"id": "x" * 90, "name": "n" * 60}] * 20_000})
        for text, hint in ((doubled, "stands twice"), (points, "more like these")):
            with self.subTest(hint):
                refused = in_time(5, partial(self._refusal_of, text))
                self.assertIn(hint, refused.problems[-1].message)
                self.assertLessEqual(len(refused.problems), 101)
                self.assertLess(len(str(refused)), 50_000)

    def _refusal_of(self, text: str) -> JobFileError:
        with self.assertRaises(JobFileError) as caught:
            read_job_file(text)
        return caught.exception

    def test_all_problems_come_at_once(self) -> None:
        broken = deepcopy(self.good)
        broken["segments"][0]["spec"]["length_m"] = -1
        broken["segments"][3]["to_point"] = "nowhere"
        broken["points"][1]["id"] = broken["points"][0]["id"]
        with self.assertRaises(JobFileError) as caught:
            read_job_file(json.dumps(broken))
        paths = {problem.path for problem in caught.exception.problems}
        self.assertLessEqual({"$.segments[0].spec.length_m", "$.segments[3].to_point", "$.points[1].id"}, paths)

    def test_a_file_that_is_no_job_at_all(self) -> None:
        deep = b'{"format":' + b"[" * 100_000 + b"]" * 100_000 + b"}"
        for text, hint in [
            (b"", "not complete JSON"),
            (b"[]", "$.format"),
            (VAN.read_bytes()[:500], "not complete JSON: line"),
            (b"\xff\xfe{}", "not UTF-8"),
            (VAN.read_text().encode("utf-16"), "not UTF-8"),
            (VAN.read_bytes().replace(b'"length_m": 0.6', b'"length_m": NaN'), "NaN is not a number"),
            (VAN.read_bytes().replace(b'"length_m": 0.6', b'"length_m": 1e999'), "$.segments[0].spec.length_m"),
            (b'{"format": "percorso-job", "format": "percorso-job"}', "stands twice"),
            (deep, "nested more than 12 deep"),
            (b'{"format": "percorso-job", "version": ' + b"9" * 4000 + b"}", "too long: 4000 digits"),
            (b'{"format": "percorso-job", "name": "\\ud800"}', "half a character"),
            (b" " * 50_000_000, "larger than 5 MB"),
        ]:
            with self.subTest(hint), self.assertRaisesRegex(JobFileError, re.escape(hint)):
                read_job_file(text)

    def test_brackets_in_a_note_are_no_nesting(self) -> None:
        note = 'a "[[[[[[[[[[[[[[[[[[[[" in a note \\'
        self.assertEqual(read_job_file(json.dumps(self.good | {"wish": note})).wish, note)

    def test_a_file_is_the_same_after_reading_and_writing(self) -> None:
        for path in VAN.parent.glob("*.json"):
            once = write_job_file(read_job_file(path.read_bytes()))
            self.assertEqual(write_job_file(read_job_file(once)), once)
            vehicle, again = (vehicle_of(read_job_file(text)) for text in (path.read_bytes(), once))
            self.assertEqual(vehicle.segments, again.segments)
            self.assertEqual(vehicle.devices, again.devices)
            self.assertEqual((vehicle.scenarios, vehicle.drives), (again.scenarios, again.drives))

    def test_under_other_ids_it_is_the_same_vehicle(self) -> None:
        """A copy's scenarios set the copy's loads, and its drives pass the copy's scenarios."""
        with_own = deepcopy(self.good)
        with_own["drives"][0]["spells"][0]["scenario"] = "market"
        vehicle = vehicle_of(read_job_file(json.dumps(with_own)))
        numbers = count()
        new = new_ids(vehicle, lambda: f"n{next(numbers)}")
        copied = with_ids(vehicle, new)
        [scenario], [drive] = copied.scenarios.values(), copied.drives.values()
        self.assertEqual(scenario.duty_percent, {new.devices["m2"]: 60, new.devices["a3"]: 0})
        self.assertEqual([each.scenario for each in drive.spells][:2], [scenario.id, "idle-night-winter"])
        before, after = (
            draw_up(each, "planned", HouseRules(), next(iter(each.drives.values()))) for each in (vehicle, copied)
        )
        self.assertEqual([each.demand_a for each in before.balances], [each.demand_a for each in after.balances])
        assert before.driven and after.driven
        self.assertEqual(before.driven.charge_percent, after.driven.charge_percent)

    def test_the_published_schema_is_the_one_that_is_read(self) -> None:
        """A general validator accepts every demo job against docs/job-file.schema.json, and refuses a broken one."""
        schema = json.loads((VAN.parents[1] / "docs" / "job-file.schema.json").read_text())
        self.assertEqual(schema, job_file_schema())
        validator = Draft202012Validator(schema)
        for path in VAN.parent.glob("*.json"):
            validator.validate(json.loads(path.read_text()))
            validator.validate(json.loads(write_job_file(read_job_file(path.read_bytes()))))
        self.assertFalse(validator.is_valid(self.good | {"version": 4}))


class HouseRulesMatter(TestCase):
    def test_each_rule_moves_its_verdict(self) -> None:
        """Same van, other house: the cautious one calls close what the other passes, and accepts other readings."""
        vehicle = vehicle_of(read_job_file(VAN.read_bytes()))
        lamps = vehicle.circuits["work-lamps"]
        cautious = HouseRules(close_fraction=0.5, expected_tolerance=0.01, min_test_current_fraction=1.0)
        self.assertEqual(profile(vehicle, lamps, RULES).verdict.word, "pass")
        solved = profile(vehicle, lamps, cautious)
        self.assertEqual(solved.verdict.word, "marginal")
        with self.assertRaisesRegex(PercorsoError, "100%"):
            judge_reading(vehicle, lamps, solved, DropReading("b-plus", "lamp-plus", 0.49, 13.4), cautious)
        strict = judge_reading(vehicle, lamps, solved, DropReading("b-plus", "lamp-plus", 0.60, 14), cautious)
        self.assertEqual(strict.compared, "higher")
