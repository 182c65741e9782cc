"""What is live when, in a real browser: the proof, a path, pulling, a drive, and what is tried on the metal."""

import re

from playwright.sync_api import Page, expect

from e2e.browser_case import BrowserCase


class Live(BrowserCase):
    def _open(self, vehicle: str, stage: str) -> Page:
        page = self.open_browser()
        self.sign_in(page)
        self.open_job(page, vehicle)
        for key in ("t", "s", stage):
            page.keyboard.press(key)
        expect(page.get_by_text(re.compile("situations tried"))).to_be_visible()
        return page

    def _path(self, page: Page) -> list[str]:
        pieces = page.get_by_role("listbox", name="Route").get_by_role("option")
        return [text.split(",")[0] for text in pieces.locator("title").all_text_contents()]

    def test_the_lift_on_the_road_is_found_followed_and_gone_as_planned(self) -> None:
        page = self._open("School minibus", "f")
        proof = page.get_by_role("region", name="Proof")
        expect(proof).to_contain_text("7 forbidden things can happen")
        page.get_by_role("button", name="Lift valve is on while driving; it must be off.").click()
        expect(page.get_by_role("heading", name="Why it is on")).to_be_visible()
        self.assertEqual(self._path(page), ["W1", "F6", "W16", "K6", "W30", "W22", "W23", "B1", "J1", "W2"])
        expect(page.get_by_role("complementary", name="Why")).to_contain_text("Heater switch: on")
        cell = page.get_by_role("button", name=re.compile("Y1 Lift valve, on the road: on, must be off, 11.1 V"))
        expect(cell).to_have_attribute("aria-pressed", "true")
        page.keyboard.press("s")
        page.keyboard.press("p")
        expect(proof).to_contain_text("Nothing forbidden can happen")
        expect(page.get_by_role("heading", name="Why it is off")).to_be_visible()

    def test_by_keyboard_from_cell_to_path_to_what_is_meant(self) -> None:
        page = self._open("Vineyard tractor", "f")
        page.keyboard.press("Enter")
        for key in ("ArrowDown", "ArrowDown", "ArrowUp"):
            page.keyboard.press(key)
        expect(page.get_by_role("button", name=re.compile("^M1 Starter, idling"))).to_have_attribute(
            "aria-pressed", "true"
        )
        page.get_by_role("button", name=re.compile("P2 Gauges, cranking")).click()
        expect(page.get_by_role("heading", name="Why its voltage is low")).to_be_visible()
        page.keyboard.press("m")
        dialog = page.get_by_role("dialog", name="What Gauges is meant to do")
        dialog.get_by_role("radiogroup", name="cranking").get_by_text("must run").click()
        dialog.get_by_role("button", name="Save").click()
        expect(page.get_by_text("Gauges gets too little voltage while cranking; it must be on.")).to_be_visible()
        expect(dialog).to_have_count(0)
        page.keyboard.press("Control+z")
        expect(page.get_by_text("Gauges gets too little voltage while cranking; it must be on.")).to_have_count(0)

    def test_what_pulling_does_and_a_drive_that_does_not_end(self) -> None:
        page = self._open("Mobile market van", "f")
        page.keyboard.press("p")
        row = page.get_by_role("row", name=re.compile("^F11 15 A"))
        expect(row).to_contain_text("Fuel pump")
        page.keyboard.press("t")
        expect(page.get_by_role("table", name="Time line")).to_contain_text("engine runs on")
        way = page.get_by_label("Way, Enter goes it")
        way.fill("off, on, idle")
        way.press("Enter")
        expect(page.get_by_text("idle does not come after on; from there it goes to cranking")).to_be_visible()
        way.fill("off, on, cranking, idle oil_pressure=off")
        way.press("Enter")
        expect(page.get_by_role("columnheader", name="idle oil pressure: off")).to_be_visible()
        row = page.get_by_role("row", name=re.compile("^M4 Fuel pump"))
        expect(row.get_by_role("cell").last).to_contain_text(re.compile("^0.0$"))

    def test_what_is_tried_on_the_metal_is_marked_and_gone(self) -> None:
        page = self.open_cold_box()
        page.get_by_role("option", name=re.compile("^K3,")).click()
        page.keyboard.press("m")
        page.get_by_role("menuitem", name="jumper across K3").click()
        tried = page.get_by_role("status").filter(has_text="Tried on the vehicle, not in the plan")
        expect(tried).to_contain_text("jumper across K3 → Cold box: low voltage, ")
        expect(page.get_by_role("menu")).to_have_count(0)
        page.keyboard.press("s")
        page.keyboard.press("1")
        expect(page.get_by_text(re.compile("It must be off in this state and gets 11.4 V"))).to_be_visible()
        page.keyboard.press("Escape")
        expect(tried).to_have_count(0)
        expect(page.get_by_text("K3 is open in this state")).to_be_visible()
        page.keyboard.press("m")
        page.get_by_role("menuitem", name="jumper between two points").click()
        dialog = page.get_by_role("dialog", name="Jumper between two points")
        dialog.get_by_role("button", name="Try it").click()
        expect(dialog.get_by_role("alert")).to_have_text("Say both its ends.")
        for end, point in (("From", "Ignition switch 30"), ("To", "Ignition switch 15")):
            box = dialog.get_by_label(end).and_(page.locator("input"))
            box.fill(point)
            expect(page.get_by_role("option", name=point, exact=True)).to_be_visible()
            box.press("ArrowDown")
            box.press("Enter")
            expect(box).to_have_value(point)
        dialog.get_by_role("button", name="Try it").click()
        expect(tried).to_contain_text("jumper from Ignition switch 30 to Ignition switch 15")
