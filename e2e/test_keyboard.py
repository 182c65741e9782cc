"""A circuit is laid, built up, judged and taken out again without ever touching the mouse."""

import re

from playwright.sync_api import Page, expect

from e2e.browser_case import BrowserCase


class KeyboardCase(BrowserCase):
    """Signs in by keyboard."""

    def _sign_in_by_keyboard(self) -> Page:
        page = self.open_browser()
        page.get_by_label("Sign-in name").focus()
        page.keyboard.type("valbruna")
        page.keyboard.press("Tab")
        page.keyboard.type("market-van-round")
        page.keyboard.press("Enter")
        page.get_by_role("link", name="Mobile market van").wait_for()
        return page


class Jobs(KeyboardCase):
    def test_a_job_is_found_by_what_is_in_it_and_opened(self) -> None:
        page = self._sign_in_by_keyboard()
        jobs = page.locator(".jobs > li")
        expect(jobs).to_have_count(3)
        page.keyboard.press("s")
        page.keyboard.type("engine ground block")
        expect(jobs).to_have_count(2)
        page.keyboard.type(" vineyard")
        expect(jobs).to_have_count(1)
        page.keyboard.press("Enter")
        page.keyboard.press("Enter")
        page.get_by_role("navigation", name="Rooms").wait_for()
        page.go_back()
        page.get_by_role("heading", name="Jobs").wait_for()
        page.keyboard.press("s")
        page.keyboard.type("nowhere to be found")
        expect(page.get_by_text("No job has all of that")).to_be_visible()
        page.keyboard.press("Escape")
        expect(jobs).to_have_count(3)


class FromNothing(KeyboardCase):
    def test_a_ground_circuit_from_nothing(self) -> None:
        page = self._sign_in_by_keyboard()
        page.keyboard.press("n")
        expect(page.get_by_label("Job", exact=True)).to_be_focused()
        page.keyboard.type("Lift ground")
        page.keyboard.press("Tab")
        page.keyboard.type("School minibus")
        page.keyboard.press("Enter")
        page.get_by_text("No circuits yet").wait_for()
        page.keyboard.press("n")
        expect(page.get_by_label("What are you wiring?")).to_be_focused()
        page.keyboard.type("plain")
        page.keyboard.press("Enter")
        expect(page.get_by_label("Circuit", exact=True)).to_be_focused()
        page.keyboard.type("Lift motor ground")
        page.keyboard.press("Tab")
        page.keyboard.press("ArrowDown")
        page.get_by_role("listbox").wait_for()
        page.keyboard.press("ArrowUp")
        page.keyboard.press("Enter")
        dialog = page.get_by_role("dialog")
        for label, text in [
            ("What is grounded", "Lift motor"),
            ("Design current", "90 A"),
            ("Target", "0.2 V"),
            ("Wire back", "1.3 m"),
        ]:
            dialog.get_by_label(label).focus()
            page.keyboard.press("Control+a")
            page.keyboard.type(text)
        dialog.get_by_label("Returns to").focus()
        page.keyboard.type("B− post")
        page.keyboard.press("Escape")
        page.keyboard.press("Enter")
        # 90 A × 1.3 m allow 1.71 mΩ/m: 16 mm² has 1.16 · 1.238 at 81 °C, good for 150 A (ISO tables, from memory).
        expect(page.get_by_role("heading", name="Lift motor ground")).to_be_visible()
        expect(page.get_by_role("option", name="W1, wire, 16 mm2")).to_be_visible()
        expect(page.locator(".headline .verdict")).to_contain_text("within")


class OnTheVan(KeyboardCase):
    def test_build_up_take_out_undo_and_redo(self) -> None:
        page = self._sign_in_by_keyboard()
        page.keyboard.press("Enter")
        page.get_by_role("treeitem").first.wait_for()
        page.keyboard.press("b")
        page.get_by_role("heading", name="12 circuits").wait_for()
        for _ in range(3):
            page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name="Blower", exact=True)).to_be_visible()
        page.keyboard.press("]")
        expect(page.get_by_role("heading", name="Cold box feed")).to_be_visible()
        page.keyboard.press("[")
        route = page.get_by_role("listbox", name="Route").get_by_role("option")
        expect(route).to_have_count(9)
        page.keyboard.press("n")
        expect(page.get_by_label("Rating", exact=True)).to_be_focused()
        page.keyboard.type("15 A")
        page.keyboard.press("Enter")
        expect(route).to_have_count(10)
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.keyboard.press("Control+z")
        expect(route).to_have_count(9)
        page.keyboard.press("Control+Shift+z")
        expect(route).to_have_count(10)
        page.keyboard.press("Alt+ArrowLeft")
        expect(page.get_by_text(re.compile("move .* saved"))).to_be_visible()
        page.keyboard.press("b")
        expect(page.get_by_role("heading", name="12 circuits")).to_be_visible()

    def test_a_circuit_is_deleted_and_brought_back(self) -> None:
        page = self.open_cold_box()
        page.get_by_role("button", name="Circuit ▾").focus()
        page.keyboard.press("Enter")
        page.get_by_role("menuitem", name="Delete the circuit").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name="11 circuits")).to_be_visible()
        page.keyboard.press("Control+z")
        expect(page.get_by_role("heading", name="12 circuits")).to_be_visible()
        expect(page.get_by_role("row", name=re.compile("Cold box feed"))).to_contain_text("148 mV")
