"""From an empty job to a vehicle on one page: laid, a sneak seen, a part found and probed, printed."""

import re

from playwright.sync_api import Page, expect

from e2e.browser_case import A3, BrowserCase

STARTERS = (("Starter", ""), ("Charge", ""), ("Device over a relay", "Rear fan"), ("Device over a relay", "Lift pump"))


class FromNothing(BrowserCase):
    """The sneak joins the plus of two loads that a relay each feeds: with the fuse of the first out, it runs on."""

    def test_by_keyboard(self) -> None:
        page = self._signed_in()
        page.keyboard.press("n")
        page.get_by_label("Job", exact=True).wait_for()
        page.keyboard.type("From nothing")
        page.keyboard.press("Tab")
        page.keyboard.type("Delivery pickup")
        page.keyboard.press("Enter")
        page.get_by_text("No circuits yet").wait_for()
        for number, (starter, device) in enumerate(STARTERS):
            page.keyboard.press("c" if number else "n")
            dialog = page.get_by_role("dialog")
            dialog.get_by_label("What are you wiring?").fill(starter)
            page.keyboard.press("Enter")
            if device:
                dialog.get_by_label("Device", exact=True).fill(device)
            dialog.get_by_role("button", name="Add it").press("Enter")
            self._laid(page)
            page.keyboard.press("v")
            expect(page.get_by_role("treeitem").first).to_be_visible()
        page.keyboard.press("w")
        self._fill_in_the_sneak(page)
        page.keyboard.press("Enter")
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.keyboard.press("m")
        page.keyboard.type("F3")
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        self._both_run_over_the_sneak(page)
        page.keyboard.press("Escape")
        page.keyboard.press("/")
        page.keyboard.type("W12")
        page.keyboard.press("Enter")
        expect(page.locator(".map-panel h2")).to_have_text(re.compile("^W12 "))
        page.keyboard.press("q")
        page.keyboard.press("q")
        self._read_off(page)
        page.keyboard.press("Enter")
        expect(page.get_by_role("region", name="Asked now")).to_have_count(0)
        self.assertEqual(self.pages_of_the_map(page, "A3"), [A3])

    def test_by_thumb_on_the_phone(self) -> None:
        page = self._signed_in()
        page.set_viewport_size({"width": 390, "height": 844})
        page.get_by_role("button", name="New job").click()
        page.get_by_label("Job", exact=True).fill("From nothing, standing")
        page.get_by_label("Vehicle", exact=True).fill("Delivery pickup")
        page.get_by_label("Vehicle", exact=True).press("Enter")
        for starter, device in STARTERS:
            page.get_by_role("button", name="New circuit").first.click()
            dialog = page.get_by_role("dialog")
            dialog.get_by_role("option", name=starter).first.click()
            if device:
                dialog.get_by_label("Device", exact=True).fill(device)
            dialog.get_by_role("button", name="Add it").click()
            self._laid(page)
            page.get_by_role("link", name="Vehicle").click()
            expect(page.get_by_role("treeitem").first).to_be_visible()
        page.get_by_role("button", name="New segment").click()
        self._fill_in_the_sneak(page)
        page.get_by_role("dialog").get_by_role("button", name="Lay it").click()
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.locator("[data-segment] text", has_text=re.compile("^F3$")).click()
        page.get_by_role("button", name="Try").click()
        page.get_by_role("menuitem", name=re.compile("F3")).first.click()
        self._both_run_over_the_sneak(page)
        page.get_by_role("combobox", name="Find a part").click()
        page.keyboard.type("W12")
        page.get_by_role("option", name="W12").click()
        page.get_by_role("button", name="Probe here").click()
        page.get_by_role("button", name="Across the part that is chosen").click()
        self._read_off(page)
        page.get_by_role("button", name="Log it").click()
        expect(page.get_by_role("region", name="Asked now")).to_have_count(0)
        self.assertEqual(self.pages_of_the_map(page, "A3"), [A3])

    def _signed_in(self) -> Page:
        page = self.open_browser()
        self.sign_in(page)
        return page

    def _laid(self, page: Page) -> None:
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.wait_for_url(re.compile("/circuits/"))

    def _fill_in_the_sneak(self, page: Page) -> None:
        dialog = page.get_by_role("dialog")
        for label, text in (
            ("Size", "2.5 mm2"),
            ("Length", "0.4 m"),
            ("From point", "Rear fan +"),
            ("To point", "Lift pump +"),
        ):
            dialog.get_by_label(label, exact=True).fill(text)

    def _both_run_over_the_sneak(self, page: Page) -> None:
        for device in ("Rear fan", "Lift pump"):
            row = page.get_by_role("treeitem", name=re.compile(rf"^M\d {device}"))
            expect(row).to_have_accessible_name(re.compile(", on"))

    def _read_off(self, page: Page) -> None:
        asked = page.get_by_role("region", name="Asked now")
        expect(asked.locator(".should .value")).to_have_text(re.compile(r"V$"))
        page.keyboard.type("0.02")
