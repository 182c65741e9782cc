"""The floor plan: each package of the core says in its ``__init__`` which of its modules others may use."""

from importlib import import_module
from pathlib import Path
from unittest import TestCase

import grimp

import percorso

CORE = Path(percorso.__file__).parent
PACKAGES = sorted(each.parent.name for each in CORE.glob("*/__init__.py") if each.parent.name != "tables")
ROOTS = (
    "percorso",
    "percorso_cli",
    "config",
    "workshop",
    "jobs",
    "network",
    "budget",
    "verification",
    "sheets",
    "job_files",
)
LONGEST_MODULE = 350  # lines


class FloorPlan(TestCase):
    def test_only_what_a_package_offers_is_used_from_outside(self) -> None:
        graph = grimp.build_graph(*ROOTS, cache_dir=None)
        for package in PACKAGES:
            whole = f"percorso.{package}"
            offered = set(import_module(whole).__all__)
            for module in graph.find_descendants(whole):
                name = module.removeprefix(f"{whole}.").split(".")[0]
                for user in graph.find_modules_that_directly_import(module):
                    if not user.startswith(f"{whole}.") and ".tests" not in user:
                        self.assertIn(name, offered, f"{user} uses {module}")

    def test_what_is_offered_is_there_and_every_package_and_module_says_what_it_is_for(self) -> None:
        for package in PACKAGES:
            there = {each.stem for each in (CORE / package).iterdir()}
            self.assertLessEqual(set(import_module(f"percorso.{package}").__all__), there)
        for path in (*CORE.rglob("*.py"), *CORE.rglob("*.pyx")):
            with self.subTest(path.name):
                text = path.read_text()
                self.assertIn('"""', text[:120])
                self.assertLessEqual(text.count("\n"), LONGEST_MODULE)
