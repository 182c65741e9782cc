"""One phone, two people: what one left waiting or looked at is never the other's, and nothing that was read is lost."""

import json
import re
from typing import Any

from playwright.sync_api import BrowserContext, Page, Route, expect

from e2e.browser_case import BrowserCase

COLLEAGUE, STRANGER, PASSWORD = "collega", "forestiera", "una parola lunga"
READINGS = "**/api/jobs/*/readings"
ADD_PEOPLE = f"""
from percorso_server.workshop.models import Person, Shop
ours = Person.objects.get(username="valbruna").shop
theirs, _ = Shop.objects.get_or_create(name="Officina forestiera")
for name, shop in (("{COLLEAGUE}", ours), ("{STRANGER}", theirs)):
    Person.objects.create_user(name, password="{PASSWORD}", shop=shop)
"""
EVERYTHING_KEPT = """() => new Promise((done) => {
  const opened = indexedDB.open("percorso");
  opened.onsuccess = () => {
    const all = opened.result.transaction("kept").objectStore("kept").getAll();
    all.onsuccess = () => done(JSON.stringify(all.result));
    opened.result.close();
  };
})"""


class SharedPhone(BrowserCase):
    signs_in_by_hand = True

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.application.manage("shell", "--verbosity=0", "-c", ADD_PEOPLE)

    def setUp(self) -> None:
        super().setUp()
        self.may_be_away = True

    def enter(self, page: Page, name: str, password: str = PASSWORD) -> None:
        page.get_by_label("Sign-in name").fill(name)
        page.get_by_label("Password", exact=True).fill(password)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("heading", name="Jobs").wait_for()

    def tests_room(self) -> Page:
        page = self.open_browser()
        self.sign_in(page)
        self.open_job(page, "Mobile market van")
        page.goto(f"{page.url}/tests")
        expect(page.get_by_role("region", name="Asked now")).to_be_visible()
        return page

    def log(self, page: Page, times: int) -> None:
        """What is asked for, so many times: a figure, or the first word there is."""
        for _ in range(times):
            asked = page.locator("[aria-label='Asked now'] h2").inner_text()
            box = page.get_by_label(re.compile("^the meter says"))
            if box.count():
                box.fill("0.4")
                page.keyboard.press("Enter")
            else:
                page.locator(".words button").first.click()
            expect(page.locator("[aria-label='Asked now'] h2")).not_to_have_text(asked)

    def logged(self, name: str, password: str = PASSWORD) -> list[Any]:
        """The readings of the van and who took them, as somebody sees them from elsewhere."""
        page = self.open_browser()
        self.enter(page, name, password)
        [van] = [
            each
            for each in json.loads(page.context.request.get(f"{self.application.address}/api/jobs").text())
            if each["vehicle"] == "Mobile market van"
        ]
        return list(
            json.loads(page.context.request.get(f"{self.application.address}/api/jobs/{van['id']}/readings").text())
        )

    def end_session(self, context: BrowserContext) -> None:
        """As when it ran out, or its person was signed out from elsewhere."""
        context.clear_cookies(name="sessionid")

    def wait_with_three(self) -> Page:
        """Three readings that cannot be sent, of somebody whose session ends meanwhile."""
        page = self.tests_room()
        page.context.route(READINGS, self._lose)
        self.log(page, 3)
        expect(page.get_by_text("waiting to save 3")).to_be_visible()
        self.end_session(page.context)
        return page

    def _lose(self, route: Route) -> None:
        if route.request.method == "POST":
            route.abort()
        else:
            route.continue_()

    def test_what_waits_outlives_somebody_else_and_stays_ones_own(self) -> None:
        """Somebody of another shop, and a colleague: neither erases it nor writes it as their own."""
        for other in (STRANGER, COLLEAGUE):
            with self.subTest(other):
                before = self.logged(COLLEAGUE)
                page = self.wait_with_three()
                context = page.context
                tab = context.new_page()
                tab.goto(self.application.address)
                self.enter(tab, other)
                context.unroute(READINGS)
                expect(page.get_by_role("heading", name="Jobs")).to_be_visible()
                for each in (page, tab):
                    each.goto(self.application.address)
                    expect(each.get_by_text("3 changes of valbruna wait in this browser")).to_be_visible()
                self.assertEqual(len(self.logged(COLLEAGUE)), len(before))
                tab.get_by_role("button", name="You").click()
                tab.get_by_role("menuitem", name="Sign out").click()
                self.enter(tab, "valbruna", "market-van-round")
                expect(tab.get_by_text(re.compile("saved"))).to_be_visible()
                new = self.logged(COLLEAGUE)[: len(self.logged(COLLEAGUE)) - len(before)]
                self.assertEqual([each["taken_by"] for each in new], ["valbruna"] * 3)

    def test_one_that_the_server_fails_at_steps_aside_and_the_rest_goes_on(self) -> None:
        page = self.tests_room()
        before = len(self.logged(COLLEAGUE))
        failing: list[str] = []

        def fail(route: Route) -> None:
            key = route.request.headers.get("idempotency-key")
            if key and key in (failing or [key]):
                failing.append(key)
                route.fulfill(status=500, content_type="text/html", body="<h1>Server Error (500)</h1>")
            else:
                route.continue_()

        page.context.route(READINGS, fail)
        self.log(page, 2)
        said = page.get_by_role("alert").filter(has_text="is not saved, and kept in this browser")
        expect(said).to_contain_text("the server answered 500", timeout=60_000)
        self.assertEqual(len(self.logged(COLLEAGUE)), before + 1)
        page.reload()
        expect(said).to_be_visible()
        page.context.unroute(READINGS)
        said.get_by_role("button", name="Try again").click()
        expect(said).to_have_count(0)
        expect(page.get_by_text(re.compile("saved"))).to_be_visible()
        self.assertEqual(len(self.logged(COLLEAGUE)), before + 2)
        self.assertGreater(len(failing), 2)
        self.assertEqual(len(set(failing)), 1)

    def test_what_was_looked_at_is_opened_for_nobody_else(self) -> None:
        """Without a network, after a session that ended by itself and after a stranger signed in."""
        page = self.tests_room()
        context, address = page.context, page.url
        self.go_offline(page, '["tests"')
        page.reload()
        expect(page.get_by_role("region", name="Asked now")).to_be_visible()
        context.clear_cookies()
        page.reload()
        expect(page.get_by_role("region", name="Asked now")).to_have_count(0)
        context.set_offline(False)
        page.goto(self.application.address)
        self.enter(page, STRANGER)
        page.wait_for_function(f"({EVERYTHING_KEPT})().then((kept) => !kept.includes('Blower'))")
        self.go_offline(page, '["jobs"')
        page.goto(address)
        expect(page.get_by_text("Blower")).to_have_count(0)

    def test_signing_out_in_one_tab_wipes_what_all_of_them_kept(self) -> None:
        page = self.tests_room()
        tab = page.context.new_page()
        tab.goto(self.application.address)
        tab.get_by_role("button", name="You").click()
        tab.get_by_role("menuitem", name="Sign out").click()
        expect(tab.get_by_label("Sign-in name")).to_be_visible()
        page.get_by_label("Circuit", exact=True).select_option("Blower")  # what it still shows it does not keep
        page.wait_for_timeout(1000)  # longer than an answer waits before it is kept
        self.assertEqual(page.evaluate(f"({EVERYTHING_KEPT})()"), "[]")
        page.reload()
        expect(page.get_by_label("Sign-in name")).to_be_visible()


class Cases(BrowserCase):
    signs_in_by_hand = True

    def test_what_is_said_of_a_case_is_never_written_over(self) -> None:
        """Trusted and suspected at once while every answer of the case comes late, and by two people."""
        page = self._room()
        page.route("**/cases/**", self._late)
        page.get_by_label("I suspect").select_option("W8")
        page.get_by_label("I suspect").select_option("W2")
        known = page.get_by_role("list", name="What is known")
        for part in ("W8", "W2"):
            expect(known).to_contain_text(f"{part} is suspected")
        theirs = self._room(begun=True)
        part = theirs.get_by_label("I suspect").locator("option").nth(1).get_attribute("value") or ""
        theirs.get_by_label("I suspect").select_option(part)
        expect(theirs.get_by_text(re.compile("saved"))).to_be_visible()
        known.get_by_role("listitem").filter(has_text="W2 is suspected").get_by_role("button").click()
        expect(known).not_to_contain_text("W2 is suspected")
        page.wait_for_timeout(2500)  # whatever comes late has come
        expect(known).not_to_contain_text("W2 is suspected")
        for each in (page, theirs):
            each.unroute_all(behavior="ignoreErrors")
            each.reload()
            listed = each.get_by_role("list", name="What is known")
            for suspect in ("W8", part):
                expect(listed).to_contain_text(f"{suspect} is suspected")
            expect(listed).not_to_contain_text("W2 is suspected")

    def _late(self, route: Route) -> None:
        answer = route.fetch()
        route.request.frame.page.wait_for_timeout(800)
        route.fulfill(response=answer)

    def _room(self, *, begun: bool = False) -> Page:
        """The tractor as planned, that does nothing when cranked."""
        page = self.open_browser()
        self.sign_in(page)
        self.open_job(page, "Vineyard tractor")
        page.keyboard.press("y")
        if not begun:
            page.get_by_role("button", name="Start again").click()
            expect(page.get_by_text("Nothing is known yet")).to_be_visible()
            page.keyboard.press("n")
            page.get_by_role("button", name="Begin with it").click()
        expect(page.get_by_role("list", name="What is known")).to_contain_text("M1 Starter, cranking: does nothing")
        return page
