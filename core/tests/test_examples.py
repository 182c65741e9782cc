"""What the docstrings show is what comes, and every reference that they give stands in the list."""

import ast
import doctest
import re
from importlib import import_module
from pathlib import Path
from unittest import TestCase

import percorso
from core.tests.support.demo import DEMO, demo

WITH_EXAMPLES = (
    "planning.templates",
    "sizing.wire_size",
    "network.operating_point",
    "states.matrix",
    "states.proof",
    "verification.judging.expected",
    "load_budget.budget",
    "tracing.trace",
)


USED = {
    name: getattr(import_module(f"percorso.{module}"), name)
    for module, name in (
        ("house_rules", "HouseRules"),
        ("network.operating_point", "Network"),
        ("vehicle.stages", "vehicle_at"),
        ("verification.measured.measurements", "Measurement"),
        ("verification.measured.measurements", "Situation"),
    )
}


class Examples(TestCase):
    def test_each_says_what_is_shown(self) -> None:
        """What a newcomer calls first, on the demo's van and bus."""
        vehicles = {"van": demo("market-van"), "bus": demo("school-minibus")}
        for name in WITH_EXAMPLES:
            with self.subTest(name):
                module = import_module(f"percorso.{name}")
                told = doctest.testmod(module, extraglobs=vehicles | USED)
                self.assertEqual((told.failed, told.attempted > 1), (0, True))

    def test_every_reference_stands_in_the_list(self) -> None:
        listed = set(re.findall(r"(?m)^(\d+)\. ", (DEMO.parent / "docs" / "references.md").read_text()))
        for path in Path(percorso.__file__).parent.rglob("*.py"):
            given = {
                number
                for node in ast.walk(ast.parse(path.read_text()))
                if isinstance(node, ast.FunctionDef | ast.ClassDef | ast.Module)
                for number in re.findall(r"(?<= )\[(\d+)\]", re.sub(">>>.*", "", ast.get_docstring(node) or ""))
            }
            self.assertLessEqual(given, listed, path.name)
