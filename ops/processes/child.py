"""Starts a child process that never outlives us, and stops it again."""

import ctypes
import os
import signal
import subprocess
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

_PR_SET_PDEATHSIG = 1  # linux/prctl.h
_libc = ctypes.CDLL(None, use_errno=True)


def with_parent() -> Callable[[], None]:
    """What a child calls first, so that it ends when we do, however we end: one left over would go on in our place."""
    parent = os.getpid()

    def end_with_it() -> None:
        _libc.prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)
        if os.getppid() != parent:  # which ended before it could be told to
            os._exit(1)

    return end_with_it


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
            start_new_session=True,  # the terminal's Ctrl-C is left to us
            preexec_fn=with_parent(),  # noqa: PLW1509  # we start no threads
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
