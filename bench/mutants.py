"""Changes sizing, protection and verdicts in small ways, in a copy, and lists the changes that no test notices."""

import os
import random
import shutil
import sqlite3
import subprocess
import sys
import tempfile
from pathlib import Path

from ops.application import ONE_THREAD_EACH, ROOT

SEED = 12  # the same choice each time


def main(most: int | None) -> None:
    """Try every change, or so many by chance, and print those that survive."""
    with tempfile.TemporaryDirectory(prefix="percorso-mutants-") as folder:
        copy = Path(folder)
        shutil.copytree(ROOT / "core", copy / "core", ignore=shutil.ignore_patterns("*.egg-info", "build"))
        shutil.copytree(ROOT / "demo", copy / "demo")
        shutil.copy(ROOT / "bench" / "mutants.toml", copy)
        path = f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}"
        paths = f"{copy / 'core'}{os.pathsep}{copy}"
        environment = {
            **os.environ,
            **ONE_THREAD_EACH,
            "PATH": path,
            "PYTHONPATH": paths,
            "PYTHONDONTWRITEBYTECODE": "1",
        }

        def cosmic_ray(*command: str) -> None:
            subprocess.run(["cosmic-ray", *command], cwd=copy, env=environment, check=True)

        cosmic_ray("baseline", "mutants.toml")
        cosmic_ray("init", "mutants.toml", "session.sqlite")
        with sqlite3.connect(copy / "session.sqlite") as session:
            _keep(session, most)
        cosmic_ray("exec", "mutants.toml", "session.sqlite")
        with sqlite3.connect(copy / "session.sqlite") as session:
            _report(session)


def _keep(session: sqlite3.Connection, most: int | None) -> None:
    order = "module_path, start_pos_row, start_pos_col, operator_name, occurrence"
    every = [job for (job,) in session.execute(f"SELECT job_id FROM mutation_specs ORDER BY {order}")]
    random.Random(SEED).shuffle(every)
    for job in every[most:] if most else ():
        for table in ("mutation_specs", "work_items"):
            session.execute(f"DELETE FROM {table} WHERE job_id = ?", (job,))


def _report(session: sqlite3.Connection) -> None:
    outcomes = session.execute("SELECT test_outcome, diff FROM work_results").fetchall()
    survivors = [diff for outcome, diff in outcomes if outcome == "SURVIVED"]
    for diff in survivors:
        print(diff)
    print(f"{len(outcomes)} changes tried, {len(survivors)} noticed by no test")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else None)
