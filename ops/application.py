"""The running application: database and web server together, kept alive, stopped together."""

import os
import secrets
import socket
import subprocess
import sys
import time
from pathlib import Path

from ops import child
from ops.database import Database, write_secret

ROOT = Path(__file__).resolve().parent.parent
SERVER = ROOT / "server"
SIMULATED = "Simulated meter"
RESTART_AFTER_SECONDS = 5.0
LONGEST_SOCKET_PATH = 100  # characters; systems take about 107
# Networks are small: a second thread in the linear algebra of one worker only waits for the core another works on.
ONE_THREAD_EACH = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1", "MKL_NUM_THREADS": "1"}


class Application:
    """Percorso served from ``state`` on a loopback port."""

    def __init__(self, state: Path, port: int, *, demo: bool) -> None:
        self.state = state
        self.port = port
        self.demo = demo
        self.database = Database(state)
        self.web: subprocess.Popen[bytes] | None = None
        self.meter: subprocess.Popen[bytes] | None = None
        self.meter_port = _free_port() if demo else 0

    @property
    def address(self) -> str:
        """Where to point the browser."""
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        """Start the database, bring its tables up to date, load the demo if asked, and serve."""
        if _answers(self.port):
            raise RuntimeError(f"port {self.port} is taken; choose another with PERCORSO_PORT=8001")
        self.database.start()
        self.manage("migrate", "--verbosity=0")
        if self.demo:
            self.manage("load_demo")
            self._start_meter(self.meter_port)
        self._start_web()

    def stop(self) -> None:
        """Stop serving, then stop the database cleanly."""
        if self.meter is not None:
            child.stop(self.meter)
        if self.web is not None:
            child.stop(self.web)
        self.database.stop()

    def keep_alive(self) -> None:
        """Start a part again that died; returns never."""
        while True:
            time.sleep(0.5)
            if not self.database.alive:
                print("The database ended unexpectedly; starting it again.", flush=True)
                time.sleep(RESTART_AFTER_SECONDS)
                self.database.start()
            if self.meter is not None and self.meter.poll() is not None:
                print("The simulated meter ended unexpectedly; starting it again.", flush=True)
                self._start_meter(self.meter_port)
            if self.web is None or self.web.poll() is not None:
                print("The web server ended unexpectedly; starting it again.", flush=True)
                time.sleep(RESTART_AFTER_SECONDS)
                self._start_web()

    def manage(self, *arguments: str) -> None:
        """Run one of Django's commands."""
        command = [sys.executable, str(SERVER / "manage.py"), *arguments]
        subprocess.run(command, env=self._environment(), check=True)

    def _start_web(self) -> None:
        command = [sys.executable, "-m", "gunicorn", "--chdir", str(SERVER), "--bind", f"127.0.0.1:{self.port}"]
        command += ["--workers", "2", "--threads", "4", "--graceful-timeout", "5", *self._control(), "config.wsgi"]
        self.web = child.start(command, self.state / "web.log", self._environment())
        deadline = time.monotonic() + 30
        while not _answers(self.port):
            if self.web.poll() is not None or time.monotonic() > deadline:
                raise RuntimeError(f"the web server did not start; see {self.state / 'web.log'}")
            time.sleep(0.05)

    def _start_meter(self, port: int) -> None:
        """A simulated meter, named beside the instruments that the operator has."""
        command = [str(Path(sys.executable).with_name("percorso-meter")), "--port", str(port)]
        self.meter = child.start(command, self.state / "meter.log", ONE_THREAD_EACH)

    def _control(self) -> list[str]:
        """Where the server is controlled from: its own state directory, or nowhere if that is too deep for a socket."""
        socket_path = str(self.state / "server.ctl")
        return ["--control-socket", socket_path] if len(socket_path) < LONGEST_SOCKET_PATH else ["--no-control-socket"]

    def _environment(self) -> dict[str, str]:
        return {
            **os.environ,
            **ONE_THREAD_EACH,
            **self.database.environment,
            "PERCORSO_SECRET_KEY": self._secret_key(),
            "PERCORSO_DEMO": "1" if self.demo else "0",
            "PERCORSO_INSTRUMENTS": ",".join(self._instruments()),
            "PERCORSO_MEDIA": str(self.state / "media"),
            "PERCORSO_ORIGIN": os.environ.get("PERCORSO_ORIGIN", self.address),
        }

    def _instruments(self) -> list[str]:
        """What the operator named, and the simulated one."""
        named = [os.environ["PERCORSO_INSTRUMENTS"]] if os.environ.get("PERCORSO_INSTRUMENTS") else []
        return [*named, f"{SIMULATED}=127.0.0.1:{self.meter_port}"] if self.demo else named

    def _secret_key(self) -> str:
        path = self.state / "secret-key"
        if not path.exists():
            write_secret(path, secrets.token_urlsafe(50))
        return path.read_text()


def _answers(port: int) -> bool:
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) == 0


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
