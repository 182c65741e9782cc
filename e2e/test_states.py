"""Operating states in a real browser: on every screen, as found and as planned, from a job file and from nothing."""

import json
import re

from playwright.sync_api import Page, expect

from e2e.browser_case import BrowserCase
from e2e.test_walk import fill
from ops.application import ROOT

DEMO = ROOT / "demo"


class States(BrowserCase):
    def _open(self, vehicle: str) -> Page:
        page = self.open_browser()
        self.sign_in(page)
        self.open_job(page, vehicle)
        return page

    def _press(self, page: Page, *pairs: str) -> None:
        for pair in pairs:
            for key in pair:
                page.keyboard.press(key)

    def test_a_bad_engine_ground_found_and_mended_by_keyboard(self) -> None:
        page = self._open("Vineyard tractor")
        self._press(page, "s4", "sf")
        page.get_by_text("Show all").click()
        expect(page.get_by_text("B2, a control cable, carries")).to_be_visible()
        page.get_by_role("link", name="Engine ground").click()
        verdict = page.locator(".headline .verdict")
        expect(verdict).to_contain_text("over")
        ways = page.get_by_role("listbox", name="Parallel paths").get_by_role("option")
        expect(ways).to_contain_text("17 %")
        ways.locator("text").click()
        expect(page.get_by_role("heading", name=re.compile("B2|B3"))).to_be_visible()
        expect(page.get_by_text("as found 1.47 V lost, as planned 0.23 V")).to_be_visible()
        self._press(page, "sp")
        expect(verdict).to_contain_text("within")
        page.reload()
        expect(
            page.get_by_role("radiogroup", name="Operating state").get_by_role("radio", name="cranking")
        ).to_be_checked()
        expect(verdict).to_contain_text("within")

    def test_a_relay_that_clicks_and_a_bus_that_keeps_a_valve_alive(self) -> None:
        page = self._open("School minibus")
        page.get_by_text("as found").click()
        page.get_by_role("button", name="Switches").click()
        page.get_by_role("radiogroup", name="Step lamp").get_by_text("off").click()
        page.keyboard.press("Escape")
        expect(page.get_by_role("button", name="Switches, 1 set")).to_be_visible()
        self._press(page, "s4")
        page.get_by_text("Show all").click()
        expect(page.get_by_text("K1 chatters.")).to_be_visible()
        expect(page.get_by_text("B+ post chatters in this state").first).to_be_visible()
        self._press(page, "s6")
        expect(page.get_by_text("Lift valve is on.")).to_be_visible()
        expect(page.get_by_text("K6 and K7 have their outputs joined.")).to_be_visible()

    def test_a_closed_relay_and_an_open_one(self) -> None:
        page = self._open("Mobile market van")
        page.get_by_role("link", name="Cold box feed").click()
        page.get_by_role("heading", name="Cold box feed").wait_for()
        expect(page.get_by_text("Cold box gets too little voltage.")).to_be_visible()
        self._press(page, "s3")
        expect(page.get_by_text("K3 is open in this state")).to_be_visible()
        self._press(page, "s6")
        expect(page.get_by_text("Cold box gets too little voltage.")).to_have_count(0)
        page.keyboard.press("v")
        page.get_by_role("tab", name="devices").click()
        row = page.get_by_role("row", name=re.compile("M2 Cold box"))
        expect(row).to_contain_text("on")
        page.get_by_role("tab", name="segments").click()
        page.get_by_label("Find a segment").fill("W1 ")
        expect(page.get_by_role("row", name=re.compile("^W1 "))).to_contain_text("Cold box feed")


class JobFiles(BrowserCase):
    def test_a_file_is_dropped_previewed_opened_and_saved_again(self) -> None:
        page = self.open_browser()
        self.sign_in(page)
        text = (DEMO / "school-minibus.json").read_text()
        self._drop(page, text.replace('"from_point": "lamp"', '"from_point": "nowhere"'))
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_text('there is no point "nowhere" in this file')).to_be_visible()
        expect(dialog.get_by_role("button", name="Open it as a new job")).to_have_count(0)
        page.keyboard.press("Escape")
        self._drop(page, text.replace('"School minibus"', '"Spare minibus"'))
        expect(dialog).to_contain_text("11 circuits")
        expect(dialog.get_by_role("button", name="Open it as a new job")).to_be_focused()
        page.keyboard.press("Enter")
        expect(page.get_by_role("treeitem", name=re.compile("^M3 Heater pump"))).to_be_visible()
        page.keyboard.press("g")
        page.get_by_role("link", name="Spare minibus").wait_for()
        page.get_by_role("button", name="More about Lift moves").first.click()
        with page.expect_download() as saved:
            page.get_by_role("menuitem", name="Save as a job file").click()
        document = json.loads(saved.value.path().read_text())
        self.assertEqual(
            {each["id"] for each in document["devices"]}, {each["id"] for each in json.loads(text)["devices"]}
        )

    def _drop(self, page: Page, text: str) -> None:
        data = page.evaluate_handle(
            "text => { const data = new DataTransfer(); data.items.add(new File([text], 'job.json')); return data; }",
            text,
        )
        page.dispatch_event(".page", "drop", {"dataTransfer": data})


class FromNothing(BrowserCase):
    def test_battery_alternator_and_load_by_hand(self) -> None:
        """40.6 A, 0.6 of them into the battery, through 2 m of 16 mm² at 92 °C (ISO 6722-1, from memory): 121 mV."""
        page = self.open_browser()
        self.sign_in(page)
        page.keyboard.press("n")
        fill(page, Job="Bench check", Vehicle="Spare van")
        page.get_by_role("button", name="Open job").click()
        page.get_by_role("link", name="No battery yet").click()
        battery = {
            "Capacity, Ah": "70",
            "Cold cranking current, of lead": "600",
            "Terminal +": "B+ post",
            "Terminal -": "B− post",
        }
        page.get_by_role("tab", name="devices").click()
        self._device(page, "Battery", battery)
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_text('"600" has no unit')).to_be_visible()
        self._add(page, {"Cold cranking current, of lead": "600 A"})
        expect(page.get_by_role("row", name=re.compile("Battery"))).to_contain_text("12.65")
        self._device(page, "Alternator", {"Regulates to": "14.2 V", "Wakes up by itself from, rpm": "1200"})
        makes = {"Makes at 1 800 rpm": "60 A", "Makes at 6 000 rpm": "120 A"}
        self._add(page, makes | {"Terminal B+": "Alternator B+", "Terminal B-": "B− post"})
        page.keyboard.press("w")
        fill(page, Size="16 mm2", Length="2 m", From_point="Alternator B+", To_point="B+ post")
        dialog.get_by_label("Through").click()
        page.get_by_role("option", name="engine bay").click()
        dialog.get_by_role("button", name="Lay it").click()
        expect(dialog).to_have_count(0)
        self._device(page, "Electronics, constant current", {"Rated voltage": "13 V", "Rated current": "40 A"})
        self._add(page, {"Terminal +": "B+ post", "Terminal -": "B− post"})
        expect(page.get_by_role("row", name=re.compile("Alternator"))).to_contain_text("14.20")
        page.get_by_role("tab", name="segments").click()
        expect(page.get_by_role("row", name=re.compile("^W1 "))).to_contain_text(re.compile("12[0-2] mV"))
        page.keyboard.press("Control+z")
        expect(page.get_by_role("row", name=re.compile("^W1 "))).not_to_contain_text(re.compile("12[0-2] mV"))

    def _device(self, page: Page, kind: str, values: dict[str, str]) -> None:
        page.get_by_role("button", name="New device").click()
        page.get_by_label("Kind of device").and_(page.locator("input")).click()
        page.get_by_role("option", name=kind, exact=True).click()
        self._fill(page, values)

    def _add(self, page: Page, values: dict[str, str]) -> None:
        self._fill(page, values)
        page.get_by_role("dialog").get_by_role("button", name="Add it").click()
        expect(page.get_by_role("dialog")).to_have_count(0)

    def _fill(self, page: Page, values: dict[str, str]) -> None:
        for label, text in values.items():
            name = re.compile(f"^{re.escape(label)}(, if wired)?$")
            page.get_by_role("dialog").get_by_label(name).and_(page.locator("input")).fill(text)
