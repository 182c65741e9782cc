"""Percorso on the shop's own network: Caddy in front of it with https, by an authority of the shop's own.

Without https a phone gets neither its camera nor work without network. Caddy makes the authority at the first start and
keeps it in the state directory; each phone is told once to trust it (docs/lan.md).
"""

import io
import os
import socket
import ssl
import subprocess
import time
from pathlib import Path

import segno

from ops.processes import child
from ops.processes.supervised import Supervised

MOST_BODY = "16MB"  # a photo with what is sent around it
CADDY = "/usr/bin/caddy"
READY_SECONDS = 30.0


def own_address() -> str:
    """This machine's address on the network it would reach others by; the loopback address where there is none."""
    named = os.environ.get("PERCORSO_ADDRESS")
    if named:
        return named
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # nothing is sent: it only chooses a way (RFC 5737)
            return str(probe.getsockname()[0])
        except OSError:
            return "127.0.0.1"


class Front:
    """Caddy in front of a server on a loopback port."""

    def __init__(self, state: Path, address: str, port: int) -> None:
        self.state, self.address, self.port = state / "caddy", address, port
        self.https_port = int(os.environ.get("PERCORSO_HTTPS_PORT", "8443"))
        self.http_port = int(os.environ.get("PERCORSO_HTTP_PORT", "8080"))
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def origin(self) -> str:
        """What people type."""
        return f"https://{self.address}:{self.https_port}"

    @property
    def authority(self) -> Path:
        """The certificate that phones are told to trust."""
        return self.state / "pki" / "authorities" / "local" / "root.crt"

    def start(self) -> None:
        """Start Caddy."""
        self.state.mkdir(parents=True, exist_ok=True, mode=0o700)
        config = self.state / "Caddyfile"
        config.write_text(self._config())
        command = [CADDY, "run", "--config", str(config), "--adapter", "caddyfile"]
        self.process = child.start(command, self.state / "caddy.log", {"HOME": str(self.state)})

    def wait_until_served(self) -> None:
        """Return when it has its certificate, which it makes at the first start. Raises RuntimeError."""
        any_certificate = ssl.create_default_context()
        any_certificate.check_hostname, any_certificate.verify_mode = False, ssl.CERT_NONE
        deadline = time.monotonic() + READY_SECONDS
        while True:
            try:
                with socket.create_connection((self.address, self.https_port), timeout=2) as connection:
                    any_certificate.wrap_socket(connection, server_hostname=self.address).close()
                    return
            except OSError as error:
                if time.monotonic() > deadline:
                    raise RuntimeError(f"Caddy does not answer; see {self.state / 'caddy.log'}") from error
                time.sleep(0.1)

    def stop(self) -> None:
        """Stop Caddy."""
        if self.process is not None:
            child.stop(self.process)

    def parts(self) -> list[Supervised]:
        """The process."""
        return [Supervised("front", lambda: self.process is not None and self.process.poll() is None, self.start)]

    def greeting(self) -> str:
        """The address, as text and for a phone's camera."""
        drawn = io.StringIO()
        segno.make(self.origin, error="m").terminal(drawn, compact=True)
        told = f"On the shop's network Percorso is at {self.origin}"
        trust = f"A phone trusts it after http://{self.address}:{self.http_port}/authority.crt (docs/lan.md)"
        return f"{told}\n{drawn.getvalue()}\n{trust}"

    def _config(self) -> str:
        """What a client says of its own address is thrown away: only Caddy knows it."""
        return f"""{{
    admin off
    storage file_system {self.state}
    skip_install_trust
    auto_https disable_redirects
    grace_period 5s
    servers {{
        timeouts {{
            read_header 10s
            read_body 2m
            idle 2m
        }}
    }}
}}
{self.origin} {{
    tls internal
    request_body {{
        max_size {MOST_BODY}
    }}
    encode zstd gzip
    reverse_proxy 127.0.0.1:{self.port} {{
        header_up X-Forwarded-For {{remote_host}}
        lb_try_duration 10s
        fail_duration 1s
    }}
}}
http://{self.address}:{self.http_port} {{
    handle /authority.crt {{
        root * {self.authority.parent}
        rewrite * /root.crt
        header Content-Type application/x-x509-ca-cert
        file_server
    }}
    handle {{
        redir {self.origin}{{uri}} permanent
    }}
}}
"""
