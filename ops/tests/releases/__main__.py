"""Writes the running demo down as this release leaves it: `python -m ops.tests.releases NAME`."""

import gzip
import json
import sys
import tempfile
from pathlib import Path

from ops.__main__ import PORT, STATE
from ops.application import Application
from ops.database.dump import write_dump
from ops.trials.client import Client

HERE = Path(__file__).parent


def write(name: str) -> None:
    """Both files of a release."""
    application = Application(STATE, PORT, demo=True)
    client = Client(application)
    files = {job["id"]: client.call("GET", f"/jobs/{job['id']}/file") for job in client.call("GET", "/jobs")}
    with tempfile.TemporaryDirectory() as folder:
        dump = Path(folder, "dump.sql")
        write_dump(application.database, dump)
        (HERE / f"{name}.sql.gz").write_bytes(gzip.compress(dump.read_bytes(), mtime=0))
    text = json.dumps(files, separators=(",", ":"), sort_keys=True)
    (HERE / f"{name}.json.gz").write_bytes(gzip.compress(text.encode(), mtime=0))


if __name__ == "__main__":
    write(sys.argv[1])
