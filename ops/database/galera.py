"""Three MariaDB nodes that hold the same (Galera), on this machine: what one has acknowledged, the others have too.

Percorso reaches them by one address, behind which a balancer leads everybody to the same node until that one is gone.
Any node may be written to all the same: nodes that disagree are told at the commit, and the request is tried again.
"""

import re
import subprocess
import sys
from http import HTTPStatus
from pathlib import Path
from typing import Any

from ops.database.connection import AnyDatabase, DatabaseError
from ops.database.server import MARIADBD, Database
from ops.processes import child
from ops.processes.ports import free_port
from ops.processes.private import write_secret
from ops.processes.supervised import Supervised
from ops.processes.web_server import status

PROVIDER = "/usr/lib/galera/libgalera_smm.so"
NODES = 3  # the fewest of which two are still more than half
STANDS = "grastate.dat"  # where a node notes how far it is
REMEMBERS = "gvwstate.dat"  # with whom it was together last
NO_HISTORY = "00000000-0000-0000-0000-000000000000"
COPIES = "percorso_copies"  # the account by which a node copies itself to one that was away for long
# When a node is killed the others wait for it as long as that; a machine that is only busy must not be taken for dead.
SILENCE = {
    "evs.keepalive_period": "PT0.3S",
    "evs.inactive_check_period": "PT0.3S",
    "evs.suspect_timeout": "PT1.5S",
    "evs.inactive_timeout": "PT4S",
    "evs.install_timeout": "PT4S",
}
GIVEN_UP_SECONDS = 3.0  # by then the others have given up on a node that died; before, its return would confuse them
STOPS_SECONDS = 20.0
CATCHES_UP_FROM = "256M"  # of changes that are kept for nodes that were away; who missed more is copied to as a whole


class FirstData(Database):
    """The first node's data before it is a node: made with the accounts. The other nodes are copied from it."""

    def accounts(self, password: str) -> list[str]:
        """Ours by a network address too, and one for copies."""
        more = [
            f"CREATE USER IF NOT EXISTS 'percorso'@'127.0.0.1' IDENTIFIED BY '{password}';",
            "GRANT ALL ON percorso.* TO 'percorso'@'127.0.0.1';",
            f"CREATE USER IF NOT EXISTS '{COPIES}'@'localhost' IDENTIFIED BY '{password}';",
            f"GRANT RELOAD, PROCESS, LOCK TABLES, REPLICATION CLIENT, SLAVE MONITOR ON *.* TO '{COPIES}'@'localhost';",
        ]
        return [*super().accounts(password), *more]


class Node(Database):
    """One node: its own directory and ports."""

    def __init__(self, state: Path, all_speak: list[int], speaks: int) -> None:
        """``all_speak``: the ports by which all nodes speak with each other; ``speaks``: its own of them."""
        super().__init__(state)
        self._all_speak, self._speaks = all_speak, speaks
        self._copied_to, self._catches_up, self.told = free_port(), free_port(), free_port()
        self._begins = False
        self._teller: subprocess.Popen[bytes] | None = None

    @property
    def was_node(self) -> bool:
        """Whether it has ever been one of several; a start that was interrupted leaves a note without a history."""
        return self._noted().get("uuid", NO_HISTORY) != NO_HISTORY

    def position(self) -> int:
        """The number of the last change that it has; -1 where it cannot tell."""
        return int(self._stands().rpartition(":")[2]) if self.was_node else -1

    def begin(self) -> None:
        """Start as the first of all. Raises DatabaseError."""
        path = self.data / STANDS
        if path.exists():  # Galera lets only the node begin that knows itself to be the last: we know who is furthest
            path.write_text(re.sub(r"safe_to_bootstrap:.*", "safe_to_bootstrap: 1", path.read_text()))
        self._begins = True
        try:
            self.start()
        finally:
            self._begins = False

    def launch(self) -> None:
        """Start and join the others: go on from where it stands, or be copied to."""
        super().launch()
        if not self._tells():
            self._tell()

    def stop(self) -> None:
        """Stop it cleanly."""
        if self._teller is not None:
            child.stop(self._teller)
        if self.process is not None:
            child.stop(self.process, STOPS_SECONDS)

    @property
    def takes_part(self) -> bool:
        """Whether it belongs to the majority and has caught up."""
        return status(self.told) == HTTPStatus.OK

    def join_majority(self) -> None:
        """Start as a new member of those at work: what it remembers of the old one would hold them up."""
        (self.data / REMEMBERS).unlink(missing_ok=True)
        self.launch()

    def teller(self) -> Supervised:
        """What tells the balancer of it."""
        return Supervised(f"database {self.state.name}'s teller", self._tells, self._tell)

    def _install(self) -> None:
        self.data.mkdir(exist_ok=True, mode=0o700)  # another node fills it

    def _command(self) -> list[str]:
        self._write_settings()
        begins = ["--wsrep-new-cluster"] if self._begins else []
        from_there = [f"--wsrep-start-position={self._stands()}"] if self.was_node else []
        return [MARIADBD, f"--defaults-file={self._config}", *begins, *from_there]

    @property
    def _config(self) -> Path:
        return self.state / "node.cnf"

    def _write_settings(self) -> None:
        settings = [f"{key} = {value}" for key, value in {**self.server_settings, **self._shared()}.items()]
        write_secret(self._config, "\n".join(["[mysqld]", *settings, ""]))

    def _stands(self) -> str:
        """Where it stands, as Galera writes it (history:number): as it noted when it stopped, else by its own log."""
        noted = self._noted()
        if int(noted.get("seqno", -1)) >= 0:
            return f"{noted['uuid']}:{noted['seqno']}"
        self._write_settings()
        command = [MARIADBD, f"--defaults-file={self._config}", "--wsrep-recover"]
        done = subprocess.run(command, capture_output=True, text=True, check=False)
        found = re.findall(r"Recovered position:\s*(\S+)", done.stdout + done.stderr)
        return found[-1] if found else f"{NO_HISTORY}:-1"

    def _noted(self) -> dict[str, str]:
        """What it noted last of where it stands."""
        path = self.data / STANDS
        return dict(re.findall(r"^(\w+):\s*(\S+)", path.read_text(), re.MULTILINE)) if path.exists() else {}

    def _shared(self) -> dict[str, Any]:
        """What makes a server a node."""
        options = {
            "gmcast.listen_addr": f"tcp://127.0.0.1:{self._speaks}",
            "ist.recv_addr": f"127.0.0.1:{self._catches_up}",
            "gcache.size": CATCHES_UP_FROM,
            **SILENCE,
        }
        return {
            "wsrep_on": "ON",
            "wsrep_provider": PROVIDER,
            "wsrep_provider_options": '"' + ";".join(f"{name}={value}" for name, value in options.items()) + '"',
            "wsrep_cluster_name": "percorso",
            "wsrep_cluster_address": "gcomm://" + ",".join(f"127.0.0.1:{port}" for port in self._all_speak),
            "wsrep_node_name": self.state.name,
            "wsrep_node_address": f"127.0.0.1:{self._speaks}",
            "wsrep_sst_method": "mariabackup",  # which holds up nobody on the node that is copied
            "wsrep_sst_receive_address": f"127.0.0.1:{self._copied_to}",
            "wsrep_sst_auth": f"{COPIES}:{self.password}",
            "wsrep_sync_wait": 7,  # whoever reads or writes sees what any node has acknowledged before
            "binlog_format": "ROW",
            "default_storage_engine": "InnoDB",
            "innodb_autoinc_lock_mode": 2,
        }

    def _tells(self) -> bool:
        return self._teller is not None and self._teller.poll() is None

    def _tell(self) -> None:
        command = [sys.executable, "-m", "ops.database.node_health", str(self.told)]
        self._teller = child.start(command, self.state / "teller.log", self.environment)


class Galera(AnyDatabase):
    """The nodes under ``state``, by the address of what balances them."""

    def __init__(self, state: Path) -> None:
        self.state = state / "galera"
        speak = [free_port() for _ in range(NODES)]
        self.nodes = [Node(self.state / f"node-{place}", speak, port) for place, port in enumerate(speak, start=1)]
        self.port = free_port()

    @property
    def environment(self) -> dict[str, str]:
        """Its address."""
        known = self.settings
        address = f"{known['user']}:{known['password']}@{known['host']}:{known['port']}"
        return {"PERCORSO_DATABASE_URL": f"mysql://{address}/{known['database']}"}

    @property
    def settings(self) -> dict[str, Any]:
        """By its address, which is written down for commands beside the one that serves."""
        password, port = self.nodes[0].password, int((self.state / "port").read_text())
        known = {"host": "127.0.0.1", "port": port, "user": "percorso", "password": password}
        return {**known, "database": "percorso", "charset": "utf8mb4"}

    def start(self) -> None:
        """Start the node that has most, then the others with what it has. Raises DatabaseError."""
        for each in self.nodes:
            each.state.mkdir(parents=True, exist_ok=True, mode=0o700)
            write_secret(each.state / "database-password", self.nodes[0].password)
            each.end_predecessors()
        write_secret(self.state / "port", str(self.port))
        first = self._furthest()
        if not first.was_node:
            made = FirstData(first.state)
            made.start()
            made.connect().close()  # by then the accounts are made, which is done before anybody is let in
            made.stop()
        first.begin()
        for each in self.nodes:
            if each is not first:
                each.start()

    def _furthest(self) -> Node:
        """The node with the last change. Raises DatabaseError where that cannot be told."""
        first = max(self.nodes, key=lambda each: each.position())
        if first.position() < 0 and any(each.was_node for each in self.nodes):
            raise DatabaseError(f"no node knows how far it is; see the logs in {self.state}, or restore a backup")
        return first

    def stop(self) -> None:
        """Stop all nodes."""
        for each in reversed(self.nodes):
            each.stop()

    def parts(self) -> list[Supervised]:
        """Every node by itself."""
        nodes = [self._revived(each) for each in self.nodes]
        return [*nodes, *(each.teller() for each in self.nodes)]

    def _revived(self, node: Node) -> Supervised:
        """A node joins again while everything else goes on; where none is at work, they find one another by memory."""

        def start() -> None:
            if any(each.takes_part for each in self.nodes if each is not node):
                node.join_majority()
            else:
                node.launch()

        return Supervised(f"database {node.state.name}", lambda: node.alive, start, GIVEN_UP_SECONDS)
