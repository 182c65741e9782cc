"""The Trace room: from what a customer says over the next best test to who is suspected, by keyboard and by mouse."""

import re

from playwright.sync_api import Page, expect

from e2e.browser_case import AXE, BrowserCase


class TraceRoom(BrowserCase):
    def room(self) -> Page:
        """The tractor as planned, that does nothing when cranked."""
        page = self.open_browser()
        self.sign_in(page)
        self.open_job(page, "Vineyard tractor")
        page.keyboard.press("y")
        page.get_by_role("button", name="Start again").click()
        expect(page.get_by_text("Nothing is known yet")).to_be_visible()
        page.keyboard.press("n")
        expect(page.get_by_role("dialog").get_by_label("It", exact=True)).to_have_value("does nothing when cranked")
        page.get_by_role("button", name="Begin with it").click()
        expect(page.get_by_role("list", name="What is known")).to_contain_text("M1 Starter, cranking: does nothing")
        return page

    def test_a_reading_moves_suspicion_can_be_doubted_and_outlives_a_reload(self) -> None:
        page = self.room()
        suspects = page.get_by_role("complementary", name="Suspects")
        expect(suspects.get_by_role("listitem").first).to_contain_text("%")
        expect(page.get_by_role("table")).to_contain_text(re.compile("a lot|some"))
        before = suspects.inner_text()
        page.keyboard.press("1")
        expect(page.get_by_role("region", name="Asked now")).to_be_visible()
        box = page.get_by_label(re.compile("^the meter says"))
        if box.count():
            box.fill("0")
            page.keyboard.press("Enter")
        else:
            page.locator(".words button").last.click()
        known = page.get_by_role("list", name="What is known").get_by_role("listitem")
        expect(known).to_have_count(2)
        expect(suspects).not_to_have_text(before)
        page.reload()
        expect(known).to_have_count(2)
        page.get_by_role("button", name="doubt it").click()
        expect(page.get_by_text("a reading is doubted")).to_be_visible()
        page.get_by_role("button", name="trust it").click()
        page.get_by_label("What if I just replaced").select_option(index=1)
        expect(suspects).to_contain_text(re.compile("of 100 times for nothing"))
        page.get_by_label("I suspect").select_option("W8")
        expect(known.last).to_contain_text("W8 is suspected")
        expect(suspects.get_by_role("listitem").filter(has_text="W8")).to_contain_text("suspected")
        known.last.get_by_role("button", name="take it back").click()
        expect(known).to_have_count(2)
        page.get_by_role("button", name="Start again").click()
        expect(page.get_by_text("Nothing is known yet")).to_be_visible()

    def test_what_was_mended_is_measured_again_until_all_is_well(self) -> None:
        page = self.open_browser()
        self.sign_in(page)
        self.open_job(page, "Vineyard tractor")
        for key in ("s", "f", "y"):
            page.keyboard.press(key)
        expect(page.get_by_role("heading", name="Most likely J1")).to_be_visible()
        page.get_by_role("button", name="J1 fixed, measure again").click()
        known = page.get_by_role("list", name="What is known")
        expect(known).to_contain_text("J1 fixed")
        page.get_by_role("region", name="Measure again").get_by_role("button", name="M1 Starter").click()
        page.get_by_role("button", name="it works").or_(page.locator(".words button").first).first.click()
        expect(page.get_by_text("Every reading since the repair is as it should be.")).to_be_visible()
        expect(page.get_by_role("complementary", name="Suspects")).to_contain_text("it is fixed")
        page.reload()
        expect(known).to_contain_text("J1 fixed")
        known.get_by_role("listitem").filter(has_text="J1 fixed").get_by_role("button").click()
        expect(known).not_to_contain_text("J1 fixed")

    def test_a_cure_goes_into_the_plan_once(self) -> None:
        page = self.open_browser()
        self.sign_in(page)
        self.open_job(page, "School minibus")
        for key in ("s", "f", "y"):
            page.keyboard.press(key)
        expect(page.get_by_role("heading", name="Most likely W10")).to_be_visible()
        page.get_by_role("button", name="into the plan: replace the whole run").click()
        expect(page.get_by_role("button", name="into the plan")).to_have_count(0)
        page.keyboard.press("Control+z")
        expect(page.get_by_role("button", name="into the plan")).to_have_count(2)

    def test_on_a_phone_without_network_what_is_listed_can_be_measured(self) -> None:
        page = self.room()
        page.set_viewport_size({"width": 390, "height": 844})
        self.go_offline(page, '["trace"')
        for number in ("1", "2"):
            page.keyboard.press(number)
            expect(page.get_by_role("region", name="Asked now")).to_be_visible()
            said = page.get_by_label(re.compile("^the meter says"))
            if said.count():
                page.locator(".pad").get_by_role("button", name="0", exact=True).click()
                page.get_by_role("button", name="Log it").click()
            else:
                page.locator(".words button").last.click()
        expect(page.get_by_text("waiting to save 4")).to_be_visible()  # two readings, and that they count
        page.reload()
        expect(page.get_by_role("list", name="What is known")).to_be_visible()
        page.context.set_offline(False)
        expect(page.get_by_role("list", name="What is known").get_by_role("listitem")).to_have_count(3)

    def test_a_device_must_be_said_and_nobody_is_shut_out(self) -> None:
        page = self.room()
        page.keyboard.press("n")
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("It", exact=True).click()
        page.get_by_role("option", name="something is dead").click()
        dialog.get_by_role("button", name="Begin with it").click()
        expect(dialog).to_contain_text("Say which device it is.")
        page.keyboard.press("Escape")
        page.get_by_role("dialog").wait_for(state="detached")
        page.evaluate(AXE.read_text())
        for width, height in ((1280, 800), (390, 844)):
            page.set_viewport_size({"width": width, "height": height})
            found = page.evaluate("async () => (await axe.run()).violations")
            serious = [each["id"] for each in found if each["impact"] in ("serious", "critical")]
            self.assertEqual(serious, [], width)
