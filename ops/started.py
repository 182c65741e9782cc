"""Percorso started as people start it, for tests and measurements."""

import os
import subprocess
import sys
from pathlib import Path

from ops.application import ROOT


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
