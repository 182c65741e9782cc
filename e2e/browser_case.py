"""A real Percorso on a database of its own, and a real browser in front of it."""

import os
import re
import shutil
import tempfile
import unittest
from functools import cache
from pathlib import Path
from typing import ClassVar

from playwright.sync_api import Browser, BrowserContext, Page, Playwright, expect, sync_playwright

from ops.application import ROOT, Application
from ops.processes.ports import free_port
from ops.trials.started import STARTED, SharedDemo, lay_started

AXE = ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js"
A3, A4 = (1191, 841), (841, 594)  # points, lying: 420 mm by 297 mm, and 297 mm by 210 mm
WAIT_MS = 20_000  # a slow machine is not a fault
expect.set_options(timeout=WAIT_MS)
# Whether the page's own store holds an answer, found by words of its key.
IS_KEPT = """(words) => new Promise((done) => {
  const opened = indexedDB.open("percorso");
  opened.onsuccess = () => {
    const slots = opened.result.transaction("kept").objectStore("kept").getAll();
    slots.onsuccess = () => done(slots.result.some((each) => each.includes(words)));
    opened.result.close();
  };
})"""


@cache
def playwright() -> Playwright:
    """One for all tests of this process, as what follows."""
    return sync_playwright().start()


@cache
def _browser() -> Browser:
    return playwright().chromium.launch(executable_path="/usr/bin/chromium", args=["--no-sandbox"])


@cache
def _shared() -> SharedDemo:
    return SharedDemo(Path(tempfile.mkdtemp(prefix="percorso-shared-", dir=os.environ.get(STARTED))))


class BrowserCase(unittest.TestCase):
    """Opens a browser on a Percorso with the demo, which is as its first start left it when the class begins.

    A page with an error on its console, an answer of 500 or more, or a step out of the origin fails its test.
    """

    stands_alone: ClassVar[bool] = False  # on an application of its own: what takes it or its database away
    signs_in_by_hand: ClassVar[bool] = False  # as often as there are browsers: what ends one session ends no other
    application: ClassVar[Application]
    browser: ClassVar[Browser]
    session: ClassVar[dict[str, str]]  # the cookies of somebody who is signed in already, if anybody is

    @classmethod
    def setUpClass(cls) -> None:
        cls.browser = _browser()
        if cls.stands_alone:
            state = Path(tempfile.mkdtemp(prefix="percorso-e2e-"))
            cls.addClassCleanup(shutil.rmtree, state, ignore_errors=True)
            lay_started(state)
            cls.application = Application(state, free_port(), demo=True)
            cls.addClassCleanup(cls.application.stop)
            cls.application.start()
            cls.session = {}
        else:
            shared = _shared()
            shared.begin_again()
            cls.application, cls.session = shared.application, shared.session

    def setUp(self) -> None:
        self.broken: list[str] = []
        self.may_be_away = False  # whether the test takes the server or its database away

    def tearDown(self) -> None:
        self.assertEqual(self.broken, [])

    def open_browser(self, *, dark: bool = False) -> Page:
        """A fresh browser profile on the sign-in page."""
        context: BrowserContext = self.browser.new_context(
            viewport={"width": 1280, "height": 800}, color_scheme="dark" if dark else "light"
        )
        self.addCleanup(context.close)
        context.set_default_timeout(WAIT_MS)
        page = context.new_page()
        page.on("pageerror", lambda error: self.broken.append(str(error)))
        page.on("console", lambda message: self._watch(message.type, message.text))
        page.on("request", lambda request: self._stays_home(request.url))
        page.on("response", lambda response: self._answers(response.status, response.url))
        page.goto(self.application.address)
        return page

    def _watch(self, kind: str, text: str) -> None:
        """A browser also writes refusals (4xx) to the console; those are answers, and other tests look at them."""
        refused = re.match("Failed to load resource: .* status of 4", text)
        away = self.may_be_away and "Failed to load resource" in text
        if kind == "error" and not refused and not away:
            self.broken.append(text)

    def _answers(self, status: int, url: str) -> None:
        if status >= 500 and not self.may_be_away:
            self.broken.append(f"{status} from {url}")

    def _stays_home(self, url: str) -> None:
        if not url.startswith((self.application.address, "data:", "blob:")):
            self.broken.append(f"left the origin: {url}")

    def sign_in(self, page: Page) -> None:
        """As the demo's person, to the list of jobs."""
        if self.session and not self.signs_in_by_hand:
            at = self.application.address
            page.context.add_cookies([{"name": name, "value": text, "url": at} for name, text in self.session.items()])
            page.goto(at)
        else:
            self.sign_in_by_hand(page)
        page.get_by_role("heading", name="Jobs").wait_for()

    def sign_in_by_hand(self, page: Page) -> None:
        page.get_by_label("Sign-in name").fill("valbruna")
        page.get_by_label("Password", exact=True).fill("market-van-round")
        page.get_by_role("button", name="Sign in").click()

    def open_job(self, page: Page, vehicle: str) -> None:
        """From the list to the board of a job; keys pressed before it is drawn are still the list's."""
        page.get_by_role("link", name=vehicle).click()
        page.wait_for_url(re.compile("/jobs/[^/]+(/vehicle)?$"))
        page.keyboard.press("b")
        page.get_by_role("heading", name=re.compile("^[0-9]+ circuits$")).wait_for()

    def go_offline(self, page: Page, kept: str) -> None:
        """Take the network away once the application, and the answer with `kept` in its key, are on this machine."""
        self.may_be_away = True
        page.wait_for_function("navigator.serviceWorker.controller !== null")
        page.wait_for_function(IS_KEPT, arg=kept)
        page.context.set_offline(True)

    def pages_of_the_map(self, page: Page, paper: str) -> list[tuple[int, int]]:
        """The sizes, in points, of the pages on which the map that is open is printed."""
        page.evaluate("window.print = () => document.body.classList.add('printed')")
        page.evaluate("document.body.classList.remove('printed')")
        page.get_by_role("button", name="Paper ▾").click()
        page.get_by_role("menuitem", name=f"Print on {paper}").click()
        page.locator("body.printed").wait_for()
        boxes = re.findall(rb"/MediaBox \[0 0 (\d+)\S* (\d+)", page.pdf(prefer_css_page_size=True))
        return [(int(width), int(height)) for width, height in boxes]

    def open_cold_box(self, *, dark: bool = False) -> Page:
        """Signed in, on the van's cold box feed, with W9 chosen."""
        page = self.open_browser(dark=dark)
        self.sign_in(page)
        self.open_job(page, "Mobile market van")
        page.get_by_role("link", name="Cold box feed").click()
        page.get_by_role("heading", name="Cold box feed").wait_for()
        page.get_by_role("option", name="W9, wire").click()
        page.get_by_role("heading", name="W9 K3 87").wait_for()
        return page

    def thin_w9(self, page: Page) -> None:
        """W9 as 12 AWG, with which the cold box feed loses more than it may."""
        page.get_by_role("listbox", name="Size ladder").get_by_role("option", name=re.compile("^12 AWG")).click()
        page.get_by_role("button", name="Keep it").click()
        expect(page.get_by_text("change W9 · saved")).to_be_visible()
        expect(page.locator(".headline .verdict")).to_contain_text("over")
