"""Databases that older releases left behind are brought up to date with nothing lost, also when killed meanwhile."""

import gzip
import json
import subprocess
import sys
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any
from unittest import mock
from uuid import uuid4

from ops.application import SERVER, Application
from ops.database import backup
from ops.database.backup import BackupError
from ops.database.dump import read_dump, write_dump
from ops.database.server import Database
from ops.database.under_way import under_way
from ops.database.upgrade import AGAIN, TRIES, Upgrade
from ops.processes.ports import free_port
from ops.tests.test_ops import InAFolder
from ops.trials.client import Client
from percorso.files.reading import read_job_file

RELEASES = Path(__file__).parent / "releases"
NAMES = sorted(each.name.removesuffix(".sql.gz") for each in RELEASES.glob("*.sql.gz"))
OLDEST = "before-measurements"
PEOPLE = (
    "SELECT person.username, person.password, shop.name FROM workshop_person person "
    "JOIN workshop_shop shop ON shop.id = person.shop_id ORDER BY 1"
)
READINGS = (
    "SELECT reading.id, reading.taken_at, reading.note, person.username FROM readings_reading reading "
    "JOIN workshop_person person ON person.id = reading.taken_by_id ORDER BY 1"
)
JOBS = "SELECT id, name, vehicle, wish, archived FROM jobs_job ORDER BY 1"
# The server's migrations, ended with signal 9 right after the one of a number was written down.
KILLED_AFTER = """
import os, signal, sys
from django.core.management import execute_from_command_line
from django.db.migrations.recorder import MigrationRecorder
left, record = int(sys.argv.pop(1)), MigrationRecorder.record_applied
def counted(self, app, name):
    global left
    record(self, app, name)
    left -= 1
    if left == 0:
        os.kill(os.getpid(), signal.SIGKILL)
MigrationRecorder.record_applied = counted
os.environ["DJANGO_SETTINGS_MODULE"] = "percorso_server.config.settings"
execute_from_command_line(sys.argv)
"""


class Killed(BaseException):
    """Everything ended at once; nobody could put anything in order."""


class KilledWith(subprocess.Popen[str]):
    """A command whose parent is killed with it."""

    def communicate(self, *args: Any, **kwargs: Any) -> Any:
        said = super().communicate(*args, **kwargs)
        if self.returncode < 0:
            raise Killed
        return said


class OlderRelease(InAFolder):
    def _left_by(self, release: str) -> Application:
        """An installation with the database that a release left, not started yet."""
        application = Application(self.state / release, free_port(), demo=False)
        self.addCleanup(application.stop)
        assert isinstance(application.database, Database)
        application.database.durable = False  # nothing here pulls the plug
        application.database.start()
        dump = self.state / f"{release}.sql"
        dump.write_bytes(gzip.decompress((RELEASES / f"{release}.sql.gz").read_bytes()))
        read_dump(application.database, dump)
        return application

    def _rows(self, application: Application, *queries: str) -> list[Any]:
        with closing(application.database.connect()) as connection, connection.cursor() as cursor:
            found = []
            for query in queries:
                cursor.execute(query)
                found.append(cursor.fetchall())
            return found

    def _dump(self, application: Application) -> bytes:
        into = self.state / "now.sql"
        write_dump(application.database, into)
        return into.read_bytes()

    def _upgrade(self, application: Application, killed_after: int | None = None) -> Upgrade:
        """One that is killed after so many migrations, or fails before the first with 0, or succeeds with None."""

        def run(arguments: list[str]) -> subprocess.Popen[str]:
            if arguments[0] != "migrate" or killed_after is None:
                return application._begin(arguments)
            script = KILLED_AFTER if killed_after else "raise SystemExit(1)"
            command = [sys.executable, "-c", script, str(killed_after), *arguments]
            environment = application._environment("manage")
            return KilledWith(command, env=environment, cwd=SERVER, stdout=subprocess.PIPE, text=True)

        return Upgrade(application.database, run, self._backs_up(application), application.put_back)

    def _backs_up(self, application: Application) -> Callable[[], Path]:
        return lambda: application.back_up(backup.BEFORE_UPGRADE)


class EveryRelease(OlderRelease):
    def test_todays_code_reads_what_every_release_wrote(self) -> None:
        """Jobs part by part against the files that release wrote; boards against jobs made of those files today."""
        self.assertIn(OLDEST, NAMES)
        for release in NAMES:
            with self.subTest(release), mock.patch("builtins.print"):
                application = self._left_by(release)
                before = self._rows(application, PEOPLE, READINGS, JOBS)
                application.database.stop()
                application.start()
                self.assertEqual(self._rows(application, PEOPLE, READINGS, JOBS), before)
                self._compare_jobs(application, release)
                application.stop()

    def _compare_jobs(self, application: Application, release: str) -> None:
        client = Client(application)
        written: dict[str, Any] = json.loads(gzip.decompress((RELEASES / f"{release}.json.gz").read_bytes()))
        self.assertEqual({each["id"] for each in client.call("GET", "/jobs")}, set(written))
        for job_id, file in written.items():
            then, now = (_parts(each) for each in (file, client.call("GET", f"/jobs/{job_id}/file")))
            for part, listed in then.items():
                self.assertEqual(now[part], listed, f"{file['name']}: {part}")
            anew = client.call("POST", f"/job-files?id={uuid4()}", {**file, "photos": []})
            self.assertEqual(self._board(client, job_id), self._board(client, anew["id"]), file["name"])

    def _board(self, client: Client, job_id: str) -> list[Any]:
        """What a board says, without the ids of rows."""
        lines = client.call("GET", f"/jobs/{job_id}?stage=planned&state=idle")["lines"]
        told = [(each["circuit"]["name"], each["plan"], each["shown"], each["silent"]) for each in lines]
        rounded: list[Any] = json.loads(json.dumps(told), parse_float=lambda figure: round(float(figure), 9))
        return rounded


class CutShort(OlderRelease):
    def test_killed_after_any_migration_it_goes_back_and_then_succeeds(self) -> None:
        application = self._left_by(OLDEST)
        before = self._dump(application)
        migrations = 0
        while True:
            upgrade = self._upgrade(application, migrations + 1)
            with mock.patch("builtins.print"):
                try:
                    upgrade.bring_up_to_date()
                    break
                except Killed:
                    migrations += 1
            begun = under_way(application.database)
            assert begun and begun.tries == 1
            self.assertNotEqual(self._dump(application), before)
            with self.assertRaisesRegex(BackupError, "being changed"):
                application.back_up()
            application.put_back(Path(begun.backup))
            self.assertEqual(self._dump(application), before, f"after {migrations} migrations")
            with closing(application.database.connect()) as connection:
                connection.cursor().execute("DROP TABLE percorso_under_way")  # the next kill is of a first try again
        self.assertGreater(migrations, 3)

    def test_the_next_start_puts_back_and_tries_again_also_when_killed_meanwhile(self) -> None:
        application = self._left_by(OLDEST)
        people = self._rows(application, PEOPLE, READINGS, JOBS)
        with mock.patch("builtins.print"):
            with self.assertRaises(Killed):
                self._upgrade(application, 2).bring_up_to_date()
            with mock.patch.object(backup, "read_dump", _killed_half_way), self.assertRaises(Killed):
                self._upgrade(application).bring_up_to_date()
            self._upgrade(application).bring_up_to_date()
        self.assertIsNone(under_way(application.database))
        self.assertEqual(self._rows(application, PEOPLE, READINGS, JOBS), people)
        self.assertEqual(len(list(application.backups.glob("*.gz"))), 1)  # nothing half-migrated was ever backed up

    def test_what_fails_is_put_back_at_once_and_after_three_tries_it_says_what_to_do(self) -> None:
        application = self._left_by(OLDEST)
        before = self._dump(application)
        for number in range(TRIES):
            with mock.patch("builtins.print"), self.assertRaisesRegex(RuntimeError, f"try {number + 1} of {TRIES}"):
                self._upgrade(application, 0).bring_up_to_date()
            self.assertEqual(self._dump(application), before)
        backups = sorted(application.backups.iterdir())
        for _ in range(2):
            with self.assertRaisesRegex(RuntimeError, "release before this one, or try again with"):
                self._upgrade(application).bring_up_to_date()
        self.assertEqual(sorted(application.backups.iterdir()), backups)
        with mock.patch("builtins.print"), mock.patch.dict("os.environ", {AGAIN: "1"}):
            self._upgrade(application).bring_up_to_date()
        self.assertIsNone(under_way(application.database))


def _parts(file: Any) -> dict[str, Any]:
    """What a job file holds, list by list; a reading that does not say with what is one of a multimeter."""
    read = read_job_file(json.dumps(file))
    readings = [each.model_copy(update={"instrument": each.instrument or "multimeter"}) for each in read.readings]
    return {**{part: getattr(read, part) for part in type(read).model_fields}, "readings": readings}


def _killed_half_way(database: Any, dump: Path) -> None:
    """Half of the tables, then everything ends."""
    whole = dump.read_text()
    at = whole.index("DROP TABLE IF EXISTS `jobs_segment`")
    half = dump.with_name("half.sql")
    half.write_text(whole[:at])
    with half.open("rb") as source:
        database.run_program("mariadb", [], source=source)
    raise Killed
