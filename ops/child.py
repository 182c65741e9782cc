"""Starts a child process that never outlives us, and stops it again."""

import ctypes
import os
import signal
import subprocess
from collections.abc import Mapping, Sequence
from pathlib import Path

_PR_SET_PDEATHSIG = 1  # linux/prctl.h
_libc = ctypes.CDLL(None, use_errno=True)


def _die_with_parent() -> None:
    """In the child: leave the terminal's Ctrl-C to the parent, and end when the parent ends, however it ends."""
    os.setsid()
    _libc.prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)


def start(
    command: Sequence[str], log: Path, environment: Mapping[str, str] | None = None, handed: Sequence[int] = ()
) -> subprocess.Popen[bytes]:
    """Start ``command`` with its output appended to ``log``; ``handed`` are descriptors of ours that it has too."""
    with log.open("ab") as output:
        return subprocess.Popen(
            command,
            stdin=subprocess.DEVNULL,
            stdout=output,
            stderr=output,
            pass_fds=tuple(handed),
            env=None if environment is None else {**os.environ, **environment},
            preexec_fn=_die_with_parent,  # noqa: PLW1509  # we start no threads
        )


def stop(child: subprocess.Popen[bytes], seconds: float = 20) -> None:
    """Ask a child to end and wait for it; kill it when it does not."""
    if child.poll() is not None:
        return
    child.terminate()
    try:
        child.wait(seconds)
    except subprocess.TimeoutExpired:
        child.kill()
        child.wait()
