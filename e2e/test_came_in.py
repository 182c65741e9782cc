"""A vehicle that came in, described by nobody: from the list of jobs to its first test, by thumb and by keyboard."""

import re

from playwright.sync_api import Page, expect

from e2e.browser_case import BrowserCase


class CameIn(BrowserCase):
    def _asked(self, page: Page) -> None:
        """The dialog of a new job, at what came in."""
        self.sign_in(page)
        page.get_by_role("button", name="New job").click()
        page.get_by_text("What came in?", exact=True).first.click()
        expect(page.locator(".came-in-laid")).to_contain_text("all assumed. 10 questions are open.")

    def test_by_thumb_to_the_first_test(self) -> None:
        """A pickup that clicks once: three answers, what the customer says, and what to measure first."""
        page = self.open_browser()
        page.set_viewport_size({"width": 390, "height": 844})
        self._asked(page)
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Job", exact=True).fill("Clicks once")
        dialog.get_by_label("Vehicle").fill("Quarry pickup")
        for answer in ("pickup", "start relay", "Horn"):
            dialog.get_by_text(answer, exact=True).click()
        expect(dialog.get_by_role("treeitem", name=re.compile("Horn"))).to_have_count(2)
        expect(page.locator(".came-in-laid")).to_contain_text("7 questions are open.")
        dialog.get_by_role("button", name="Lay it as found").click()
        expect(page.get_by_role("treeitem", name=re.compile("^K1 Start relay"))).to_be_visible()
        page.get_by_role("link", name="Trace").click()
        page.get_by_role("button", name="The customer says").click()
        page.get_by_role("dialog").get_by_label("It", exact=True).click()
        page.get_by_role("option", name="clicks once").click()
        page.get_by_role("button", name="Begin with it").click()
        page.get_by_role("table").get_by_role("button").first.click()
        expect(page.get_by_role("region", name="Asked now")).to_be_visible()

    def test_by_keyboard_confirmed_as_it_is_assumed(self) -> None:
        page = self.open_browser()
        self._asked(page)
        page.get_by_label("Job", exact=True).press("Tab")
        page.keyboard.type("Grey tractor")
        page.get_by_label("Job", exact=True).focus()
        page.keyboard.type("Lamp glows")
        page.get_by_role("radio", name="don’t know").first.focus()
        page.keyboard.press("ArrowLeft")
        expect(page.get_by_role("radio", name="tractor")).to_be_checked()
        expect(page.locator(".came-in-laid")).to_contain_text("9 questions are open.")
        page.get_by_label("Job", exact=True).press("Enter")
        page.get_by_role("treeitem").first.wait_for()
        page.get_by_role("radiogroup", name="Look").get_by_text("known").click()
        expect(page.get_by_text(re.compile(r"^Of \d+ parts (\d+) are assumed, 0 seen, 0 measured"))).to_be_visible()
        page.keyboard.press("/")
        page.keyboard.type("W1")
        page.keyboard.press("Enter")
        confirm = page.get_by_role("button", name="It is as assumed")
        confirm.wait_for()
        page.keyboard.press("u")
        expect(page.get_by_text(re.compile(", 1 seen, 0 measured"))).to_be_visible()
        expect(page.locator(".map-piece.seen")).to_have_count(1)
        expect(confirm).to_have_count(0)
        page.keyboard.press("ArrowDown")
        confirm.wait_for()
        page.keyboard.press("u")
        expect(page.get_by_text(re.compile(", 2 seen, 0 measured"))).to_be_visible()
        page.keyboard.press("Control+z")
        expect(page.get_by_text(re.compile(", 1 seen, 0 measured"))).to_be_visible()

    def test_a_drop_that_was_read_is_taken_as_measured(self) -> None:
        """60 mV at 60 A over the charge fuse: 1 mΩ, which is offered and then taken."""
        page = self.open_browser()
        self._asked(page)
        page.get_by_label("Job", exact=True).fill("Charges badly")
        page.get_by_label("Vehicle").fill("Grey car")
        page.get_by_role("button", name="Lay it as found").click()
        page.get_by_role("treeitem").first.wait_for()
        page.get_by_role("radiogroup", name="Look").get_by_text("known").click()
        page.locator("[data-segment] text", has_text=re.compile("^F2$")).click()
        page.get_by_role("button", name="Log a reading").click()
        page.get_by_label("The meter says").fill("60 mV")
        page.get_by_label("Current at the time").fill("60 A")
        page.get_by_role("dialog").get_by_role("button", name="Log it").click()
        expect(page.get_by_text("F2 has 1 mΩ by it.")).to_be_visible()
        page.get_by_role("button", name="Take it as measured").click()
        expect(page.get_by_text(re.compile(", 0 seen, 1 measured"))).to_be_visible()
        expect(page.locator(".map-piece.measured")).to_have_count(1)
