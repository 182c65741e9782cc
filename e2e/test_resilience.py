"""Nothing is lost: two people at one segment, a database that goes away, everything killed while saving."""

import json
import re
import threading
import time
import urllib.error
import urllib.request
from http.cookiejar import CookieJar
from typing import Any
from uuid import uuid4

from playwright.sync_api import Page, expect

from e2e.browser_case import BrowserCase
from ops.application import Application
from ops.database.server import Database

AWAY = 503  # what a server answers while its database is not there yet
WRITES = 9  # acknowledged before everything is killed while the next is under way
FOREVER_SECONDS = 300
SAVED = re.compile("change W9 · saved")


def retype_length(page: Page, length: str) -> None:
    """Edit W9's length."""
    page.keyboard.press("e")
    page.get_by_role("dialog").get_by_label("Length").fill(length)
    page.get_by_role("button", name="Save").click()


class TwoPeople(BrowserCase):
    signs_in_by_hand = True

    def _conflict(self, first: str, second: str) -> tuple[Page, Page]:
        """Two open the same segment; the second to save sees both values."""
        mine, theirs = self.open_cold_box(), self.open_cold_box()
        mine.keyboard.press("e")
        retype_length(theirs, first)
        expect(theirs.get_by_text(SAVED)).to_be_visible()
        mine.get_by_role("dialog").get_by_label("Length").fill(second)
        mine.get_by_role("button", name="Save").click()
        conflict = mine.get_by_role("dialog", name="Changed by someone else meanwhile")
        expect(conflict.get_by_role("row", name="length")).to_contain_text(first)
        expect(conflict.get_by_role("row", name="length")).to_contain_text(second)
        return mine, theirs

    def test_mine_is_written_over_theirs_only_when_i_say_so(self) -> None:
        mine, theirs = self._conflict("14 ft", "3.7 m")
        mine.get_by_role("button", name="Keep mine").click()
        expect(mine.get_by_role("option", name="W9, wire, 10 AWG, 3.7 m")).to_be_visible()
        theirs.reload()
        expect(theirs.get_by_role("option", name="W9, wire, 10 AWG, 3.7 m")).to_be_visible()

    def test_theirs_stays_when_i_keep_it_and_undo_does_not_reach_it(self) -> None:
        mine, theirs = self._conflict("15 ft", "3.9 m")
        mine.get_by_role("button", name="Keep theirs").click()
        expect(mine.get_by_role("option", name="W9, wire, 10 AWG, 15 ft")).to_be_visible()
        expect(mine.get_by_role("dialog")).to_have_count(0)
        theirs.keyboard.press("Control+z")
        expect(theirs.get_by_text("undone: change W9")).to_be_visible()
        expect(theirs.get_by_role("option", name="W9, wire, 10 AWG, 15 ft")).to_have_count(0)


class DatabaseAway(BrowserCase):
    stands_alone = True

    def test_what_was_typed_is_kept_over_a_reload_and_saved_when_it_is_back(self) -> None:
        page = self.open_cold_box()
        self.may_be_away = True
        database = self.application.database
        assert isinstance(database, Database) and database.process
        database.process.kill()
        database.process.wait()
        self.assertEqual(self._health(), (503, "away"))
        retype_length(page, "3.3 m")
        expect(page.get_by_text("The database is away")).to_be_visible()
        expect(page.get_by_text("Your change is kept")).to_be_visible()
        expect(page.get_by_role("dialog").get_by_label("Length")).to_have_value("3.3 m")
        database.start()
        expect(page.get_by_role("option", name="W9, wire, 10 AWG, 3.3 m")).to_be_visible(timeout=30_000)
        expect(page.get_by_text("The database is away")).to_have_count(0)
        self.assertEqual(self._health(), (200, "ok"))

    def test_a_change_waits_in_the_browser_while_the_server_is_gone(self) -> None:
        page = self.open_cold_box()
        self.may_be_away = True
        page.context.set_offline(True)
        retype_length(page, "2.2 m")
        expect(page.get_by_text("The server is out of reach")).to_be_visible()
        page.context.set_offline(False)
        expect(page.get_by_role("option", name="W9, wire, 10 AWG, 2.2 m")).to_be_visible(timeout=30_000)

    def _health(self) -> tuple[int, str]:
        try:
            with urllib.request.urlopen(f"{self.application.address}/healthz") as answer:
                return answer.status, json.load(answer)["database"]
        except urllib.error.HTTPError as refusal:
            with refusal:
                return refusal.code, json.load(refusal)["database"]


class Person:
    """Someone at the API, without a browser."""

    def __init__(self, application: Application) -> None:
        self.address = application.address
        self.jar = CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.call("GET", "/session")
        self.call("POST", "/session", {"username": "valbruna", "password": "market-van-round"})

    def call(self, method: str, path: str, body: Any = None) -> Any:
        """The JSON answer; OSError when there is none."""
        token = next((cookie.value or "" for cookie in self.jar if cookie.name == "csrftoken"), "")
        headers = {"X-CSRFToken": token, "Content-Type": "application/json"}
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"{self.address}/api{path}", data, headers, method=method)
        with self.opener.open(request, timeout=10) as answer:
            return json.load(answer)


class Durability(BrowserCase):
    stands_alone = True

    def test_every_acknowledged_write_survives_kill_nine(self) -> None:
        job = str(Person(self.application).call("GET", "/jobs")[0]["id"])
        acknowledged: list[str] = []
        for _ in range(3):
            self._write_until_killed(job, acknowledged)
            self.application.start()
        self.assertGreater(len(acknowledged), 20)
        points = {point["name"] for point in Person(self.application).call("GET", f"/jobs/{job}")["points"]}
        self.assertEqual([name for name in acknowledged if name not in points], [])

    def _write_until_killed(self, job: str, acknowledged: list[str]) -> None:
        person = Person(self.application)
        enough, before = threading.Event(), len(acknowledged)

        def write() -> None:
            while True:
                name = f"Point {uuid4()}"
                try:
                    person.call("POST", f"/jobs/{job}/edits", {"edits": [{"do": "add point", "name": name}]})
                except urllib.error.HTTPError as refusal:
                    if refusal.code != AWAY:
                        return
                except OSError:
                    return
                else:
                    acknowledged.append(name)
                if len(acknowledged) >= before + WRITES:
                    enough.set()

        writer = threading.Thread(target=write)
        writer.start()
        enough.wait(FOREVER_SECONDS)
        database = self.application.database
        assert isinstance(database, Database) and database.process
        for each in (*self.application.web[0].processes, database.process):
            each.kill()
        self.application.stop()
        writer.join(30)
        time.sleep(0.2)
