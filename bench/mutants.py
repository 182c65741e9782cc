"""Changes what sizes, judges and traces in small ways, and lists the changes that no test notices."""

import os
import random
import shutil
import sqlite3
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Collection, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from ops.application import ONE_THREAD_EACH, ROOT

SEED = 12  # the same choice each time
CHANGED = (
    "circuits/verdict.py",
    "components/fuses.py",
    "sizing/ampacity.py",
    "sizing/protection_zones.py",
    "sizing/wire_size.py",
    "faults",
    "load_budget",
    "states",
    "tracing",
    "verification",
)
# The tests that should notice, those that take longest last: the first that fails ends the try.
TESTS = (
    "tracing.test_rules_of_readings",
    "components.test_fuses",
    "planning.test_new_circuit",
    "circuits.test_worst_currents",
    "circuits.test_voltage_profile",
    "load_budget.test_advice",
    "verification.test_readings",
    "faults.test_effects",
    "verification.test_measuring",
    "test_properties",
    "sizing.test_what_is_said",
    "load_budget.test_balance",
    "load_budget.test_drive",
    "findings.test_mistakes",
    "verification.test_situation",
    "states.test_cold_start",
    "load_budget.test_operation",
    "findings.test_judgement",
    "verification.test_expected",
    "verification.test_checks",
    "tracing.test_rules_of_tracing",
    "states.test_matrix",
    "sizing.test_recommendation",
    "tracing.test_blown",
    "tracing.test_classics",
    "tracing.test_batch",
    "tracing.test_evidence",
    "tracing.test_mended",
    "states.test_proof",
    "tracing.test_trace",
)
TIMEOUT_S = 600
JOBS = "SELECT job_id FROM mutation_specs"
ONLY_IN_TYPES = "core/ReplaceBinaryOperator_BitOr_%"  # fails at import, whatever the tests are


def main(most: int | None) -> None:
    """Try every change, or so many by chance, on every processor, and print those that survive."""
    processors = os.cpu_count() or 1
    with tempfile.TemporaryDirectory(prefix="percorso-mutants-") as folder:
        copies = [_copy_of_the_core(Path(folder, str(number))) for number in range(processors)]
        _cosmic_ray(copies[0], "baseline", _configured(copies[0], CHANGED, TESTS))
        with ThreadPoolExecutor(processors) as pool:
            shares = pool.map(lambda number: list(_tried(copies[number], most, number, processors)), range(processors))
            outcomes = [outcome for share in shares for outcome in share]
    print(*(diff for outcome, diff in outcomes if outcome == "SURVIVED"), sep="\n")
    told = Counter(outcome for outcome, _ in outcomes)
    print(f"{len(outcomes)} changes tried, {told['SURVIVED']} noticed by no test; {dict(told)}")


def _copy_of_the_core(folder: Path) -> Path:
    shutil.copytree(ROOT / "core", folder / "core", ignore=shutil.ignore_patterns("*.egg-info", "build"))
    shutil.copytree(ROOT / "demo", folder / "demo")
    return folder


def _tried(copy: Path, most: int | None, number: int, processors: int) -> Iterator[tuple[str, str]]:
    """Outcome and difference of this processor's share: package by package, each with its own tests first."""
    config = _configured(copy, CHANGED, TESTS)
    _cosmic_ray(copy, "init", config, "all.sqlite")
    with sqlite3.connect(copy / "all.sqlite") as session:
        _keep(session, set(_drawn(session, most)[number::processors]))
    for changed in CHANGED:
        package = changed.split("/")[0]
        own_first = sorted(TESTS, key=lambda test: not test.startswith(package))
        one = shutil.copy(copy / "all.sqlite", copy / "package.sqlite")
        with sqlite3.connect(one) as session:
            path = f"core/percorso/{changed}%"
            _keep(session, {job for (job,) in session.execute(JOBS + " WHERE module_path LIKE ?", (path,))})
        _cosmic_ray(copy, "exec", _configured(copy, (changed,), own_first), "package.sqlite")
        with sqlite3.connect(one) as session:
            yield from session.execute("SELECT test_outcome, diff FROM work_results")


def _drawn(session: sqlite3.Connection, most: int | None) -> list[str]:
    order = "module_path, start_pos_row, start_pos_col, operator_name, occurrence"
    chosen = session.execute(f"{JOBS} WHERE operator_name NOT LIKE ? ORDER BY {order}", (ONLY_IN_TYPES,))
    every = [job for (job,) in chosen]
    random.Random(SEED).shuffle(every)
    return every[:most]


def _keep(session: sqlite3.Connection, kept: Collection[str]) -> None:
    for (job,) in session.execute(JOBS).fetchall():
        if job not in kept:
            for table in ("mutation_specs", "work_items"):
                session.execute(f"DELETE FROM {table} WHERE job_id = ?", (job,))


def _configured(copy: Path, changed: Iterable[str], tests: Iterable[str]) -> str:
    paths = ", ".join(f'"core/percorso/{path}"' for path in changed)
    command = " ".join(["python -m unittest -q -f", *(f"core.tests.{test}" for test in tests)])
    (copy / "mutants.toml").write_text(
        f"[cosmic-ray]\nmodule-path = [{paths}]\ntimeout = {TIMEOUT_S}.0\n"
        f'excluded-modules = ["core/percorso/*/__init__.py"]\ntest-command = "{command}"\n'
        '[cosmic-ray.distributor]\nname = "local"\n'
    )
    return "mutants.toml"


def _cosmic_ray(copy: Path, *command: str) -> None:
    environment = {
        **os.environ,
        **ONE_THREAD_EACH,
        "PATH": f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}",
        "PYTHONPATH": f"{copy / 'core'}{os.pathsep}{copy}",
        "PYTHONDONTWRITEBYTECODE": "1",
    }
    subprocess.run(["cosmic-ray", *command], cwd=copy, env=environment, check=True)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else None)
