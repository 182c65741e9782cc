"""The running application: database and web server together, kept alive, stopped together."""

import os
import secrets
import shutil
import socket
import subprocess
import sys
import time
from contextlib import closing
from http.client import HTTPConnection
from pathlib import Path

from ops import child
from ops.backup import back_up
from ops.database import AnyDatabase, Database, DatabaseElsewhere, write_secret
from ops.lan import Front, own_address
from ops.revived import LOOK_SECONDS, Revived

ROOT = Path(__file__).resolve().parent.parent
SERVER = ROOT / "server"
SIMULATED = "Simulated meter"
WORKERS = 2  # server processes
BACKLOG = 1024
READY_SECONDS = 30.0
PREDECESSOR_SECONDS = 8.0  # in which the processes of one that was killed let go of the port
# Networks are small: a second thread in the linear algebra of one worker only waits for the core another works on.
ONE_THREAD_EACH = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1", "MKL_NUM_THREADS": "1"}


class Application:
    """Percorso served from ``state`` on a loopback port."""

    def __init__(self, state: Path, port: int, *, demo: bool, lan: bool = False) -> None:
        self.state = state
        self.port = port
        self.demo = demo
        elsewhere = os.environ.get("PERCORSO_DATABASE_URL")
        self.database: AnyDatabase = DatabaseElsewhere(elsewhere) if elsewhere else Database(state)
        self.media = state / "media"
        self.front = Front(state, own_address(), port) if lan else None
        self.web: list[subprocess.Popen[bytes]] = []
        self.listening: socket.socket | None = None
        self.meter: subprocess.Popen[bytes] | None = None
        self.meter_port = _free_port() if demo else 0

    @property
    def address(self) -> str:
        """Where to point the browser."""
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        """Start the database, bring its tables up to date, load the demo if asked, and serve."""
        self.listening = self._listen()
        shutil.rmtree(self.state / "metrics", ignore_errors=True)
        (self.state / "metrics").mkdir(parents=True, mode=0o700)
        self.state.chmod(0o700)
        self.database.start()
        self._bring_up_to_date()
        if self.demo:
            self.manage("load_demo")
            self._start_meter(self.meter_port)
        self.start_web()
        if self.front is not None:
            self.front.start()

    def stop(self) -> None:
        """Stop serving, then stop the database cleanly."""
        if self.front is not None:
            self.front.stop()
        if self.meter is not None:
            child.stop(self.meter)
        for each in self.web:
            each.terminate()
        for each in self.web:
            child.stop(each)
        if self.listening is not None:
            self.listening.close()
        self.database.stop()

    def keep_alive(self) -> None:
        """Start a part again that died, after longer and longer pauses while it does not stay; returns never."""
        parts = [Revived("database", lambda: self.database.alive, self.database.start)]
        parts += [self._revived_worker(place) for place in range(WORKERS)]
        if self.demo:
            parts.append(Revived("simulated meter", self._has_meter, lambda: self._start_meter(self.meter_port)))
        if self.front is not None:
            front = self.front
            parts.append(Revived("front", lambda: front.alive, front.start))
        while True:
            time.sleep(LOOK_SECONDS)
            for each in parts:
                each.look(time.monotonic())

    def _has_meter(self) -> bool:
        return self.meter is not None and self.meter.poll() is None

    def _revived_worker(self, place: int) -> "Revived":
        def start() -> None:
            self.web[place] = self._start_worker()

        return Revived("web server", lambda: self.web[place].poll() is None, start)

    def _bring_up_to_date(self) -> None:
        """Migrate, with a backup before where there is work. Raises RuntimeError where a newer Percorso wrote the data.

        A first start that was interrupted leaves half a database, in which there is nobody's work yet.
        """
        command = self._command("schema")
        asked = subprocess.run(command, env=self._environment(), check=True, stdout=subprocess.PIPE, text=True)
        stands = asked.stdout.strip()
        if stands == "newer":
            raise RuntimeError("a newer Percorso wrote the data, and this one cannot read them; nothing was changed")
        if stands == "same":
            return
        if not self.database.is_unused():
            print(f"Backed up before the tables change: {self.back_up()}", flush=True)
        elif self.database.is_ours:
            self.database.empty()
        self.manage("migrate", "--verbosity=0")

    def back_up(self) -> Path:
        """Write a backup of everything, while it runs."""
        return back_up(self.database, self.media, self.state / "backups")

    def manage(self, *arguments: str) -> None:
        """Run one of Django's commands."""
        subprocess.run(self._command(*arguments), env=self._environment(), check=True)

    def _command(self, *arguments: str) -> list[str]:
        return [sys.executable, str(SERVER / "manage.py"), *arguments]

    def start_web(self) -> None:
        """Start the server processes, and wait until one answers."""
        self.web = [self._start_worker() for _ in range(WORKERS)]
        deadline = time.monotonic() + READY_SECONDS
        while not self._is_served():
            if time.monotonic() > deadline or all(each.poll() is not None for each in self.web):
                raise RuntimeError(f"the web server did not start; see {self.state / 'web.log'}")
            time.sleep(0.05)

    def _start_worker(self) -> subprocess.Popen[bytes]:
        assert self.listening is not None
        descriptor = self.listening.fileno()
        command = [sys.executable, "-m", "config.serve", str(descriptor)]
        environment = {**self._environment(), "PYTHONPATH": str(SERVER)}
        return child.start(command, self.state / "web.log", environment, [descriptor])

    def _listen(self) -> socket.socket:
        """The socket that all server processes listen on; it outlives each of them. Raises RuntimeError."""
        listening = socket.socket()
        listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        deadline = time.monotonic() + PREDECESSOR_SECONDS
        while True:
            try:
                listening.bind(("127.0.0.1", self.port))
                listening.listen(BACKLOG)
                return listening
            except OSError as error:
                if time.monotonic() > deadline:
                    listening.close()
                    taken = f"port {self.port} is taken; choose another with PERCORSO_PORT=8001"
                    raise RuntimeError(taken) from error
                time.sleep(0.1)

    def _is_served(self) -> bool:
        with closing(HTTPConnection("127.0.0.1", self.port, timeout=1)) as asked:
            try:
                asked.request("GET", "/healthz")
                return asked.getresponse().status > 0
            except OSError:
                return False

    def _start_meter(self, port: int) -> None:
        """A simulated meter, named beside the instruments that the operator has."""
        command = [str(Path(sys.executable).with_name("percorso-meter")), "--port", str(port)]
        self.meter = child.start(command, self.state / "meter.log", ONE_THREAD_EACH)

    def _environment(self) -> dict[str, str]:
        return {
            **os.environ,
            **ONE_THREAD_EACH,
            **self.database.environment,
            "PERCORSO_SECRET_KEY": self._secret_key(),
            "PERCORSO_DEMO": "1" if self.demo else "0",
            "PERCORSO_INSTRUMENTS": ",".join(self._instruments()),
            "PERCORSO_ACCESS_LOG": "INFO",
            "PROMETHEUS_MULTIPROC_DIR": str(self.state / "metrics"),
            "PERCORSO_MEDIA": str(self.media),
            "PERCORSO_ORIGIN": os.environ.get("PERCORSO_ORIGIN", self.address),
            **self._behind_front(),
        }

    def _behind_front(self) -> dict[str, str]:
        """What the server is told where Caddy stands in front of it."""
        if self.front is None:
            return {}
        return {
            "PERCORSO_ORIGIN": self.front.origin,
            "PERCORSO_HOSTS": self.front.address,
            "PERCORSO_PROXIES": "1",
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


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
