"""The running application: database and web server together, kept alive, stopped together."""

import os
import secrets
import shutil
import subprocess
import sys
import time
from functools import partial
from pathlib import Path

from ops.database.backup import BEFORE_UPGRADE, NIGHTLY, back_up, clear_unfinished, put_tables_back
from ops.database.connection import AnyDatabase, DatabaseElsewhere
from ops.database.galera import Galera
from ops.database.server import Database
from ops.database.upgrade import Upgrade
from ops.fronts.balancer import Balancer
from ops.fronts.lan import Front, own_address
from ops.processes import child
from ops.processes.ports import free_port
from ops.processes.private import make_private, private_folder, write_secret
from ops.processes.supervised import LOOK_SECONDS, Supervised
from ops.processes.web_server import WebServer

ROOT = Path(__file__).resolve().parent.parent
SERVER = ROOT / "server"
SIMULATED = "Simulated meter"
WORKERS = 2  # server processes, and as many that compute for them
# They count in files that they share and have in memory: where such a file cannot grow, its process is ended by the
# system. So they lie in memory, and not on a disk that may be full.
COUNTS = Path("/dev/shm")
DATABASE_PATIENCE = "10"  # seconds that a request waits for the database's answer; changes of tables wait for ever
SERVERS = 2  # of a cluster, with a process each: all of it stands on one machine
# Networks are small: a second thread in the linear algebra of one worker only waits for the core another works on.
ONE_THREAD_EACH = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1", "MKL_NUM_THREADS": "1"}


class Application:
    """Percorso served from ``state`` on a loopback port.

    With ``lan`` Caddy stands in front of it. With ``cluster`` the database is three nodes, or where there were nodes
    before; then two web servers answer, and HAProxy stands in front of both.
    """

    def __init__(self, state: Path, port: int, *, demo: bool, lan: bool = False, cluster: bool = False) -> None:
        self.state = state
        self.port = port
        self.demo = demo
        self.database = Galera(state) if cluster else _database_of(state)
        self.media = state / "media"
        self.backups = state / "backups"
        self.counts = private_folder(COUNTS, state)
        self.front = Front(state, own_address(), port) if lan else None
        self.balancer: Balancer | None = None
        if isinstance(self.database, Galera):
            self.web = [self._web_server(free_port(), 1, f"web-{place}") for place in range(1, SERVERS + 1)]
            self.balancer = Balancer(state, port, self.web, self.database)
        else:
            self.web = [self._web_server(port, WORKERS, "web")]
        self.meter: subprocess.Popen[bytes] | None = None
        self.meter_port = free_port() if demo else 0

    @property
    def address(self) -> str:
        """Where to point the browser."""
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        """Start the database, bring its tables up to date, load the demo if asked, and serve."""
        for each in self.web:
            each.listen()
        self.state.mkdir(parents=True, exist_ok=True)
        self.state.chmod(0o700)
        shutil.rmtree(self.counts, ignore_errors=True)
        clear_unfinished(self.state, self.backups)
        if self.balancer is None:  # the way to a group of nodes is laid when they start
            for each in self.web:
                each.prepare()
        self.start_database()
        Upgrade(self.database, self._begin, partial(self.back_up, BEFORE_UPGRADE), self.put_back).bring_up_to_date()
        if self.demo:
            self.manage("load_demo")
            self._start_meter()
        for each in self.web:
            each.start()
        if self.balancer is not None:
            self.balancer.wait_until_served()
        if self.front is not None:
            self.front.start()
            self.front.wait_until_served()

    def start_database(self) -> None:
        """Start what the data are in, and what leads to it."""
        self.database.start()
        if self.balancer is not None:
            self.balancer.start()
            self.database.wait_until_answers()

    def stop(self) -> None:
        """Stop serving, then stop the database cleanly."""
        if self.front is not None:
            self.front.stop()
        if self.meter is not None:
            child.stop(self.meter)
        for each in self.web:
            each.stop()
        if self.balancer is not None:
            self.balancer.stop()
        self.database.stop()
        shutil.rmtree(self.counts, ignore_errors=True)

    def keep_alive(self) -> None:
        """Start a part again that died, after longer and longer pauses while it does not stay; returns never."""
        fronts = [each for each in (self.balancer, self.front) if each is not None]
        parts = [part for each in (self.database, *self.web, *fronts) for part in each.parts()]
        if self.demo:
            parts.append(Supervised("simulated meter", self._has_meter, self._start_meter))
        while True:
            time.sleep(LOOK_SECONDS)
            for each in parts:
                each.look(time.monotonic())

    def back_up(self, kind: str = NIGHTLY) -> Path:
        """Write a backup of everything, while it runs."""
        return back_up(self.database, self.media, self.backups, self.backup_key, kind)

    @property
    def backup_key(self) -> bytes:
        """What this installation signs its backups with."""
        return self._secret("backup-key").encode()

    def put_back(self, file: Path | None) -> None:
        """The tables as a backup holds them, or none."""
        if file is None:
            self.database.clear()
        else:
            put_tables_back(file, self.database, self.state)

    def manage(self, *arguments: str) -> None:
        """Run one of Django's commands."""
        command, environment = self._command(*arguments), self._environment("manage")
        subprocess.run(command, env=environment, check=True, preexec_fn=child.with_parent())

    def _begin(self, arguments: list[str]) -> subprocess.Popen[str]:
        command, environment = self._command(*arguments), self._environment("manage")
        ends = child.with_parent()
        return subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True, preexec_fn=ends)  # noqa: PLW1509

    def _command(self, *arguments: str) -> list[str]:
        return [sys.executable, str(SERVER / "manage.py"), *arguments]

    def _web_server(self, port: int, workers: int, name: str) -> WebServer:
        """A web server, with a log and a count of its own."""
        return WebServer(port, workers, self.state / f"{name}.log", lambda: self._environment(name), workers)

    def _has_meter(self) -> bool:
        return self.meter is not None and self.meter.poll() is None

    def _start_meter(self) -> None:
        """A simulated meter, named beside the instruments that the operator has."""
        command = [str(Path(sys.executable).with_name("percorso-meter")), "--port", str(self.meter_port)]
        self.meter = child.start(command, self.state / "meter.log", ONE_THREAD_EACH)

    def _environment(self, name: str) -> dict[str, str]:
        """What a process of ours is told; ``name`` is that under which it counts."""
        counts = self.counts / name
        make_private(self.counts)
        counts.mkdir(exist_ok=True, mode=0o700)
        return {
            **os.environ,
            **ONE_THREAD_EACH,
            **self.database.environment,
            "PYTHONPATH": str(SERVER),
            "PERCORSO_SECRET_KEY": self._secret("secret-key"),
            "PERCORSO_DEMO": "1" if self.demo else "0",
            "PERCORSO_INSTRUMENTS": ",".join(self._instruments()),
            "PERCORSO_ACCESS_LOG": "INFO",
            "PROMETHEUS_MULTIPROC_DIR": str(counts),
            "PERCORSO_BEATS": str(counts),
            **({} if name == "manage" else {"PERCORSO_DB_PATIENCE": DATABASE_PATIENCE}),
            "PERCORSO_MEDIA": str(self.media),
            "PERCORSO_ORIGIN": os.environ.get("PERCORSO_ORIGIN", self.address),
            **({"PERCORSO_PROXIES": "1"} if self.balancer is not None else {}),
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

    def _secret(self, name: str) -> str:
        """A secret of this installation, made when first asked for."""
        path = self.state / name
        if not path.exists():
            write_secret(path, secrets.token_urlsafe(50))
        return path.read_text()


def _database_of(state: Path) -> AnyDatabase:
    """The database that is named, or else the one that serves what lies there."""
    elsewhere = os.environ.get("PERCORSO_DATABASE_URL")
    if elsewhere:
        return DatabaseElsewhere(elsewhere)
    return Galera(state) if (state / "galera").is_dir() else Database(state)
