"""Percorso started as people start it, for tests and measurements."""

import fcntl
import os
import shutil
import subprocess
import sys
from contextlib import closing
from pathlib import Path

from ops.application import ROOT, Application
from ops.database.server import Database
from ops.processes.ports import free_port
from ops.trials.client import signed_in

STARTED = "PERCORSO_TEST_STARTED"  # names the folder of a run of tests in which the started state is kept


def start(command: str, state: Path, port: int, **more: str) -> subprocess.Popen[str]:
    """Begin ``make command`` in a directory of its own; ``more`` is told it by the environment."""
    environment = {**os.environ, "PERCORSO_STATE": str(state), "PERCORSO_PORT": str(port), **more}
    process = [sys.executable, "-m", "ops", command]
    return subprocess.Popen(process, cwd=ROOT, env=environment, stdout=subprocess.PIPE, text=True)


def said_until_served(begun: subprocess.Popen[str]) -> str:
    """What it says until it greets. Raises AssertionError where it ends before."""
    assert begun.stdout
    said = ""
    while "Ctrl-C stops it" not in said:
        line = begun.stdout.readline()
        assert line, f"it did not start: {said}"
        said += line
    return said


def end(begun: subprocess.Popen[str]) -> int:
    """Stop it as people do; its exit status."""
    begun.terminate()
    status = begun.wait(90)
    if begun.stdout:
        begun.stdout.close()
    return status


def lay_started(state: Path) -> None:
    """Lay in ``state`` what the first start of the demo leaves there: made once in a run of tests, and copied.

    Nothing, and so a first start, where no run of tests names a folder for it.
    """
    if STARTED not in os.environ:
        return
    folder = Path(os.environ[STARTED])
    whole = folder / "whole"
    with (folder / "lock").open("a") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not whole.exists():
            _start_first(folder / "made").rename(whole)
    shutil.copytree(whole, state, dirs_exist_ok=True)


class SharedDemo:
    """A Percorso with the demo that many use one after the other; each finds it as its first start left it."""

    def __init__(self, state: Path) -> None:
        lay_started(state)
        self.application = Application(state, free_port(), demo=True)
        assert isinstance(self.application.database, Database)
        self.application.database.durable = False  # nobody pulls the plug on it
        self.application.start()
        self.session = signed_in(self.application)  # which is among what is begun with, again and again
        self._rows = state / "rows as begun.sql"
        with self._rows.open("wb") as rows:
            rows.write(
                b"SET foreign_key_checks = 0;" + b"".join(b"DELETE FROM `%s`;" % each for each in self._tables())
            )
            rows.flush()
            options = ["--no-create-info", "--hex-blob", "--skip-triggers"]
            self.application.database.run_program("mariadb-dump", options, output=rows)
        self._media = state / "media as begun"
        shutil.copytree(self.application.media, self._media)

    def begin_again(self) -> None:
        """Every row and file as begun."""
        with self._rows.open("rb") as rows:
            self.application.database.run_program("mariadb", [], source=rows)
        shutil.rmtree(self.application.media)
        shutil.copytree(self._media, self.application.media)

    def _tables(self) -> list[bytes]:
        with closing(self.application.database.connect()) as connection, connection.cursor() as cursor:
            cursor.execute("SHOW TABLES")
            return [name.encode() for (name,) in cursor.fetchall()]


def _start_first(state: Path) -> Path:
    application = Application(state, free_port(), demo=True)
    try:
        application.start()
    finally:
        application.stop()
    return state
