"""Usual vehicles are sound ones: whatever was answered, they start, charge and pass their own rules and tests."""

from dataclasses import replace
from random import Random
from unittest import TestCase

from percorso.errors import UnknownNameError
from percorso.files.job_file import JobHead, job_file_of, vehicle_of, write_job_file
from percorso.files.reading import read_job_file
from percorso.house_rules import HouseRules
from percorso.network.mornings import cranked
from percorso.network.operating_point import Network
from percorso.study import Study
from percorso.usual_vehicles.laying import usual_vehicle
from percorso.usual_vehicles.questions import AND, QUESTIONS
from percorso.vehicle.model import Vehicle
from percorso.vehicle.states import STATES

DRAWN = 40
MORNING_C = -10.0  # common practice for what a sound vehicle must start at


def answered(seed: int) -> dict[str, str]:
    """Answers drawn by chance; the first vehicle is the usual one, and one after the other each choice comes once."""
    chance = {each.key: Random(f"{seed} {each.key}") for each in QUESTIONS}
    answers = {each.key: chance[each.key].choice(each.choices) for each in QUESTIONS}
    several = {each.key: [one for one in each.choices if chance[each.key].random() < 0.6] for each in QUESTIONS}
    answers |= {each.key: AND.join(several[each.key]) for each in QUESTIONS if each.several}
    choices = [(each.key, choice) for each in QUESTIONS for choice in each.choices]
    return {} if seed == 0 else answers | dict(choices[seed % len(choices) :][:1])


class Sound(TestCase):
    def test_whatever_is_answered(self) -> None:
        for seed in range(DRAWN):
            answers = answered(seed)
            with self.subTest(answers):
                vehicle = usual_vehicle(answers)
                self.assertTrue(25 <= len(vehicle.points) <= 100, len(vehicle.points))
                written = write_job_file(job_file_of(JobHead("Came in", "Car", ""), vehicle, []))
                self.assertEqual(vehicle_of(read_job_file(written)).devices, vehicle.devices)
                study = Study(vehicle, HouseRules())
                wrong = [each for each in study.plan_findings("found") if each.severity == "error"]
                for state in STATES:
                    solved = study.solved(state, "found", {})
                    assert solved
                    wrong += [each for each in study.state_findings(state, "found", {}) if each.severity == "error"]
                self.assertEqual(wrong, [])
                self._starts_and_charges(vehicle)
                self._passes_its_tests(study)

    def _starts_and_charges(self, vehicle: Vehicle) -> None:
        self.assertTrue(cranked(vehicle, vehicle.devices["m1"], MORNING_C).starts(vehicle.nominal_v))
        idling = Network(vehicle).solve("idle", {"lights": "on"} if "lights" in vehicle.inputs else {})
        self.assertTrue(idling.devices["g2"].on)
        self.assertTrue("e1" not in idling.devices or idling.devices["e1"].on)
        self.assertLess(idling.devices["g1"].current_a or 0.0, 0)

    def _passes_its_tests(self, study: Study) -> None:
        asked = study.checks("found")
        expected = study.judge.expected([each.measurement for each in asked])
        self.assertGreater(len(asked), 30)
        for check, each in zip(asked, expected, strict=True):
            self.assertTrue(each.outcome or each.value is not None or each.why_not, check.title)
            if check.target and each.value is not None:
                self.assertGreaterEqual(check.target.margin(each.value), 0, check.title)

    def test_by_hand(self) -> None:
        """A car that cranks over a relay: 150 A lose some 0.25 V over 1 m of 50 mm² and back; the key has 0.13 A."""
        vehicle = usual_vehicle({"starting": "start relay", "battery_at": "engine bay", "kind": "car"})
        solution = Network(vehicle).solve("cranking")
        lost_v = (solution.devices["g1"].voltage_v or 0.0) - (solution.devices["m1"].voltage_v or 0.0)
        self.assertAlmostEqual(lost_v, 0.25, delta=0.15)
        self.assertAlmostEqual(abs(solution.segments["s3"].current_a or 0.0), 0.13, delta=0.03)
        self.assertTrue(all(each.origin == "existing" for each in vehicle.segments.values()))

    def test_what_is_noticed_on_it_is_no_fact_before_somebody_looked(self) -> None:
        """A fuse larger than its wire takes; the same sentence as before once both were seen."""
        laid = usual_vehicle({})
        large = laid.segments["f16"].spec.model_copy(update={"rating_a": 30.0})
        assumed = replace(laid, segments={**laid.segments, "f16": replace(laid.segments["f16"], spec=large)})
        seen = replace(assumed, segments={key: replace(each, known="seen") for key, each in assumed.segments.items()})
        found, same = (
            next(one for one in Study(each, HouseRules()).plan_findings("found") if "f16" in one.segment_ids)
            for each in (assumed, seen)
        )
        self.assertTrue(found.assumed)
        self.assertEqual(found.title, same.title)
        self.assertEqual(found.reason.partition(" By what is usual: nobody looked at F16")[0], same.reason)

    def test_an_unknown_answer_says_what_there_is(self) -> None:
        for answers, says in (
            ({"colour": "red"}, '"colour" is not asked; there is kind, '),
            ({"kind": "tank"}, 'kind: "tank" is no answer; there is car, '),
            ({"has": "Horn, Sail"}, 'has: "Sail" is no answer; there is Ignition and injection, '),
        ):
            with self.assertRaises(UnknownNameError) as refused:
                usual_vehicle(answers)
            self.assertIn(says, str(refused.exception))
