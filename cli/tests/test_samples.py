"""Every command that the README shows, as it stands there: it says what is shown under it, line by line."""

import subprocess
from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

from cli.tests.test_cli import PERCORSO

ROOT = Path(__file__).parents[2]
LEFT_OUT = "…"  # a line that stands for any number of others, or at the end of one for the rest of it


def samples() -> Iterator[tuple[str, list[str]]]:
    """The commands of the README, each with the lines that are shown under it."""
    for block in (ROOT / "README.md").read_text().split("```")[1::2]:
        for sample in ("\n" + block.strip("\n")).split("\n$ ")[1:]:
            command, *shown = sample.split("\n")
            yield command.split(" && ")[0], shown


class Samples(TestCase):
    def test_each_says_what_is_shown(self) -> None:
        with TemporaryDirectory() as folder:
            (Path(folder) / "demo").symlink_to(ROOT / "demo")
            (Path(folder) / ".venv" / "bin").mkdir(parents=True)
            (Path(folder) / ".venv" / "bin" / "percorso").symlink_to(PERCORSO)
            for command, shown in samples():
                with self.subTest(command):
                    done = subprocess.run(command, shell=True, cwd=folder, capture_output=True, text=True, check=False)
                    self.assertEqual(done.stderr, "")
                    self._shows(done.stdout.rstrip("\n").split("\n"), shown)

    def _shows(self, said: list[str], shown: list[str]) -> None:
        """Each line follows the one before it, but where lines are left out."""
        at, skips = 0, not shown  # what shows nothing may say anything
        for line in shown:
            if line == LEFT_OUT:
                skips = True
                continue
            fits = [place for place in range(at, len(said)) if _is_shown(said[place], line)]
            self.assertTrue(fits, f"{line} is not said in: {said[at : at + 12]}")
            self.assertTrue(skips or fits[0] == at, f"{said[at]} is said before {line}")
            at, skips = fits[0] + 1, False
        self.assertTrue(skips or at == len(said), f"{said[at:]} is said after what is shown")


def _is_shown(said: str, line: str) -> bool:
    begins = line.removesuffix(LEFT_OUT)
    return said == line if begins == line else said.startswith(begins)
