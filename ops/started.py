"""Percorso started as people start it, for tests and measurements."""

import fcntl
import os
import shutil
import subprocess
import sys
from pathlib import Path

from ops.application import ROOT, Application
from ops.database import free_port

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


def _start_first(state: Path) -> Path:
    application = Application(state, free_port(), demo=True)
    try:
        application.start()
    finally:
        application.stop()
    return state
