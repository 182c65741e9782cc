"""Tells whether a database node takes part, 200 or 503, over HTTP: `python -m ops.database.node_health PORT`.

A node that has lost the others, or is still catching up, accepts connections and then refuses every statement.
"""

import os
import sys
from contextlib import closing
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import MySQLdb

WORKS = ("2", "4")  # wsrep_local_state: it copies itself to another node meanwhile, it is synced


def takes_part() -> bool:
    """Whether the node of PERCORSO_DB_SOCKET belongs to the majority and has caught up."""
    try:
        with closing(_connect()) as connection, connection.cursor() as cursor:
            cursor.execute("SET SESSION wsrep_sync_wait = 0")  # what is asked for is its state at this moment
            cursor.execute("SHOW STATUS WHERE Variable_name IN ('wsrep_cluster_status', 'wsrep_local_state')")
            status = dict(cursor.fetchall())
    except MySQLdb.Error:
        return False
    return status.get("wsrep_cluster_status") == "Primary" and status.get("wsrep_local_state") in WORKS


def _connect() -> MySQLdb.Connection:
    return MySQLdb.connect(
        unix_socket=os.environ["PERCORSO_DB_SOCKET"],
        user=os.environ["PERCORSO_DB_USER"],
        password=os.environ["PERCORSO_DB_PASSWORD"],
        connect_timeout=1,
        read_timeout=1,
    )


class _Asked(BaseHTTPRequestHandler):
    def do_GET(self) -> None:
        """Answer with the status alone."""
        self.send_response(200 if takes_part() else 503)
        self.send_header("Content-Length", "0")
        self.end_headers()

    def log_message(self, format: str, *args: object) -> None:
        """Nothing is written down of something that is asked for several times a second."""


if __name__ == "__main__":
    ThreadingHTTPServer(("127.0.0.1", int(sys.argv[1])), _Asked).serve_forever()
