"""What is shipped is whole: built as wheels and run where nothing else of this repository is."""

import shutil
import subprocess
import sys
import sysconfig
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

ROOT = Path(__file__).resolve().parents[2]
RUN = "import sys; sys.path[:0] = sys.argv[1:3]; del sys.argv[1:3]; from percorso_cli.main import main; main()"


class Wheels(TestCase):
    def test_the_budget_runs_from_installed_wheels(self) -> None:
        with TemporaryDirectory() as folder:
            wheels, installed = Path(folder, "wheels"), Path(folder, "installed")
            build = ("wheel", "--quiet", "--no-deps", "--no-build-isolation", "--wheel-dir", wheels)
            for part in ("core", "cli"):
                source = Path(folder, part)  # a copy: building leaves its traces beside what it builds
                shutil.copytree(ROOT / part, source, ignore=shutil.ignore_patterns("*.egg-info", "build", "*.so"))
                self._pip(*build, source)
            self._pip("install", "--quiet", "--no-deps", "--no-index", "--target", installed, *wheels.glob("*.whl"))
            libraries = sysconfig.get_path("purelib")
            command = [sys.executable, "-S", "-c", RUN, installed, libraries, "budget", ROOT / "demo/market-van.json"]
            found = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
            self.assertIn("idle, winter night", found.stdout, found.stderr)
            told = subprocess.run(
                [sys.executable, "-S", "-c", "import sys; sys.path[:0] = sys.argv[1:]; import percorso; "
                 "print(percorso.__file__)", installed, libraries],
                capture_output=True, text=True, check=True,
            )  # fmt: skip
            self.assertTrue(told.stdout.startswith(str(installed)), told.stdout)

    def _pip(self, *arguments: object) -> None:
        subprocess.run([sys.executable, "-m", "pip", *map(str, arguments)], check=True, capture_output=True)
