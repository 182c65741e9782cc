"""The commands behind the Makefile: serve with or without the demo, add a person, test, reset."""

import fcntl
import os
import shutil
import signal
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import NoReturn, TextIO

from ops.application import ROOT, SERVER, Application
from ops.database.backup import BackupError, check, is_signed
from ops.database.backup import restore as put_back
from ops.database.server import Database
from ops.front_end import is_of_this_code
from ops.processes.private import write_secret
from ops.release import SERVES, Release, ReleaseError, refuse_front_end
from ops.trials.started import STARTED

STATE = Path(os.environ.get("PERCORSO_STATE", ROOT / ".percorso"))
PORT = int(os.environ.get("PERCORSO_PORT", "8000"))
WITHOUT_DATABASE = ("core", "cli", "ops.tests.cluster")  # whose tests need none, or have their own


class Stop(Exception):
    """Someone asked us to stop."""


def _stop(*_: object) -> NoReturn:
    raise Stop


@contextmanager
def _only_one() -> Iterator[bool]:
    """Hold the state directory; false when another process of ours holds it."""
    try:
        STATE.mkdir(parents=True, exist_ok=True, mode=0o700)
        lock = (STATE / "lock").open("a")
    except OSError as error:
        sys.exit(f"Percorso cannot keep its data in {STATE} ({error.strerror}); name a place with PERCORSO_STATE")
    with lock:
        yield _locked(lock)


def _locked(lock: TextIO) -> bool:
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True


def serve(*, demo: bool, lan: bool = False, cluster: bool = False) -> int:
    """Serve until Ctrl-C."""
    if not is_of_this_code():
        refuse_front_end()
    if cluster and (STATE / "mariadb").exists():
        sys.exit(f"{STATE} holds the data of a single machine; name another place with PERCORSO_STATE")
    signal.signal(signal.SIGTERM, _stop)
    signal.signal(signal.SIGINT, _stop)
    application = Application(STATE, PORT, demo=demo, lan=lan, cluster=cluster)
    with _only_one() as alone:
        if not alone:
            print(f"Percorso is already running: {application.address}")
            return 0
        write_secret(STATE / SERVES, str(os.getpid()))
        try:
            application.start()
            _greet(application)
            application.keep_alive()
        except Stop:
            print("\nStopping …", flush=True)
        except RuntimeError as error:
            print(f"Percorso cannot start: {error}", file=sys.stderr)
            return 1
        finally:
            for each in (signal.SIGINT, signal.SIGTERM):  # who asks twice does not make it stop half-way
                signal.signal(each, signal.SIG_IGN)
            application.stop()
    return 0


def _greet(application: Application) -> None:
    print(f"\nPercorso is at {application.address}")
    if application.demo:
        application.manage("load_demo", "--say")
    else:
        print("Add someone who can sign in with: make person")
    if application.front is not None:
        print(application.front.greeting())
    print("Ctrl-C stops it.", flush=True)


def manage_running(*arguments: str) -> int:
    """One of the server's commands; Percorso must be running."""
    with _only_one() as alone:
        if alone:
            print("Percorso is not running; start it first with: make start", file=sys.stderr)
            return 1
    try:
        Application(STATE, PORT, demo=False).manage(*arguments)
    except subprocess.CalledProcessError:
        return 1  # the command has said why
    return 0


def backup() -> int:
    """Write everything into one file; Percorso must be running."""
    with _only_one() as alone:
        if alone:
            print("Percorso is not running; start it first with: make start", file=sys.stderr)
            return 1
    try:
        print(Application(STATE, PORT, demo=False).back_up())
    except BackupError as error:
        print(f"There is no backup: {error}", file=sys.stderr)
        return 1
    return 0


def upgrade() -> int:
    """The newest release in the place of the one that runs."""
    application = Application(STATE, PORT, demo=False)
    try:
        print(Release(application, _only_one).upgrade(application.back_up))
    except (ReleaseError, BackupError) as error:
        print(f"Not upgraded: {error}", file=sys.stderr)
        return 1
    return 0


def restore(file: Path) -> int:
    """Put a backup back into an empty place, while Percorso is stopped."""
    with _only_one() as alone:
        if not alone:
            print("Percorso is running; stop it first.", file=sys.stderr)
            return 1
        application = Application(STATE, PORT, demo=False)
        try:
            check(file)
            if not is_signed(file, application.backup_key) and not _sure(
                f"{file} was not written by this installation, or was changed since. Who wrote it decides what is in "
                "it, passwords too. Put it back? Type yes: "
            ):
                print("Nothing was restored.")
                return 1
            application.start_database()
            put_back(file, application.database, application.media)
        except RuntimeError as error:
            print(f"Nothing was restored: {error}", file=sys.stderr)
            return 1
        finally:
            application.stop()
    print("Restored. Start with: make start")
    return 0


def _sure(question: str) -> bool:
    """Whether somebody says yes; nobody who is not there does."""
    try:
        return input(question).strip() == "yes"
    except EOFError:
        return False


def test(labels: list[str]) -> int:
    """Run Django's tests on a database of their own that is thrown away: side by side, but for those in a browser."""
    with tempfile.TemporaryDirectory(prefix="percorso-test-") as folder:
        database, started = Database(Path(folder), durable=False), Path(folder, "started")
        started.mkdir()
        try:
            if not all(label.startswith(WITHOUT_DATABASE) for label in labels):
                database.start()
            environment = {**database.environment, STARTED: str(started)}
            in_browser = any(label.startswith("e2e") for label in labels)
            return _run_tests(labels if in_browser else [*labels, "--parallel=auto"], environment)
        finally:
            database.stop()
            shutil.rmtree(database.sockets, ignore_errors=True)


def coverage() -> int:
    """Run the core's tests and print how much of its branches they take."""
    with tempfile.TemporaryDirectory(prefix="percorso-coverage-") as folder:
        environment = {**os.environ, "COVERAGE_FILE": str(Path(folder, "data"))}
        coverage = (sys.executable, "-m", "coverage")
        failed = _run_tests(["core/tests", "--parallel=auto"], environment, coverage=("-m", "coverage", "run"))
        subprocess.run([*coverage, "combine", "--quiet"], env=environment, cwd=ROOT, check=True)
        report = [*coverage, "report", "--format=total"]
        told = subprocess.run(report, env=environment, cwd=ROOT, check=True, capture_output=True, text=True)
    print(f"branch coverage of the core: {told.stdout.strip()} %")
    return failed


def _run_tests(arguments: list[str], environment: Mapping[str, str], coverage: Sequence[str] = ()) -> int:
    own = {"PERCORSO_SECRET_KEY": "only for tests", "PYTHONPATH": str(ROOT)}
    tests = [str(SERVER / "manage.py"), "test", "--noinput", "--top-level-directory", str(ROOT)]
    command = [sys.executable, *coverage, *tests, *arguments]
    return subprocess.run(command, env={**os.environ, **environment, **own}, cwd=ROOT, check=False).returncode


def reset() -> int:
    """Delete all data, after asking."""
    with _only_one() as alone:
        if not alone:
            print("Percorso is running; stop it first.", file=sys.stderr)
            return 1
        if not _sure(f"Delete every job and reading under {STATE}? Type yes: "):
            print("Nothing was deleted.")
            return 1
        shutil.rmtree(STATE)
    print("Deleted.")
    return 0


COMMANDS: Mapping[str, Callable[[], int]] = {
    "demo": lambda: serve(demo=True),
    "start": lambda: serve(demo=False),
    "lan": lambda: serve(demo=False, lan=True),
    "cluster": lambda: serve(demo=True, cluster=True),
    "person": lambda: manage_running("add_person"),
    "backup": backup,
    "upgrade": upgrade,
    "people": lambda: manage_running("list_people"),
    "tidy": lambda: manage_running("tidy"),
    "reset": reset,
    "coverage": coverage,
}


WITH_ARGUMENTS: Mapping[str, Callable[..., int]] = {
    "test": lambda *labels: test(list(labels)),
    "restore": lambda file: restore(Path(file)),
    "disable": lambda name: manage_running("disable_person", name),
    "password": lambda name: manage_running("new_password", name),
    "grow": lambda *counts: manage_running("grow", *counts),
}


def main(arguments: list[str]) -> int:
    """Run one command."""
    match arguments:
        case [name] if name in COMMANDS:
            return COMMANDS[name]()
        case [name, *rest] if name in WITH_ARGUMENTS and (rest or name in ("test", "grow")):
            return WITH_ARGUMENTS[name](*rest)
    told = ["test [LABEL …]", "restore FILE", "disable NAME", "password NAME", "grow [JOBS [READINGS]]"]
    print(f"usage: python -m ops {' | '.join([*COMMANDS, *told])}", file=sys.stderr)
    return 2


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
