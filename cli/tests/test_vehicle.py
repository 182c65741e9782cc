"""The command ``percorso vehicle``: questions as JSON, a job file that other commands read, and plain refusals."""

import json
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

from click.testing import CliRunner

from percorso_cli.main import cli


def answered(*arguments: str) -> str:
    done = CliRunner().invoke(cli, ["vehicle", *arguments])
    assert done.exit_code == 0, done.output
    return done.output


class UsualVehicle(TestCase):
    def test_its_questions_say_what_can_be_answered_and_what_is_usual(self) -> None:
        asked = json.loads(answered("--questions"))["questions"]
        self.assertEqual({"key", "asks", "choices", "usual"}, *({*each} for each in asked[:1]))
        self.assertIn("Horn", asked[-1]["any_of"])
        for each in asked[:-1]:
            self.assertIn(each["usual"], each["choices"])
            for choice in each["choices"]:
                job = json.loads(answered("--answer", f"{each['key']}={choice}"))
                self.assertGreater(len(job["segments"]), 40, (each["key"], choice))

    def test_what_it_lays_is_read_by_the_others(self) -> None:
        """A start relay clicks on what the key gives it; without its fuse the starter gets nothing at 50."""
        with TemporaryDirectory() as folder:
            job = Path(folder, "job.json")
            job.write_text(answered("--answer", "starting=start relay", "--answer", "kind=van"))
            where = ["solve", str(job), "--stage", "found", "--state", "cranking"]
            turning = CliRunner().invoke(cli, where).output
            pulled = CliRunner().invoke(cli, [*where, "--with", "pull F4"]).output
        self.assertRegex(turning, "M1 Starter: turns at")
        self.assertNotIn("turns at", pulled)
        self.assertRegex(pulled, "K1 Start relay: pulled in")

    def test_a_wrong_answer_is_refused_with_what_there_is(self) -> None:
        for answer, says in (
            ("kind=tank", 'kind: "tank" is no answer; there is car, pickup, van, minibus, tractor'),
            ("colour=red", '"colour" is not asked; there is kind, system,'),
            ("kind", '"kind" is no answer; write for example'),
        ):
            done = CliRunner().invoke(cli, ["vehicle", "--answer", answer])
            self.assertNotEqual(done.exit_code, 0)
            self.assertIn(says, done.output)
