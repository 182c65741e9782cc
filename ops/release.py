"""`make upgrade`: the newest release in the place of the one that runs, or everything as it was where that fails.

It is built aside first, while people work. Then what runs is stopped, code, packages and front end are changed, and it
is started: by the service that ran it, or here. Where it does not come up, the old code comes back, and the tables as
they were.
"""

import os
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from http import HTTPStatus
from pathlib import Path
from typing import NoReturn

from ops.application import ROOT, Application
from ops.database.backup import BEFORE_UPGRADE
from ops.database.under_way import finish
from ops.processes.web_server import status

SERVES = "serves"  # a file in the state directory with the number of the process that serves from it
COMMANDS = ("start", "lan", "demo", "cluster")
COMES_UP_SECONDS = 900  # tables of many years may take their time
ENDS_SECONDS = 120
LOOK_SECONDS = 0.02  # a service starts it again at once: the state is free for some tenths of a second only
WANTED = "PERCORSO_RELEASE"  # in the environment: a tag or a commit; otherwise what the branch has upstream
BUILD = ("make", "--silent", "built")


class ReleaseError(RuntimeError):
    """The upgrade was given up; everything is as it was."""


class Release:
    """One installation on its way to another release. ``hold`` holds its state, and says whether nobody else does."""

    def __init__(self, application: Application, hold: Callable[[], AbstractContextManager[bool]]) -> None:
        self._application, self._hold = application, hold
        self._aside = application.state / "next"
        self._old = _git("rev-parse", "HEAD")

    def upgrade(self, back_up: Callable[[], Path]) -> str:
        """Do all of it; what is said at the end. Raises ReleaseError."""
        if _git("status", "--porcelain", "--untracked-files=no"):
            raise ReleaseError("there are changes of your own in this checkout; commit or drop them first")
        runs = running(self._application.state)
        if runs is None:
            raise ReleaseError(
                "Percorso is not running; start it first, so that it can be told whether it still does after"
            )
        _git("fetch", "--quiet", "--tags")
        wanted = _git("rev-parse", f"{os.environ.get(WANTED, '@{upstream}')}^{{commit}}")
        if wanted == self._old:
            return "This is the newest release already."
        print(f"Backed up: {back_up()}", flush=True)
        self._build_aside(wanted)
        again = None if is_service(runs) else _words(runs)[-1]  # start, lan or demo
        before = self._backups()
        try:
            self._put_in_place(wanted)
            begun = self._come_up(again)
        except (ReleaseError, subprocess.CalledProcessError) as error:
            print(f"It does not come up ({error}); going back …", flush=True)
            self._go_back(before, again)
            raise ReleaseError(f"everything is as it was before: {error}") from error
        if begun is not None:
            begun.wait()  # in this window, until it is stopped here
        return f"Upgraded to {wanted[:10]}."

    def _build_aside(self, wanted: str) -> None:
        """So that whatever cannot be built or installed is known while the old one still serves."""
        shutil.rmtree(self._aside, ignore_errors=True)
        _git("worktree", "prune")
        _git("worktree", "add", "--quiet", "--detach", str(self._aside), wanted)
        try:
            subprocess.run(BUILD, cwd=self._aside, check=True, env=_own_environment())
        except subprocess.CalledProcessError as error:
            raise ReleaseError("the new release cannot be built here; nothing was changed") from error
        finally:
            _git("worktree", "remove", "--force", str(self._aside))

    def _put_in_place(self, commit: str) -> None:
        """Change the code, its packages and the front end while nothing runs."""
        with self._stopped():
            _git("reset", "--quiet", "--keep", commit)
            subprocess.run(BUILD, cwd=ROOT, check=True, env=_own_environment())

    @contextmanager
    def _stopped(self) -> Iterator[None]:
        """End what runs, and let nobody start it meanwhile."""
        deadline, asked = time.monotonic() + ENDS_SECONDS, set[int]()
        while True:
            runs = running(self._application.state)
            if runs is not None and runs not in asked:
                os.kill(runs, signal.SIGTERM)
                asked.add(runs)
            with self._hold() as alone:
                if alone:
                    yield
                    return
            if time.monotonic() > deadline:
                raise ReleaseError("what runs does not end")
            time.sleep(LOOK_SECONDS)

    def _come_up(self, again: str | None) -> "subprocess.Popen[bytes] | None":
        """Start it ``again`` by that command, unless a service does, and wait until it answers. Raises ReleaseError."""
        begun = None
        if again is not None:
            begun = subprocess.Popen([sys.executable, "-m", "ops", again], cwd=ROOT, env=_own_environment())
        deadline = time.monotonic() + COMES_UP_SECONDS
        while status(self._application.port) != HTTPStatus.OK:
            if (begun is not None and begun.poll() is not None) or time.monotonic() > deadline:
                raise ReleaseError("the new release does not answer")
            time.sleep(0.5)
        return begun

    def _go_back(self, before: set[Path], again: str | None) -> None:
        self._put_in_place(self._old)
        made = sorted(self._backups() - before)
        if made:  # the tables were changed
            with self._stopped():
                database = self._application.database
                database.start()
                try:
                    self._application.put_back(made[0])
                    finish(database)
                finally:
                    database.stop()
        begun = self._come_up(again)
        if begun is not None:
            print("The old release runs again, in this window.", flush=True)
            begun.wait()

    def _backups(self) -> set[Path]:
        return set(self._application.backups.glob(f"{BEFORE_UPGRADE}*.tar.gz"))


def running(state: Path) -> int | None:
    """The process that serves from a state directory."""
    try:
        number = int((state / SERVES).read_text())
        return number if _words(number)[-3:-1] == ["-m", "ops"] and _words(number)[-1] in COMMANDS else None
    except (OSError, ValueError):
        return None


def _words(process: int) -> list[str]:
    """What a process was called with."""
    return Path(f"/proc/{process}/cmdline").read_text().rstrip("\0").split("\0")


def is_service(process: int) -> bool:
    """Whether the system runs it, and starts it again by itself."""
    return b"INVOCATION_ID=" in Path(f"/proc/{process}/environ").read_bytes()


def _git(*arguments: str) -> str:
    done = subprocess.run(["git", *arguments], cwd=ROOT, capture_output=True, text=True, check=False)
    if done.returncode:
        raise ReleaseError(f"git {arguments[0]}: {done.stderr.strip()}")
    return done.stdout.strip()


def _own_environment() -> dict[str, str]:
    """What make is run with: not what it was told itself by the make that runs us."""
    return {name: value for name, value in os.environ.items() if not name.startswith("MAKE") and name != "MFLAGS"}


def refuse_front_end() -> NoReturn:
    """Say why nothing is served."""
    sys.exit(
        "The front end that was built is of another version than this code. Nothing was started; run: make upgrade, "
        "or in a checkout that you changed by hand: make built"
    )
