"""One command takes an installation to another release; one that does not come up leaves everything as it was."""

import os
import shutil
import signal
import subprocess
import sys
from contextlib import closing
from pathlib import Path
from threading import Event, Thread
from unittest import mock

from ops import __main__ as commands
from ops.application import ROOT, SERVER, Application
from ops.processes.ports import free_port
from ops.processes.web_server import status
from ops.release import Release, ReleaseError, running
from ops.tests.test_ops import InAFolder, run_ops
from ops.trials.started import said_until_served

MOST_EXPOSED = "30"  # of 100, by what systemd says
UNITS = ("percorso.service", "percorso-nightly.service", "percorso-nightly.timer")
LATEST = max(each.stem for each in (SERVER / "percorso_server" / "workshop" / "migrations").glob("[0-9]*.py"))
MIGRATION = f"""from django.db import migrations, models

class Migration(migrations.Migration):
    dependencies = [("workshop", "{LATEST}")]
    operations = [migrations.AddField("shop", "of_tomorrow", models.IntegerField(default=0))]
"""


class Upgraded(InAFolder):
    """A clone with an origin of its own, kept running as a service is."""

    def setUp(self) -> None:
        super().setUp()
        self.origin, self.clone, self.port = self.state / "origin.git", self.state / "clone", free_port()
        subprocess.run(["git", "init", "--quiet", "--bare", "--initial-branch=main", str(self.origin)], check=True)
        pushed = ["git", "push", "--quiet", str(self.origin), "HEAD:refs/heads/main"]
        subprocess.run(pushed, cwd=ROOT, check=True)
        for place in (self.clone, self.state / "theirs"):
            subprocess.run(["git", "clone", "--quiet", str(self.origin), str(place)], check=True)
        shutil.copytree(ROOT / "web" / "dist", self.clone / "web" / "dist")
        self.place = self.clone / ".percorso"
        named = {"PERCORSO_STATE": str(self.place), "PERCORSO_PORT": str(self.port), "INVOCATION_ID": "of a service"}
        self.environment = {**os.environ, **named}
        built = (sys.executable, "-m", "ops.front_end")
        subprocess.run(built, cwd=self.clone, check=True)
        for name, value in (("ROOT", self.clone), ("BUILD", built), ("COMES_UP_SECONDS", 30)):
            patched = mock.patch(f"ops.release.{name}", value)
            patched.start()
            self.addCleanup(patched.stop)
        patched = mock.patch.object(commands, "STATE", self.place)
        patched.start()
        self.addCleanup(patched.stop)
        self.application = Application(self.place, self.port, demo=False)
        self._serve()

    def _start(self) -> subprocess.Popen[str]:
        command = [sys.executable, "-m", "ops", "start"]
        return subprocess.Popen(command, cwd=self.clone, env=self.environment, stdout=subprocess.PIPE, text=True)

    def _serve(self) -> None:
        """Started again whenever it ends, as by the system."""
        self.ended, first = Event(), self._start()
        said_until_served(first)

        def keep_up(begun: subprocess.Popen[str]) -> None:
            while True:
                begun.communicate()
                if self.ended.is_set():
                    return
                begun = self._start()

        keeper = Thread(target=keep_up, args=(first,))
        keeper.start()

        def end() -> None:
            self.ended.set()
            if (runs := running(self.place)) is not None:
                os.kill(runs, signal.SIGTERM)
            keeper.join()

        self.addCleanup(end)

    def _published(self, **files: str) -> str:
        """A new release at the origin, with these files."""
        theirs = self.state / "theirs"
        for name, text in files.items():
            (theirs / name).write_text(text)
        who = ["-c", "user.name=Percorso", "-c", "user.email=percorso@localhost"]
        subprocess.run(["git", "add", "--all"], cwd=theirs, check=True)
        subprocess.run(["git", *who, "commit", "--quiet", "--message", "A release"], cwd=theirs, check=True)
        subprocess.run(["git", "push", "--quiet"], cwd=theirs, check=True)
        return self._commit(theirs)

    def _commit(self, place: Path) -> str:
        command = ["git", "rev-parse", "HEAD"]
        return subprocess.run(command, cwd=place, check=True, capture_output=True, text=True).stdout.strip()

    def _columns(self) -> int:
        with closing(self.application.database.connect()) as connection, connection.cursor() as cursor:
            cursor.execute("SHOW COLUMNS FROM workshop_shop LIKE 'of_tomorrow'")
            return len(cursor.fetchall())

    def test_a_release_that_does_not_come_up_is_taken_back_and_a_good_one_stays(self) -> None:
        old, serves = self._commit(self.clone), (ROOT / "server/percorso_server/config/serve.py").read_text()
        self.application.manage("shell", "--verbosity=0", "-c", ADD_PERSON)
        changed = {"server/percorso_server/workshop/migrations/9999_of_tomorrow.py": MIGRATION}
        self._published(**changed, **{"server/percorso_server/config/serve.py": "raise SystemExit('broken')"})
        release = Release(self.application, commands._only_one)
        with mock.patch("builtins.print"), self.assertRaisesRegex(ReleaseError, "everything is as it was before"):
            release.upgrade(self.application.back_up)
        self.assertEqual((self._commit(self.clone), status(self.port), self._columns()), (old, 200, 0))
        good = self._published(**{"server/percorso_server/config/serve.py": serves})
        with mock.patch("builtins.print"):
            said = Release(self.application, commands._only_one).upgrade(self.application.back_up)
        self.assertIn(good[:10], said)
        self.assertEqual((self._commit(self.clone), status(self.port), self._columns()), (good, 200, 1))
        (self.clone / "web" / "src" / "main.tsx").write_text("// of another version")
        refused = subprocess.run([sys.executable, "-m", "ops", "start"], cwd=self.clone, env=self.environment,
                                 capture_output=True, text=True, check=False)  # fmt: skip
        self.assertEqual((refused.returncode, "run: make upgrade" in refused.stderr), (1, True))


ADD_PERSON = """
from percorso_server.workshop.models import Person, Shop
Person.objects.create_user("anna", password="una parola lunga", shop=Shop.objects.create(name="Officina"))
"""


class Asked(InAFolder):
    def test_nothing_is_upgraded_that_does_not_run(self) -> None:
        refused = run_ops(self.state, "upgrade")
        self.assertEqual((refused.returncode, "Traceback" in refused.stderr), (1, False))
        self.assertRegex(refused.stderr, "not running|changes of your own")


class Units(InAFolder):
    def test_the_system_finds_nothing_wrong_and_little_exposed(self) -> None:
        for name in UNITS:
            text = (ROOT / "ops" / "systemd" / name).read_text()
            (self.state / name).write_text(text.replace("/srv/percorso/percorso/.venv/bin/python", sys.executable))
        units = [str(self.state / name) for name in UNITS]
        found = subprocess.run(["systemd-analyze", "verify", *units], capture_output=True, text=True, check=False)
        said = [line for line in found.stderr.splitlines() if any(name in line for name in UNITS)]
        self.assertEqual(said, [])
        for unit in units[:2]:
            command = ["systemd-analyze", "security", "--offline=true", f"--threshold={MOST_EXPOSED}", unit]
            told = subprocess.run(command, capture_output=True, text=True, check=False)
            self.assertEqual(told.returncode, 0, told.stdout[-300:])
