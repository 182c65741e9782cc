"""The commands faults, trace and measure together find what is hidden."""

import json
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

from cli.tests.test_cli import DEMO, run

TRACTOR = str(DEMO / "vineyard-tractor.json")


class Tracing(TestCase):
    def test_a_question_left_open_is_looked_at_and_answered(self) -> None:
        """Nobody said how the starter of this car is pulled in; somebody looks, and then there is one wiring."""
        said = {"interlock": "nothing", "charging": "lamp", "charge_to": "battery", "main_feed": "strip fuse"}
        answers = [("--answer", f"{key}={choice}") for key, choice in (said | {"grounds": "body and engine"}).items()]
        with TemporaryDirectory() as folder:
            job, readings = str(Path(folder, "car.json")), Path(folder, "readings.json")
            Path(job).write_text(run("vehicle", *(each for pair in answers for each in pair)).stdout)
            asked = ("trace", job, "--symptom", "does nothing when cranked", "--stage", "found")
            found = json.loads(run(*asked, "--json").stdout)
            self.assertEqual(len(found["wirings"]), 4)
            look = found["next"][0]
            self.assertEqual((look["quantity"], look["question"]), ("look", "starting"))
            self.assertIn("next: look: What pulls the starter in?", run(*asked).stdout)
            for outcome, says in (("start relay", ""), ("a spring", "is no answer")):
                readings.write_text(json.dumps([{"quantity": "look", "question": "starting", "outcome": outcome}]))
                told = run(*asked, "--readings", str(readings), "--json")
                self.assertIn(says, told.stderr)
                if not says:
                    self.assertNotIn("wirings", json.loads(told.stdout))

    def test_a_hidden_fault_is_traced_by_measuring_what_is_asked_next(self) -> None:
        """A control-side break: measured and traced in turns until one part is known."""
        hidden = next(
            each
            for each in json.loads(run("faults", TRACTOR, "--json").stdout)["faults"]
            if (each["part"], each["fault"]) == ("w8", "open")
        )
        with TemporaryDirectory() as folder:
            readings, fault = Path(folder, "readings.json"), Path(folder, "fault.json")
            fault.write_text(json.dumps({key: each for key, each in hidden.items() if key != "weight"}))
            said = {"state": "cranking", "stage": "planned"}
            known = [{"quantity": "seen", "device": "m1", "situation": said, "outcome": "dead"}]
            for _ in range(10):
                readings.write_text(json.dumps(known))
                found = json.loads(run("trace", TRACTOR, "--readings", str(readings), "--json").stdout)
                if found["stop"]:
                    break
                readings.write_text(json.dumps(found["next"][:1]))
                more = ("--measurements", str(readings), "--fault", str(fault), "--noise", "1", "--json")
                known += json.loads(run("measure", TRACTOR, *more).stdout)
            again = [known[each["reading"]] for each in found["again"]]
            readings.write_text(json.dumps(again))
            right = json.loads(run("measure", TRACTOR, "--measurements", str(readings), "--json").stdout)
            readings.write_text(json.dumps([*known, {"mended": "W8"}, *right]))
            self.assertIn("nothing has to be bad", run("trace", TRACTOR, "--readings", str(readings)).stdout)
            since = json.loads(run("trace", TRACTOR, "--readings", str(readings), "--json").stdout)
        self.assertTrue(since["is_as_planned"])
        self.assertGreater(since["sound"], 0.9)
        self.assertEqual((since["again"], since["next"]), ([], []))
        self.assertEqual(found["stop"]["part"], "w8")
        self.assertGreater(found["suspects"][0]["probability"], 0.5)
        self.assertAlmostEqual(
            sum(each["probability"] for each in found["suspects"]) + found["not_described"] + found["sound"],
            1,
            places=1,
        )
        first = run("trace", TRACTOR, "--symptom", "does nothing when cranked")
        self.assertIn("next: ", first.stdout)
        suspected = run("trace", TRACTOR, "--symptom", "does nothing when cranked", "--suspect", "W8", "--json").stdout
        of_w8 = [each for each in json.loads(suspected)["suspects"] if each["part"] == "w8"]
        self.assertTrue(all("suspected" in each["because"] for each in of_w8) and of_w8)
        self.assertIn("--suspect", run("trace", TRACTOR, "--suspect", "W99").stderr)
        self.assertIn("say which device", run("trace", TRACTOR, "--symptom", "device dead").stderr)
