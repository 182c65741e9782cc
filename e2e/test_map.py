"""The map in the browser: what one looks at first in the room of the vehicle, by mouse and by keyboard."""

import re

from playwright.sync_api import Page, expect

from e2e.browser_case import BrowserCase


class Map(BrowserCase):
    def _opened(self, vehicle: str = "School minibus") -> Page:
        page = self.open_browser()
        self.sign_in(page)
        self.open_job(page, vehicle)
        page.keyboard.press("v")
        page.get_by_role("treeitem").first.wait_for()
        return page

    def test_it_reads_out_every_route_and_follows_the_key(self) -> None:
        page = self._opened()
        for keys in ("sf", "s6"):
            for key in keys:
                page.keyboard.press(key)
        valve = page.get_by_role("treeitem", name=re.compile("^Y1 Lift valve"))
        expect(valve).to_have_accessible_name(
            re.compile(r"^Y1 Lift valve 2\.8 A ?, on\. W1, F7, W19, K7, W22, Y1, W23, B1, J1, W2$")
        )
        page.locator("[data-segment] text", has_text=re.compile("^W30$")).click()
        expect(page.locator(".map-piece.chosen")).to_have_count(1)
        expect(page.locator(".map-device:is(.lit, .chosen)")).to_have_count(0)
        page.get_by_role("listitem").filter(has_text="Lift valve is on.").get_by_text("Show").click()
        expect(valve).to_have_class(re.compile("lit noted"))
        page.keyboard.press("s")
        page.keyboard.press("1")
        expect(valve).to_have_accessible_name(re.compile("^Y1 Lift valve ?, off"))

    def test_keys_walk_from_row_to_row_and_along_a_route(self) -> None:
        page = self._opened("Vineyard tractor")
        page.keyboard.press("ArrowDown")
        expect(page.get_by_role("treeitem", selected=True)).to_have_count(1)
        page.keyboard.press("ArrowDown")
        way = page.get_by_role("treeitem", selected=True).locator(".read-out").text_content() or ""
        route = way.split(". ")[-1].split(", ")
        said = page.locator(".map-chosen b")
        device = said.inner_text()
        self.assertIn(device, route)
        page.keyboard.press("ArrowRight")
        expect(said).to_have_text(route[route.index(device) + 1])
        page.keyboard.press("Escape")
        expect(said).to_have_count(0)
        page.keyboard.press("/")
        page.keyboard.type("W16")
        page.get_by_role("option", name=re.compile("^W16,")).click()
        expect(said).to_have_text("W16")

    def test_a_segment_is_a_way_in(self) -> None:
        page = self._opened()
        page.locator("[data-segment] text", has_text=re.compile("^X9.1$")).click()
        expect(page.locator(".map-piece.lit", has_text=re.compile("X9"))).to_have_count(3)
        page.locator("[data-segment] text", has_text=re.compile("^W16$")).click()
        expect(page.locator(".map-chosen")).to_contain_text("Heater pump")
        page.locator(".map-chosen").get_by_role("button", name="Edit").click()
        expect(page.get_by_role("dialog").get_by_label("Size")).not_to_have_value("")
        page.keyboard.press("Escape")
        before = page.locator("svg.map").bounding_box()
        page.get_by_role("button", name="Closer").click()
        after = page.locator("svg.map").bounding_box()
        assert before and after
        self.assertAlmostEqual(after["width"] / before["width"], 1.25, places=2)
        page.get_by_text("lost", exact=True).click()
        expect(page.locator("[data-segment] text", has_text="mV").first).to_be_visible()
        with page.expect_download() as kept:
            page.get_by_role("link", name="Keep as a drawing").click()
        self.assertIn("<title>School minibus, as planned, idle</title>", kept.value.path().read_text())

    def test_a_circuit_is_lit_on_it_from_its_own_room(self) -> None:
        page = self.open_cold_box()
        page.get_by_role("button", name="Circuit ▾").click()
        page.get_by_role("menuitem", name="Show on the map").click()
        expect(page.locator(".map-piece.lit", has_text="W9")).to_have_count(1)
        page.keyboard.press("Escape")
        expect(page.locator(".map-piece.lit")).to_have_count(0)
