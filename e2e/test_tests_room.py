"""The Tests room at a desk: photos that wait, a file of measurements, paper, keys, and who cannot see well."""

import re
from pathlib import Path
from tempfile import TemporaryDirectory

from playwright.sync_api import Page, expect

from e2e.browser_case import AXE, BrowserCase
from ops.application import ROOT

PHOTO = ROOT / "demo" / "photos" / "vineyard-tractor-ph1.png"
HEAD = "id,taken_at,circuit,quantity,red_point,black_point,stage,state,value\n"
LINE = "{id},2026-11-20T10:00:00Z,Cold box feed,voltage,B+ post,{black},planned,idle,{value}\n"


class TestsRoom(BrowserCase):
    def room(self, circuit: str = "Cold box feed") -> Page:
        """The van's tests of a circuit."""
        page = self.open_browser()
        self.sign_in(page)
        self.open_job(page, "Mobile market van")
        page.keyboard.press("k")
        page.get_by_label("Circuit", exact=True).select_option(circuit)
        expect(page.get_by_role("heading", name=re.compile(f"^{circuit}:"))).to_be_visible()
        return page

    def choose(self, page: Page, test: str) -> None:
        page.get_by_role("button", name=re.compile(f"^Cold box feed: {test}")).first.click()
        expect(page.get_by_role("heading", name=f"Cold box feed: {test}")).to_be_visible()

    def test_a_reading_and_its_photo_wait_together_and_arrive_once(self) -> None:
        page = self.room()
        self.go_offline(page, '"circuit_id"')
        self.choose(page, "supply drop")
        page.get_by_label("the meter says").fill("0.55")
        page.keyboard.press("Enter")
        self.choose(page, "supply drop")
        page.locator(".photos input[type=file]").set_input_files(PHOTO)
        expect(page.locator(".photos .waits")).to_have_text("▲ a photo waits")
        page.reload()
        page.get_by_label("Circuit", exact=True).select_option("Cold box feed")
        self.choose(page, "supply drop")
        expect(page.locator(".photos .waits")).to_have_text("▲ a photo waits")
        page.context.set_offline(False)
        expect(page.locator(".photos .waits")).to_have_count(0, timeout=20_000)
        expect(page.get_by_role("img", name=re.compile("supply drop"))).to_have_count(1)
        expect(page.get_by_text(re.compile("logged 0.550 V, valbruna"))).to_be_visible()

    def test_a_file_is_looked_at_line_by_line_before_it_is_taken_in(self) -> None:
        page = self.room()
        self.choose(page, "at Cold box")
        with TemporaryDirectory() as folder:
            path = Path(folder, "measured.csv")
            wrong = LINE.format(id="m1", black="nowhere", value="11.7 V") + LINE.format(id="m2", black="", value="x")
            path.write_text(HEAD + wrong, encoding="utf-8")
            page.locator("aside input[type=file]").set_input_files(path)
            problems = page.get_by_role("dialog").get_by_role("alert")
            expect(problems).to_contain_text("line 2, black_point")
            expect(problems).to_contain_text("line 3")
            page.get_by_role("button", name="Cancel").click()
            path.write_text(HEAD + LINE.format(id="m1", black="B− post", value="12.61"), encoding="utf-8")
            page.locator("aside input[type=file]").set_input_files(path)
            expect(page.get_by_role("list", name="Lines")).to_contain_text("voltage B+ post → B− post")
            page.get_by_role("button", name="Import 1").click()
        expect(page.get_by_role("dialog")).to_have_count(0)
        with page.expect_download() as download:
            page.get_by_role("link", name="CSV out").click()
        self.assertIn("12.61", download.value.path().read_text(encoding="utf-8"))

    def test_paper_holds_what_is_shown_blank_or_filled(self) -> None:
        page = self.room()
        page.emulate_media(media="print")
        sheet = page.get_by_role("region", name="Test sheet")
        expect(sheet).to_be_visible()
        expect(page.get_by_role("region", name="Asked now")).to_be_hidden()
        rows = sheet.locator("tbody tr:not(.group)")
        count = rows.count()
        self.assertGreater(count, 8)
        self.assertTrue(any("____" in text for text in rows.all_inner_texts()))
        self.assertTrue(any("as expected" in text for text in rows.all_inner_texts()))
        page.emulate_media(media="screen")
        page.get_by_label("Which tests").select_option("open")
        page.emulate_media(media="print")
        expect(sheet.get_by_role("heading")).to_contain_text("Open tests")
        self.assertLess(rows.count(), count)
        for text in rows.all_inner_texts():
            self.assertTrue(text.rstrip().endswith("____________"), text)

    def test_by_keyboard_while_the_box_has_the_cursor(self) -> None:
        page = self.room()
        self.choose(page, "supply drop")
        box = page.get_by_label("the meter says")
        expect(box).to_be_focused()
        page.keyboard.press("p")
        expect(page.get_by_role("button", name="Piece by piece")).to_have_attribute("aria-pressed", "true")
        page.keyboard.type("0,6")
        expect(box).to_have_value("0,6")
        page.keyboard.press("ArrowDown")
        expect(page.get_by_role("heading", name=re.compile("supply drop$"))).to_have_count(0)
        page.keyboard.press("ArrowUp")
        page.keyboard.type("zero")
        page.keyboard.press("Enter")
        expect(page.get_by_text("“zero” is no number; write figures, as 12.6")).to_be_visible()
        page.get_by_label("It moves when I wiggle").select_option("W9")
        expect(page.get_by_text("moves with W9")).to_be_visible()
        page.keyboard.press("Escape")
        page.get_by_label("the meter says").focus()
        page.keyboard.press("b")
        expect(page.get_by_role("heading", name=re.compile("^[0-9]+ circuits$"))).to_be_visible()

    def test_what_is_refused_is_said_with_its_value_although_one_went_on(self) -> None:
        page = self.room()
        self.choose(page, "supply drop")
        for value in ("99999", "88888"):
            page.get_by_label("the meter says").fill(value)
            page.keyboard.press("Enter")
        notice = page.get_by_role("alert").filter(has_text="was not saved")
        for value in ("99999", "88888"):
            expect(notice).to_contain_text(f"{value} V” was not saved")
        page.get_by_role("button", name="Understood").click()
        expect(notice).to_have_count(0)

    def test_nobody_is_shut_out(self) -> None:
        for dark in (False, True):
            page = self.open_browser(dark=dark)
            self.sign_in(page)
            self.open_job(page, "School minibus")
            page.keyboard.press("k")
            expect(page.get_by_role("region", name="Asked now")).to_be_visible()
            page.evaluate(AXE.read_text())
            for width, height in ((1280, 800), (390, 844)):
                page.set_viewport_size({"width": width, "height": height})
                found = page.evaluate("async () => (await axe.run()).violations")
                serious = [each["id"] for each in found if each["impact"] in ("serious", "critical")]
                self.assertEqual(serious, [], (dark, width))
