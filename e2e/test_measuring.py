"""Tests under the vehicle: a phone without network, two phones, a wrong clock, a dead battery, a killed server."""

import json
import re
import shutil
import subprocess
import tempfile
import time
from datetime import UTC, datetime, timedelta
from typing import Any

from playwright.sync_api import BrowserContext, Page, Route, expect

from e2e.browser_case import WAIT_MS, BrowserCase, playwright

PHONE = {"width": 390, "height": 844}
ARRIVED_S = 60
A_DAY_AHEAD = """() => {
  const now = Date.now.bind(Date), Real = Date, ahead = 24 * 3600 * 1000;
  window.Date = class extends Real { constructor(...said) { said.length ? super(...said) : super(now() + ahead) } };
  window.Date.now = () => now() + ahead;
}"""

# What waits is read from the machine's disk half a second late.
A_SLOW_DISK = """() => {
  const open = IDBFactory.prototype.open;
  IDBFactory.prototype.open = function (name, version) {
    const request = open.call(this, name, version);
    if (name === "percorso-waiting")
      Object.defineProperty(request, "onsuccess", {
        set: (then) => request.addEventListener("success", (event) => setTimeout(() => then.call(request, event), 500)),
      });
    return request;
  };
}"""


class Measuring(BrowserCase):
    stands_alone = True

    def setUp(self) -> None:
        super().setUp()
        self.may_be_away = True

    def phone(self, context: BrowserContext | None = None) -> Page:
        """The van's tests on a phone."""
        page = context.new_page() if context else self.open_browser()
        page.set_viewport_size({"width": PHONE["width"], "height": PHONE["height"]})
        if context:
            context.set_default_timeout(WAIT_MS)
            page.goto(self.application.address)
        self.sign_in(page)
        self.open_job(page, "Mobile market van")
        page.goto(f"{page.url}/tests")
        self.asked(page)
        page.wait_for_function("navigator.serviceWorker.controller !== null")
        return page

    def asked(self, page: Page) -> None:
        expect(page.get_by_role("region", name="Asked now")).to_be_visible()

    def choose(self, page: Page, circuit: str) -> None:
        page.get_by_label("Circuit", exact=True).select_option(circuit)
        expect(page.get_by_role("heading", name=re.compile(f"^{circuit}:"))).to_be_visible()

    def log(self, page: Page, value: str) -> None:
        """Type a figure on the pad, or say what is expected where a word is asked for."""
        said = page.get_by_label(re.compile("^the meter says"))
        if said.count():
            for figure in value:
                page.locator(".pad").get_by_role("button", name=figure, exact=True).click()
            page.get_by_role("button", name="Log it, next").click()
        else:
            page.locator(".words button").first.click()

    def logged(self, page: Page) -> list[Any]:
        """Every reading of the job, the newest first."""
        job = page.url.split("/jobs/")[1].split("/")[0]
        listed = page.context.request.get(f"{self.application.address}/api/jobs/{job}/readings")
        return list(json.loads(listed.text()))

    def arrived(self, page: Page, count: int) -> list[Any]:
        """The readings of the job once there are so many, and nothing waits any more."""
        ends = time.monotonic() + ARRIVED_S
        while len(listed := self.logged(page)) < count and time.monotonic() < ends:
            time.sleep(0.2)
        expect(page.locator(".page-head .waits")).to_have_count(0)
        self.assertEqual(len(self.logged(page)), count)
        return listed

    def test_a_hundred_readings_without_network_arrive_once_and_in_order(self) -> None:
        page = self.phone()
        page.add_init_script(f"({A_SLOW_DISK})()")
        before = {each["id"] for each in self.logged(page)}
        self.go_offline(page, '["tests"')
        for number in range(100):
            self.log(page, f"0.{number:02}")
            if number in (30, 70):  # the phone sleeps and wakes, or the page is loaded anew
                page.reload()
                self.asked(page)
        expect(page.locator(".waits").first).to_contain_text("no network, 100 wait")
        page.context.set_offline(False)
        new = [each for each in reversed(self.arrived(page, len(before) + 100)) if each["id"] not in before]
        values = [each["measurement"]["value"] for each in new if each["measurement"]["value"] is not None]
        self.assertEqual(values, sorted(values))
        self.assertGreater(len(values), 40)

    def test_a_server_that_is_killed_before_it_answers_writes_once(self) -> None:
        page = self.phone()
        self.choose(page, "Blower")
        before = len(self.logged(page))
        killed: list[int] = []
        [web] = self.application.web

        def kill_before_the_answer(route: Route) -> None:
            if route.request.method == "POST" and not killed:
                killed.append(route.fetch().status)
                for each in web.processes:
                    each.kill()
                    each.wait()
                route.abort()
            else:
                route.continue_()

        page.route("**/readings", kill_before_the_answer)
        self.log(page, "0.33")
        expect(page.locator(".waits").first).to_contain_text("no network, 1 waits")
        web.start()
        self.arrived(page, before + 1)
        self.assertEqual(killed, [200])

    def test_two_phones_on_one_job_lose_nothing(self) -> None:
        mine, theirs = self.phone(), self.phone()
        before = len(self.logged(mine))
        for page in (mine, theirs):
            self.choose(page, "Till and scales")
            page.context.set_offline(True)
        for number in range(4):
            self.log(mine, f"0.1{number}")
            self.log(theirs, f"0.2{number}")
        for page in (mine, theirs):
            page.context.set_offline(False)
        listed = self.arrived(mine, before + 8)
        said = sorted(each["measurement"]["value"] for each in listed[:8])
        self.assertEqual(said, [0.1, 0.11, 0.12, 0.13, 0.2, 0.21, 0.22, 0.23])

    def test_a_clock_that_is_wrong_by_a_day(self) -> None:
        page = self.open_browser()
        page.add_init_script(f"({A_DAY_AHEAD})()")
        page.set_viewport_size({"width": PHONE["width"], "height": PHONE["height"]})
        self.sign_in(page)
        self.open_job(page, "Mobile market van")
        page.goto(f"{page.url}/tests")
        self.choose(page, "Fuel pump feed")
        count = len(self.logged(page))
        page.context.set_offline(True)
        self.log(page, "0.30")
        self.log(page, "0.31")
        time.sleep(1)
        page.context.set_offline(False)
        newest, before = self.arrived(page, count + 2)[:2]
        self.assertEqual([newest["measurement"]["value"], before["measurement"]["value"]], [0.31, 0.3])
        taken = datetime.fromisoformat(newest["taken_at"])
        self.assertLess(abs(datetime.now(UTC) - taken), timedelta(minutes=2))

    def test_a_battery_that_dies_loses_nothing(self) -> None:
        folder = tempfile.mkdtemp(prefix="percorso-phone-")
        self.addCleanup(shutil.rmtree, folder, ignore_errors=True)
        page = self.phone(self._browser_of(folder))
        self.choose(page, "Exciter lead")
        page.context.set_offline(True)
        before = len(self.logged_elsewhere())
        self.log(page, "1.11")
        expect(page.locator(".waits").first).to_contain_text("1 waits")
        time.sleep(0.5)
        subprocess.run(["pkill", "-9", "-f", folder], check=False)
        again = self._browser_of(folder)
        self.addCleanup(again.close)
        woken = again.new_page()
        woken.goto(self.application.address)
        who = woken.get_by_label("Sign-in name")  # a browser that dies may forget who it was, and nothing else
        who.or_(woken.get_by_text(re.compile("saved"))).wait_for(timeout=WAIT_MS)
        if who.is_visible():
            self.sign_in(woken)
        expect(woken.get_by_text(re.compile("saved"))).to_be_visible(timeout=WAIT_MS)
        listed = self.logged_elsewhere()
        self.assertEqual((len(listed), listed[0]["measurement"]["value"]), (before + 1, 1.11))

    def _browser_of(self, folder: str) -> BrowserContext:
        return playwright().chromium.launch_persistent_context(
            folder, executable_path="/usr/bin/chromium", args=["--no-sandbox"]
        )

    def logged_elsewhere(self) -> list[Any]:
        """The readings of the van as another browser sees them."""
        page = self.open_browser()
        self.sign_in(page)
        self.open_job(page, "Mobile market van")
        return self.logged(page)
