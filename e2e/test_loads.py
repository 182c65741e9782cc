"""The Loads room in a real browser: a balance from an empty job, the van's decision, and a ledger file."""

import re
from pathlib import Path
from tempfile import TemporaryDirectory

from playwright.sync_api import Page, expect

from e2e.browser_case import BrowserCase
from e2e.test_walk import fill


class Loads(BrowserCase):
    def _room(self, job: str) -> Page:
        page = self.open_browser()
        self.sign_in(page)
        page.get_by_role("link", name=job).click()
        page.get_by_role("link", name="Loads", exact=True).click()
        expect(page.get_by_role("heading", name="Can the alternator keep up?")).to_be_visible()
        return page

    def _search(self, page: Page, text: str) -> None:
        page.keyboard.press("n")
        expect(page.get_by_label("Find a consumer")).to_be_focused()
        expect(page.get_by_label("Typical consumers").get_by_role("checkbox").first).to_be_visible()
        page.keyboard.type(text)

    def _says(self, page: Page, text: str) -> None:
        expect(page.get_by_label("Demand against capability by scenario")).to_contain_text(text)

    def test_from_an_empty_job(self) -> None:
        """60 A at 1 800 rpm keep 1 − 0.0025 · 50 on a summer's day: 52.5 A; 8 Ω and 160 W take 1.8 A and 11.3 A."""
        page = self.open_browser()
        self.sign_in(page)
        page.keyboard.press("n")
        fill(page, Job="Cold hands", Vehicle="Hay baler")
        page.get_by_role("button", name="Open job").click()
        expect(page.get_by_text("No circuits yet")).to_be_visible()
        page.keyboard.press("l")
        dialog = page.get_by_role("dialog")
        page.get_by_role("button", name="Say what battery there is").click()
        fill(page, **{"Capacity,_Ah": "95", "Cold_cranking_current,_of_lead": "760 A"})
        dialog.get_by_role("button", name="Add it").click()
        page.get_by_role("button", name="Say what alternator there is").click()
        fill(page, Regulates_to="14.2 V", **{"Makes_at_1 800_rpm": "60 A", "Makes_at_6 000_rpm": "50 A"})
        dialog.get_by_role("button", name="Add it").click()
        expect(dialog.get_by_text("does not make less at 6000 rpm (50 A)")).to_be_visible()
        fill(page, **{"Makes_at_6 000_rpm": "120 A"})
        dialog.get_by_role("button", name="Add it").click()
        expect(dialog).to_have_count(0)
        self._search(page, "rear window")
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="Heated rear window", exact=True)).to_be_visible()
        self._search(page, "Glove warmer")
        page.keyboard.press("Enter")
        dialog.get_by_label("Or its power").fill("60 W")
        dialog.get_by_label("Runs, % of the time").fill("150")
        dialog.get_by_role("button", name="Add it").click()
        expect(dialog.get_by_text("at most 100")).to_be_visible()
        dialog.get_by_label("Runs, % of the time").fill("50")
        dialog.get_by_role("button", name="Add it").click()
        expect(dialog).to_have_count(0)
        # On a summer's day there are 60 W of electronics at 14.2 V for half of the time: 2.1 A of 52.5 A.
        self._says(page, "spare 50.4 A")
        # Measured 6 A at 13.5 V: 81 W, 2.9 A on average.
        page.keyboard.press("ArrowDown")
        page.keyboard.press("m")
        fill(page, Measured_current="6 A")
        dialog.get_by_role("button", name="Save").click()
        expect(page.get_by_text("◆ +35 %")).to_be_visible()
        self._says(page, "spare 49.6 A")
        expect(dialog).to_have_count(0)
        page.keyboard.press("i")
        self._says(page, "spare 52.5 A")
        page.keyboard.press("Control+z")
        self._says(page, "spare 49.6 A")
        page.reload()
        self._says(page, "spare 49.6 A")

    def test_the_van_decides(self) -> None:
        page = self._room("Mobile market van")
        short = page.get_by_text("Idle, winter night: 8 A short, and the battery pays.")
        expect(short).to_be_visible()
        expect(page.get_by_text(re.compile("Comes home 13 % lower than it left; after 4 such drives"))).to_be_visible()
        page.get_by_role("slider", name="Engine idling, rpm").focus()
        for _ in range(14):
            page.keyboard.press("ArrowRight")
        expect(page.get_by_text("Idle, winter night: 3 A short, and the battery pays.")).to_be_visible()
        page.keyboard.press("Escape")
        expect(short).to_be_visible()
        page.get_by_role("button", name="an alternator of 65/100 A").click()
        expect(page.get_by_text("Comes home 3 % higher than it left, and so for ever.")).to_be_visible()
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="Alternator 65/100 A")).to_be_visible()
        other = self._room("Mobile market van")
        expect(other.get_by_role("button", name="Alternator 65/100 A")).to_be_visible()
        page.keyboard.press("Control+z")
        expect(short).to_be_visible()
        page.get_by_role("link", name="Cold box feed").click()
        expect(page.get_by_role("heading", name="Cold box feed")).to_be_visible()

    def test_several_at_once_and_a_drive_of_ones_own(self) -> None:
        page = self._room("School minibus")
        for key in ("x", "ArrowDown", "x", "e"):
            page.keyboard.press(key)
        dialog = page.get_by_role("dialog")
        fill(page, Listed_under="Lift")
        dialog.get_by_role("button", name="Change them").click()
        expect(dialog).to_have_count(0)
        expect(page.locator(".ledger .family").filter(has_text="Lift")).to_be_visible()
        page.get_by_role("button", name="New drive").click()
        fill(page, Drive="School round", Minutes_of_spell_1="x")
        dialog.get_by_role("button", name="Save").click()
        expect(dialog.get_by_role("alert").or_(dialog.locator("[class*=error]")).first).to_be_visible()
        fill(page, Spell_1="round", Minutes_of_spell_1="40")
        dialog.get_by_role("button", name="Save").click()
        expect(dialog).to_have_count(0)
        expect(page.get_by_role("combobox", name="Drive")).to_have_value("School round")
        expect(page.get_by_text("round 40′")).to_be_visible()

    def test_a_ledger_file_shows_what_is_wrong_and_then_what_it_does(self) -> None:
        page = self._room("Vineyard tractor")
        head = "name,kind,rated_v,rated_a\n"
        with TemporaryDirectory() as folder:
            path = Path(folder, "loads.csv")
            for text, says in (
                (head + 'Sprayer,motor,12,"7,5"\n', "line 2, rated_a"),
                ("name;kind\nSprayer;motor\n", "not separated by commas"),
                (head + "Sprayer,motor,12,5\n" * 100_000, "no such list has more than 1"),
            ):
                path.write_text(text, encoding="utf-8")
                page.locator("input[type=file]").set_input_files(path)
                dialog = page.get_by_role("dialog")
                expect(dialog.get_by_role("alert")).to_contain_text(says)
                dialog.get_by_role("button", name="Cancel").click()
            path.write_text(head + "Sprayer,motor,12,7.5\n", encoding="utf-8")
            page.locator("input[type=file]").set_input_files(path)
            page.get_by_role("button", name="Import 1").click()
        expect(page.get_by_role("button", name="Sprayer", exact=True)).to_be_visible()

    def test_a_scenario_of_ones_own_counts_in_balance_and_drive(self) -> None:
        """The till alone, 52.8 W behind about 0.1 Ω of wire, fuse and ground: 4.4 A from the battery's 12.5 V."""
        page = self._room("Mobile market van")
        page.get_by_role("button", name="Scenarios").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_role("button", name="new", exact=True).click()
        fill(page, Scenario="Counting the till", Outside="warm")
        dialog.get_by_label("Key and engine").click()
        page.get_by_role("option", name="accessory").click()
        dialog.get_by_text("Loads that run otherwise").click()
        fill(page, Radio="0", Cold_box="0")
        dialog.get_by_role("button", name="Save").click()
        expect(dialog.get_by_text('"warm" is not a temperature').first).to_be_visible()
        fill(page, Outside="8 C")
        dialog.get_by_role("button", name="Save").click()
        expect(dialog).to_have_count(0)
        self._says(page, "Counting the till")
        self._says(page, "takes 4.4 A")
        page.get_by_role("button", name="New drive").click()
        fill(page, Drive="Yard evening", Minutes_of_spell_1="120")
        dialog.get_by_label("Scenario of spell 1").click()
        page.get_by_role("option", name="Counting the till").click()
        dialog.get_by_role("button", name="Save").click()
        expect(dialog).to_have_count(0)
        expect(page.get_by_text("loads 8.7 Ah")).to_be_visible()

    def test_two_people_at_one_ledger(self) -> None:
        """Who saves second sees both values and decides; the first one's change is not lost unseen."""
        page, other = self._room("Vineyard tractor"), self._room("Vineyard tractor")
        for each, amperes in ((page, "2 A"), (other, "3 A")):
            each.get_by_role("button", name="rated, Gauges").click()
            fill(each, Measured_current=amperes)
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_role("dialog")).to_have_count(0)
        other.get_by_role("button", name="Save", exact=True).click()
        conflict = other.get_by_role("dialog").filter(has_text="theirs")
        expect(conflict).to_contain_text("3 A")
        expect(conflict).to_contain_text("2 A")
        conflict.get_by_role("button", name="Keep theirs").click()
        for each in (page, other):
            expect(each.get_by_role("row", name=re.compile("Gauges"))).to_contain_text("2.0")

    def test_by_mouse_on_a_phone(self) -> None:
        page = self._room("Mobile market van")
        page.set_viewport_size({"width": 390, "height": 844})
        page.get_by_role("checkbox", name="Work lamps at idle").click()
        self._says(page, "spare 6.4 A")
        slider = page.get_by_role("slider", name="Alternator at 6 000 rpm, A")
        slider.scroll_into_view_if_needed()
        box = slider.bounding_box() or {"x": 0.0, "y": 0.0, "width": 0.0, "height": 0.0}
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.mouse.move(box["x"] + 60, box["y"] + box["height"] / 2, steps=6)
        page.mouse.up()
        expect(page.get_by_text(re.compile("Tried, not kept yet: an alternator of [0-9]+ A"))).to_be_visible()
        page.get_by_role("button", name="Put back").click()
        self._says(page, "spare 6.4 A")
        page.keyboard.press("Control+z")
        self._says(page, "short 7.8 A")
