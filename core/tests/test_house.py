"""The floor plan: each package of the core says in its ``__init__`` which of its modules others may use."""

import ast
import tomllib
from importlib import import_module
from pathlib import Path
from unittest import TestCase

import grimp

import percorso

CORE = Path(percorso.__file__).parent
HOUSES = sorted(each.parent.relative_to(CORE) for each in CORE.rglob("*/__init__.py") if each.parent.name != "tables")
PACKAGES = [".".join(each.parts) for each in HOUSES]
RULES = tomllib.loads((CORE.parents[1] / "pyproject.toml").read_text())["tool"]["importlinter"]
ROOTS = (*RULES["root_packages"], "ops", "bench")
LONGEST_MODULE = 350  # lines


class FloorPlan(TestCase):
    def test_a_package_offers_what_is_used_from_outside_and_nothing_else(self) -> None:
        graph = grimp.build_graph(*ROOTS, cache_dir=None)
        for package in PACKAGES:
            whole = f"percorso.{package}"
            used = {
                module.removeprefix(f"{whole}.").split(".")[0]
                for module in graph.find_descendants(whole)
                for user in graph.find_modules_that_directly_import(module)
                if not f"{user}.".startswith(f"{whole}.") and ".tests" not in user
            }
            with self.subTest(package):
                self.assertEqual(offered(package), used)

    def test_a_name_is_one_thing(self) -> None:
        """No two classes or types of the core are called the same."""
        places: dict[str, list[str]] = {}
        for path in CORE.rglob("*.py"):
            for each in ast.parse(path.read_text()).body:
                names = [each.name] if isinstance(each, ast.ClassDef) else _assigned(each)
                for name in names:
                    if name[0].isupper() and not name.isupper():
                        places.setdefault(name, []).append(str(path.relative_to(CORE)))
        self.assertEqual({name: each for name, each in places.items() if len(each) > 1}, {})

    def test_what_is_offered_is_there_and_every_package_and_module_says_what_it_is_for(self) -> None:
        for package in PACKAGES:
            there = {each.stem for each in CORE.joinpath(*package.split(".")).iterdir()}
            self.assertLessEqual(offered(package), there)
        for path in (*CORE.rglob("*.py"), *CORE.rglob("*.pyx")):
            with self.subTest(path.name):
                text = path.read_text()
                self.assertIn('"""', text[:120])
                self.assertLessEqual(text.count("\n"), LONGEST_MODULE)


def offered(package: str) -> set[str]:
    """The modules that a package offers; none where all of it stands in its ``__init__``."""
    return set(getattr(import_module(f"percorso.{package}"), "__all__", ()))


def _assigned(statement: ast.stmt) -> list[str]:
    """The names that an assignment gives."""
    targets = statement.targets if isinstance(statement, ast.Assign) else []
    return [each.id for each in targets if isinstance(each, ast.Name)]
