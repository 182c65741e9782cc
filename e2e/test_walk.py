"""The whole walk of a circuit in a real browser, from an empty job to a verdict that is still there tomorrow."""

import re

from playwright.sync_api import Page, expect

from e2e.browser_case import AXE, BrowserCase


def fill(page: Page, **fields: str) -> None:
    """Type into the open dialog's fields, by label."""
    dialog = page.get_by_role("dialog")
    for label, text in fields.items():
        dialog.get_by_label(label.replace("_", " "), exact=True).fill(text)


class Walk(BrowserCase):
    def test_from_an_empty_start_to_a_verdict(self) -> None:
        page = self.open_browser()
        self.sign_in(page)
        self._open_job(page)
        self._lay_circuit(page)
        self._insert_fuse(page)
        self._change_size_by_keyboard(page)
        self._log_reading(page)
        self._find_it_all_again()

    def _open_job(self, page: Page) -> None:
        page.keyboard.press("n")
        fill(page, Job="Spray pump", Vehicle="Orchard sprayer", Complaint_or_wish="Weak spray at the far rows")
        page.get_by_role("button", name="Open job").click()
        expect(page.get_by_text("No circuits yet")).to_be_visible()

    def _lay_circuit(self, page: Page) -> None:
        page.get_by_role("button", name="New circuit").click()
        page.get_by_role("option", name="Plain circuit").click()
        fill(page, Circuit="Spray pump feed", Device="Pump", Design_current="20", Voltage_at_the_source="13 V")
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_text('"20" has no unit')).to_be_visible()
        fill(page, Design_current="20 A")
        dialog.get_by_label("It must").click()
        page.get_by_role("option", name="lose at most … V").click()
        fill(
            page,
            Target="1.15 V",
            Takes_its_current_from="Stud",
            Wire_out_to_the_device="15 ft",
            Returns_to="B− post",
            Wire_back="15 ft",
        )
        expect(dialog.get_by_text("4.57 m · 15.0 ft").first).to_be_visible()
        dialog.get_by_label("Sizes in").click()
        page.get_by_role("option", name="AWG").click()
        dialog.get_by_role("button", name="Add it").click()
        expect(page.get_by_role("heading", name="Spray pump feed")).to_be_visible()
        # 20 A × 9.144 m × 3.707 mΩ/m (17.24 mΩ·mm²/m over SAE J1128's 4.65 mm²) × 1.152 at 59 °C: 12.22 V arrive.
        expect(page.get_by_text("12.22")).to_be_visible()
        expect(page.get_by_text("Nothing protects Spray pump feed.")).to_be_visible()

    def _insert_fuse(self, page: Page) -> None:
        page.get_by_role("option", name="W1, wire").click()
        page.keyboard.press("n")
        page.get_by_text("before W1", exact=True).click()
        fill(page, Rating="22 A")
        page.get_by_role("button", name="Insert", exact=True).last.click()
        expect(page.get_by_role("dialog").get_by_text("22 A is not a standard fuse")).to_be_visible()
        fill(page, Rating="25 A")
        page.get_by_role("button", name="Insert", exact=True).last.click()
        expect(page.get_by_role("heading", name=re.compile("F1 Stud"))).to_be_visible()
        expect(page.get_by_text("No problems found on this route.")).to_be_visible()

    def _change_size_by_keyboard(self, page: Page) -> None:
        page.keyboard.press("ArrowRight")
        expect(page.get_by_role("heading", name=re.compile("W1 F1 out"))).to_be_visible()
        page.keyboard.press("ArrowUp")
        # 12 AWG, 2.91 mm², for 15 of 30 ft: 20 × 4.572 × (5.92 × 1.179 at 65 °C + 3.71 × 1.152) mΩ/m + 0.08 V = 1.11 V.
        expect(page.get_by_text("1.11", exact=False).first).to_be_visible()
        expect(page.locator(".headline .verdict")).to_contain_text("close")
        page.keyboard.press("Escape")
        expect(page.locator(".headline .verdict")).to_contain_text("within")
        page.keyboard.press("ArrowUp")
        page.get_by_role("button", name="Keep it").wait_for()
        page.keyboard.press("Enter")
        expect(page.get_by_text(re.compile("change W1 · saved"))).to_be_visible()
        expect(page.get_by_role("option", name="W1, wire, 12 AWG")).to_be_visible()

    def _log_reading(self, page: Page) -> None:
        page.keyboard.press("r")
        fill(page, The_meter_says="400 mV", Current_at_the_time="3 A")
        page.get_by_role("button", name="Log it").click()
        expect(page.get_by_text("load the circuit to at least 4 A")).to_be_visible()
        fill(page, Current_at_the_time="10 A")
        page.get_by_role("button", name="Log it").click()
        # 400 mV at 10 A is 40 mΩ: 800 mV at 20 A where 639 mV are computed, so 1.27 V of 1.15 V in all.
        readings = page.get_by_label("Readings here")
        expect(readings.get_by_text("as 800 mV at design current")).to_be_visible()
        expect(readings.get_by_text("over", exact=False).first).to_be_visible()

    def _find_it_all_again(self) -> None:
        page = self.open_browser()
        self.sign_in(page)
        page.get_by_role("link", name="Orchard sprayer").click()
        line = page.get_by_role("row", name=re.compile("Spray pump feed"))
        expect(line).to_contain_text("800 mV")
        expect(line).to_contain_text("close")
        line.get_by_role("link").click()
        expect(page.get_by_role("option", name="W1, wire, 12 AWG, 15 ft")).to_be_visible()


class Jobs(BrowserCase):
    def test_rename_duplicate_archive_by_keyboard(self) -> None:
        page = self.open_browser()
        self.sign_in(page)
        page.get_by_role("link", name="Mobile market van").wait_for()
        page.keyboard.press("F2")
        fill(page, Job="Cold box for winter")
        page.get_by_role("button", name="Rename").click()
        expect(page.get_by_role("link", name="Cold box for winter")).to_be_visible()
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.keyboard.press("d")
        page.get_by_role("button", name="Duplicate").click()
        expect(page.get_by_role("link", name="Cold box for winter, copy")).to_be_visible()
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.keyboard.press("a")
        expect(page.get_by_role("link", name="Cold box for winter, copy")).to_have_count(0)
        page.get_by_role("switch", name="archived").click()
        expect(page.get_by_role("link", name="Cold box for winter, copy")).to_be_visible()


class Hands(BrowserCase):
    def test_delete_and_undo_by_keyboard_and_the_list_of_keys(self) -> None:
        page = self.open_cold_box()
        page.get_by_role("option", name="X4, connector").click()
        page.keyboard.press("Delete")
        expect(page.get_by_role("option", name="X4, connector")).to_have_count(0)
        page.keyboard.press("Control+z")
        expect(page.get_by_role("option", name="X4, connector")).to_be_visible()
        page.keyboard.press("Shift+?")
        expect(page.get_by_role("dialog", name="Keys")).to_contain_text("move it towards the source")
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.keyboard.press("/")
        expect(page.get_by_role("dialog").locator("input:focus")).to_have_count(1)
        page.keyboard.type("lamps")
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name="Work lamps", exact=True)).to_be_visible()

    def test_a_cure_is_tried_before_it_is_kept(self) -> None:
        page = self.open_cold_box()
        self.thin_w9(page)
        page.get_by_role("button", name=re.compile("Try W9 as")).first.click()
        expect(page.locator(".headline .verdict")).not_to_contain_text("over")
        page.get_by_role("button", name="Put back").click()
        expect(page.locator(".headline .verdict")).to_contain_text("over")

    def test_every_screen_is_free_of_serious_barriers(self) -> None:
        source = AXE.read_text()
        for dark in (False, True):
            page = self.open_browser(dark=dark)
            page.get_by_role("button", name="Sign in").wait_for()
            self._check(page, source, "sign-in")
            self.sign_in(page)
            self._check(page, source, "jobs")
            self.open_job(page, "Mobile market van")
            self._check(page, source, "board")
            page.keyboard.press("n")
            page.get_by_role("dialog").wait_for()
            self._check(page, source, "kinds of route")
            page.keyboard.type("bypass")
            page.keyboard.press("Enter")
            page.get_by_label("The alternator makes up to").wait_for()
            self._check(page, source, "route starter")
            page.keyboard.press("Escape")
            page.get_by_role("dialog").wait_for(state="detached")
            self._check_loads(page, source)
            page.keyboard.press("h")
            page.get_by_role("heading", name="Wire schedule").wait_for()
            self._check(page, source, "sheets")
            page.keyboard.press("v")
            page.get_by_role("treeitem").first.wait_for()
            self._check(page, source, "map")
            page.get_by_role("tab", name="segments").click()
            page.get_by_label("Find a segment").wait_for()
            self._check(page, source, "vehicle")
            page.keyboard.press("Escape")
            page.get_by_role("tab", name="devices").click()
            page.keyboard.press("n")
            page.get_by_role("dialog").wait_for()
            self._check(page, source, "new device")
            page.keyboard.press("Escape")
            page.get_by_role("dialog").wait_for(state="detached")
            page.keyboard.press("b")
            page.get_by_role("link", name="Cold box feed").click()
            page.get_by_role("heading", name="Cold box feed").wait_for()
            self._check(page, source, "circuit")
            page.keyboard.press("a")
            page.get_by_text("The least copper").wait_for()
            self._check(page, source, "route sizes")
            page.keyboard.press("Escape")
            for key, name in (("r", "reading"), ("e", "segment"), ("p", "points"), ("Shift+?", "keys")):
                page.keyboard.press(key)
                page.get_by_role("dialog").wait_for()
                self._check(page, source, name)
                page.keyboard.press("Escape")
                page.get_by_role("dialog").wait_for(state="detached")

    def _check_loads(self, page: Page, source: str) -> None:
        page.keyboard.press("l")
        page.get_by_label("Demand against capability by scenario").wait_for()
        self._check(page, source, "loads")
        for key, ready, name in (("n", "Find a consumer", "typical consumers"), ("e", "Or its power", "load")):
            page.keyboard.press(key)
            page.get_by_label(ready).wait_for()
            self._check(page, source, name)
            page.keyboard.press("Escape")
            page.get_by_role("dialog").wait_for(state="detached")

    def _check(self, page: Page, source: str, screen: str) -> None:
        page.evaluate(source)
        found = page.evaluate("async () => (await axe.run()).violations")
        serious = [
            f"{each['id']}: {each['nodes'][0]['html'][:160]}"
            for each in found
            if each["impact"] in ("serious", "critical")
        ]
        self.assertEqual(serious, [], screen)
