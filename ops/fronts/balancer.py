"""HAProxy in front of several server processes and several database nodes, on loopback addresses.

Servers share the requests. Of the nodes all connections lead to one, and stay there until that one no longer takes
part: then to the next, and not back, so that two who ask one after the other never ask nodes that are apart.
"""

import subprocess
import time
from collections.abc import Sequence
from http import HTTPStatus
from pathlib import Path

from ops.database.galera import Galera
from ops.processes import child
from ops.processes.supervised import Supervised
from ops.processes.web_server import READY_SECONDS, WebServer, status

HAPROXY = "/usr/sbin/haproxy"


class Balancer:
    """HAProxy on the port of the address and on the database's port."""

    def __init__(self, state: Path, port: int, servers: Sequence[WebServer], database: Galera) -> None:
        self.state, self.port, self._servers, self._database = state / "haproxy", port, servers, database
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start HAProxy."""
        self.state.mkdir(parents=True, exist_ok=True, mode=0o700)
        config = self.state / "haproxy.cfg"
        config.write_text(self._config())
        self.process = child.start([HAPROXY, "-db", "-f", str(config)], self.state / "haproxy.log")

    def wait_until_served(self) -> None:
        """Return when it has found a server that answers. Raises RuntimeError where it finds none."""
        deadline = time.monotonic() + READY_SECONDS
        while status(self.port) != HTTPStatus.OK:
            if time.monotonic() > deadline:
                raise RuntimeError(f"the balancer finds no server; see {self.state / 'haproxy.log'}")
            time.sleep(0.1)

    def stop(self) -> None:
        """Stop HAProxy."""
        if self.process is not None:
            child.stop(self.process)

    def parts(self) -> list[Supervised]:
        """The process."""
        return [Supervised("balancer", lambda: self.process is not None and self.process.poll() is None, self.start)]

    def _config(self) -> str:
        """A write may be sent twice, as browsers do: each is known by its key. So what got no answer is sent on.

        A server that answers at all is well, also when it says that the database is away.
        """
        servers = "\n".join(
            f"    server server-{place} 127.0.0.1:{each.port}" for place, each in enumerate(self._servers, start=1)
        )
        nodes = "\n".join(
            f"    server {each.state.name} 127.0.0.1:{each.port} check port {each.told}{' backup' if place else ''}"
            for place, each in enumerate(self._database.nodes)
        )
        return f"""global
    maxconn 4000
    tune.bufsize 65536
defaults
    timeout connect 2s
    timeout check 2s
    timeout client 1m
    timeout server 1m
    timeout http-request 10s
    timeout queue 10s
    retries 4
    option redispatch 1
frontend people
    mode http
    bind 127.0.0.1:{self.port}
    option http-buffer-request
    http-request set-header X-Forwarded-For %[src]
    default_backend servers
backend servers
    mode http
    balance leastconn
    retry-on conn-failure empty-response
    option httpchk
    http-check send meth GET uri /healthz ver HTTP/1.1 hdr Host 127.0.0.1 hdr Connection close
    http-check expect rstatus (200|503)
    default-server check inter 500ms fall 4 rise 1
{servers}
listen database
    mode tcp
    bind 127.0.0.1:{self._database.port}
    timeout client 10m
    timeout server 10m
    stick-table type ip size 1 nopurge
    stick on dst
    option httpchk GET /
    default-server inter 300ms fall 3 rise 2 on-marked-down shutdown-sessions
{nodes}
"""
