"""The saving queue in a real browser, with answers that come late, get lost or say no."""

import re
from collections.abc import Callable
from typing import Any

from playwright.sync_api import APIResponse, Page, Route, expect

from e2e.browser_case import BrowserCase

EDITS = re.compile(r"/api/jobs/[^/]+/edits$")
SAVED = re.compile("saved ")


class Line:
    """Stands between a page and the server: sees every write, and lets a test decide what becomes of it."""

    def __init__(self, page: Page) -> None:
        self.keys: list[str] = []  # idempotency keys, in the order in which they set out
        self.names: list[str] = []  # of the points they add
        self.next: list[Callable[[Route], None]] = []  # what becomes of the next ones; after that they go through
        self.held: list[tuple[Route, APIResponse]] = []
        self.page = page
        page.route(EDITS, self._write)

    def _write(self, route: Route) -> None:
        body: Any = route.request.post_data_json
        self.keys.append(route.request.headers["idempotency-key"])
        self.names += [each["name"] for each in body["edits"] if "name" in each]
        (self.next.pop(0) if self.next else Route.continue_)(route)

    def hold(self, route: Route) -> None:
        """The server is told at once, and its answer comes when it is let go."""
        self.held.append((route, route.fetch()))

    def let_go(self) -> None:
        """What is held arrives."""
        for route, answer in self.held:
            route.fulfill(response=answer)

    def cut(self, times: int) -> None:
        """The next writes never reach the server."""
        self.next += [Route.abort] * times


def late(route: Route) -> None:
    """The server is told at once, and its answer comes a second later."""
    answer = route.fetch()
    route.request.frame.page.wait_for_timeout(1000)
    route.fulfill(response=answer)


def lost(route: Route) -> None:
    """The server writes, and its answer never arrives."""
    route.fetch()
    route.abort()


def away(route: Route) -> None:
    """The server answers that its database is away."""
    told = '{"code": "database-away", "message": "the database does not answer", "problems": []}'
    route.fulfill(status=503, content_type="application/json", body=told)


class Saving(BrowserCase):
    signs_in_by_hand = True

    def setUp(self) -> None:
        super().setUp()
        self.may_be_away = True
        self.page = self.open_browser()
        self.sign_in(self.page)
        self.open_job(self.page, "Mobile market van")
        self.page.keyboard.press("v")
        self.open_points(self.page)
        self.line = Line(self.page)

    def open_points(self, page: Page) -> None:
        """The list of points, in the room of the vehicle."""
        page.get_by_role("button", name="New device").wait_for()
        page.keyboard.press("p")
        page.get_by_role("dialog", name="Points").wait_for()

    def add(self, name: str, page: Page | None = None) -> None:
        """Ask for a new point, without waiting for it."""
        dialog = (page or self.page).get_by_role("dialog", name="Points")
        dialog.get_by_label("New point").fill(name)
        dialog.get_by_role("button", name="Add", exact=True).click()

    def there(self, *names: str, page: Page | None = None) -> None:
        """Every point is there once."""
        for name in names:
            expect((page or self.page).get_by_label(f"Name of {name}", exact=True)).to_have_count(1, timeout=30_000)

    def test_late_answers_keep_the_order(self) -> None:
        self.line.next = [self.line.hold, late]
        for name in ("Late 1", "Late 2", "Late 3"):
            self.add(name)
        expect(self.page.get_by_text("saving …")).to_be_visible()
        self.line.let_go()
        self.there("Late 1", "Late 2", "Late 3")
        self.assertEqual(self.line.names, ["Late 1", "Late 2", "Late 3"])
        self.assertEqual(len(set(self.line.keys)), 3)

    def test_a_lost_answer_is_asked_for_again_with_the_same_key_and_written_once(self) -> None:
        self.line.next = [lost]
        self.add("Lost and found")
        self.there("Lost and found")
        self.assertEqual(len(self.line.keys), 2)
        self.assertEqual(len(set(self.line.keys)), 1)
        self.page.keyboard.press("Escape")
        self.page.keyboard.press("Control+z")
        expect(self.page.get_by_text("undone: add point Lost and found")).to_be_visible()
        self.open_points(self.page)
        expect(self.page.get_by_label("Name of Lost and found")).to_have_count(0)

    def test_a_database_away_in_the_middle_holds_up_those_behind_it(self) -> None:
        self.line.next = [Route.continue_, *[away] * 100]
        for name in ("Before", "Held up", "Behind"):
            self.add(name)
        expect(self.page.get_by_text("The database is away")).to_be_visible()
        expect(self.page.get_by_text("Your 2 changes are kept")).to_be_visible()
        self.line.next.clear()
        self.there("Before", "Held up", "Behind")
        self.assertEqual(self.line.names, ["Before", *["Held up"] * (len(self.line.names) - 2), "Behind"])
        expect(self.page.get_by_text("The database is away")).to_have_count(0)

    def test_what_is_refused_is_said_and_what_comes_after_goes_through(self) -> None:
        self.add("Main stud")
        expect(self.page.get_by_text("that name is already used in this job")).to_be_visible()
        self.add("After no")
        self.there("After no")

    def test_what_waits_outlives_a_reload(self) -> None:
        self.line.cut(100)
        self.add("Kept 1")
        self.add("Kept 2")
        expect(self.page.get_by_text("The server is out of reach")).to_be_visible()
        expect(self.page.get_by_text("waiting to save 2")).to_be_visible()
        self.page.reload()
        expect(self.page.get_by_text("The server is out of reach")).to_be_visible()
        self.line.next.clear()
        self.open_points(self.page)
        self.there("Kept 1", "Kept 2")
        self.assertEqual(len(set(self.line.keys)), 2)

    def test_two_tabs_keep_what_is_theirs(self) -> None:
        """One cannot reach the server, the other can; the first is closed; a third takes up what it left."""
        other = self.page.context.new_page()
        other.goto(self.page.url)
        self.open_points(other)
        self.line.cut(100)
        self.add("Of the first")
        expect(self.page.get_by_text("waiting to save 1")).to_be_visible()
        self.add("Of the second", other)
        self.there("Of the second", page=other)
        self.page.close()
        other.reload()
        expect(other.get_by_text(SAVED)).to_be_visible()
        self.open_points(other)
        self.there("Of the first", "Of the second", page=other)

    def test_a_conflict_found_after_a_reload_is_still_asked_about(self) -> None:
        self.page.keyboard.press("Escape")
        self.page.goto(self.page.url.replace("/vehicle", ""))
        self.page.get_by_role("link", name="Cold box feed").click()
        self.page.get_by_role("option", name="W9, wire").click()
        self.page.get_by_role("heading", name="W9 K3 87").wait_for()
        self.line.cut(100)
        self._retype_w9(self.page, "3.1 m")
        expect(self.page.get_by_text("waiting to save 1")).to_be_visible()
        theirs = self.open_cold_box()
        self._retype_w9(theirs, "2.9 m")
        expect(theirs.get_by_text(SAVED)).to_be_visible()
        self.page.reload()
        self.line.next.clear()
        asked = self.page.get_by_role("dialog", name="Changed by someone else meanwhile")
        expect(asked.get_by_role("row", name="length")).to_contain_text("2.9 m", timeout=30_000)
        asked.get_by_role("button", name="Keep mine").click()
        expect(self.page.get_by_role("option", name="W9, wire, 10 AWG, 3.1 m")).to_be_visible()

    def _retype_w9(self, page: Page, length: str) -> None:
        page.keyboard.press("e")
        page.get_by_role("dialog").get_by_label("Length").fill(length)
        page.get_by_role("button", name="Save").click()
