"""Every pattern that reads text from outside takes a moment for a long text of what is worst for it."""

import ast
import subprocess
import sys
from collections.abc import Iterator
from unittest import TestCase

from core.tests.support.demo import DEMO

ROOT = DEMO.parent
FOREVER_SECONDS = 300  # one or two for all of them, where each reads a character once; hours where not
# The modules with patterns of their own, and what reads with them; each is handed each text.
READERS = {
    "core/percorso/json_text.py": "json_text.read_json",
    "core/percorso/names.py": "adapter(names.Identifier).validate_python",
    "core/percorso/files/job_file.py": "adapter(job_file.FilePhoto.__annotations__['sha256']).validate_python",
    "core/percorso/quantities.py": "parsed",
    "core/percorso/vehicle/devices.py": "devices._points",
    "core/percorso/vehicle/model.py": "model._letters_and_numbers",
    "core/percorso/verification/bench/scpi_meter.py": "scpi_meter._header",
    "server/percorso_server/jobs/schemas.py": "None",  # names
    "server/percorso_server/jobs/searching.py": "None",  # only names and notes, without a choice of ways to match
}
LETTERS = 200_000
PIECES = ('\\"', '"\\', '["', "1", "1 ", " ", "1ft ", "1.", "1e", "1 :", "1rpm ", "W1", "?:", "\n")
TRIED = """
from pydantic import TypeAdapter as adapter
from percorso import json_text, names, quantities
from percorso.files import job_file
from percorso.vehicle import devices, model
from percorso.verification.bench import scpi_meter

def parsed(text):
    for kind in quantities.KINDS.values():
        try:
            quantities.parse(text, kind)
        except ValueError:
            quantities.parse_size(text)

for reads in ({readers}):
    for piece in {pieces}:
        for text in (piece * ({letters} // len(piece)), "1" + piece * ({letters} // len(piece)) + "1x"):
            try:
                reads and reads(text)
            except ValueError:
                pass
"""


def with_patterns() -> Iterator[str]:
    """Every module of ours in which a pattern is written."""
    for folder in ("core/percorso", "server", "cli/percorso_cli"):
        for path in sorted((ROOT / folder).rglob("*.py")):
            tree = ast.walk(ast.parse(path.read_text()))
            if "tests" not in path.parts and any(_is_pattern(each) for each in tree):
                yield str(path.relative_to(ROOT))


def _is_pattern(node: ast.AST) -> bool:
    match node:
        case ast.Call(func=ast.Attribute(value=ast.Name(id="re"))) | ast.keyword(arg="pattern"):
            return True
    return False


class Patterns(TestCase):
    def test_each_reads_a_long_text_of_its_worst(self) -> None:
        self.assertEqual(set(with_patterns()), set(READERS))
        script = TRIED.format(readers=", ".join(READERS.values()), pieces=PIECES, letters=LETTERS)
        done = subprocess.run(
            [sys.executable, "-c", script], timeout=FOREVER_SECONDS, capture_output=True, text=True, check=False
        )
        self.assertEqual((done.returncode, done.stderr), (0, ""))
