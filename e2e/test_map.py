"""The map in the browser: what one looks at first in the room of the vehicle, by mouse and by keyboard."""

import re

from playwright.sync_api import FilePayload, Page, expect

from core.tests.support.generated import generated_job
from e2e.browser_case import A3, A4, BrowserCase


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
        page = self.open_browser()
        self.sign_in(page)
        page.get_by_role("link", name="Vineyard tractor").click()
        page.get_by_role("treeitem").first.wait_for()
        page.keyboard.press("ArrowDown")
        expect(page.get_by_role("treeitem", selected=True)).to_have_count(1)
        page.keyboard.press("ArrowDown")
        way = page.get_by_role("treeitem", selected=True).locator(".read-out").text_content() or ""
        route = way.split(". ")[-1].split(", ")
        said = page.locator(".map-panel h2")
        device = said.inner_text().split()[0]
        self.assertIn(device, route)
        page.keyboard.press("ArrowRight")
        expect(said).to_have_text(re.compile(rf"^{route[route.index(device) + 1]} "))
        page.keyboard.press("Escape")
        expect(said).to_have_count(0)
        page.keyboard.press("/")
        page.keyboard.type("W16")
        page.get_by_role("option", name=re.compile("^W16,")).click()
        expect(said).to_have_text(re.compile("^W16 "))

    def test_a_segment_is_a_way_in(self) -> None:
        page = self._opened()
        page.locator("[data-segment] text", has_text=re.compile("^X9.1$")).click()
        expect(page.locator(".map-piece.lit", has_text=re.compile("X9"))).to_have_count(3)
        page.locator("[data-segment] text", has_text=re.compile("^W16$")).click()
        chosen = page.get_by_role("complementary", name="Chosen on the map")
        expect(chosen).to_contain_text("Heater pump")
        chosen.get_by_role("button", name="Edit").click()
        expect(page.get_by_role("dialog").get_by_label("Size")).not_to_have_value("")
        page.keyboard.press("Escape")
        before = page.locator("svg.map").first.bounding_box()
        page.get_by_role("button", name="Closer").click()
        after = page.locator("svg.map").first.bounding_box()
        assert before and after
        self.assertAlmostEqual(after["width"] / before["width"], 1.25, places=2)
        page.get_by_role("radiogroup", name="Look").get_by_text("lost").click()
        expect(page.locator("[data-segment] text", has_text="mV").first).to_be_visible()
        with page.expect_download() as kept:
            page.get_by_role("button", name="Paper ▾").click()
            page.get_by_role("menuitem", name="Keep as a drawing").click()
        self.assertIn("<title>School minibus, as planned, idle</title>", kept.value.path().read_text())

    def test_a_circuit_is_lit_on_it_from_its_own_room(self) -> None:
        page = self.open_cold_box()
        page.get_by_role("button", name="Circuit ▾").click()
        page.get_by_role("menuitem", name="Show on the map").click()
        expect(page.locator(".map-piece.lit", has_text="W9")).to_have_count(1)
        page.keyboard.press("Escape")
        expect(page.locator(".map-piece.lit")).to_have_count(0)

    def test_two_probes_say_what_one_should_read_and_take_what_one_read(self) -> None:
        """Across W16: red nearer to plus, black nearer to minus; then by mouse from the battery to the pump."""
        page = self._opened()
        page.locator("[data-segment] text", has_text=re.compile("^W16$")).click()
        page.keyboard.press("q")
        expect(page.get_by_text("Red is on F6 out.")).to_be_visible()
        page.keyboard.press("q")
        asked = page.get_by_role("region", name="Asked now")
        expect(asked.get_by_role("heading", name="F6 out → K6 30")).to_be_visible()
        expect(asked.locator(".should .value")).to_have_text(re.compile(r"^0\.0\d\d–0\.\d+ V$"))
        page.keyboard.type("0.31")
        expect(asked).to_contain_text("higher")
        page.keyboard.press("Enter")
        expect(asked).to_have_count(0)
        for point in ("F6 out", "K6 30"):
            page.locator(".map-point-here").filter(has_text=re.compile(f"^{point}")).click()
        expect(asked.locator(".logged")).to_contain_text("0.310 V")
        page.keyboard.press("Escape")
        expect(asked).to_have_count(0)

    def test_what_changes_what_is_suspected_and_what_is_tested(self) -> None:
        page = self._opened()
        looks = page.get_by_role("radiogroup", name="Look")
        looks.get_by_text("what changes").click()
        for key in "sf":
            page.keyboard.press(key)
        expect(page.locator(".map-piece.going", has_text=re.compile("W30"))).to_have_count(1)
        for key in "sp":
            page.keyboard.press(key)
        expect(page.locator(".map-piece.fresh", has_text=re.compile("W20"))).to_have_count(1)
        looks.get_by_text("suspects").click()
        expect(page.get_by_text("No part is suspected more than another yet")).to_be_visible()
        looks.get_by_text("tests").click()
        expect(page.locator("[data-segment] text", has_text=re.compile(r"^\d+/\d+$")).first).to_be_visible()
        page.keyboard.press("k")
        page.get_by_text("Heater pump: supply drop").first.click()
        page.get_by_role("link", name="On the map").click()
        expect(page.locator(":is(.map-piece, .map-device).lit").first).to_be_visible()

    def test_what_is_tried_on_the_metal_flows_on_the_map(self) -> None:
        page = self._opened()
        pump = page.get_by_role("treeitem", name=re.compile("^M3 Heater pump"))
        expect(pump).to_have_accessible_name(re.compile(", on"))
        page.locator("[data-segment] text", has_text=re.compile("^F6$")).click()
        page.keyboard.press("m")
        page.get_by_role("menuitem", name=re.compile("F6")).first.click()
        expect(pump).to_have_accessible_name(re.compile(", off"))
        page.get_by_role("button", name="Put back").click()
        expect(pump).to_have_accessible_name(re.compile(", on"))

    def test_a_size_that_is_tried_is_computed_on_the_map(self) -> None:
        page = self._opened()
        page.get_by_role("radiogroup", name="Look").get_by_text("lost").click()
        wire = page.locator("[data-segment]", has=page.locator("title", has_text=re.compile("^W16,")))
        lost = wire.locator("text").text_content() or ""
        wire.locator("text").click()
        ladder = page.get_by_role("listbox", name="Size ladder")
        ladder.get_by_role("option", name=re.compile("^16 mm²")).click()
        expect(wire.locator("text")).not_to_have_text(lost)
        page.keyboard.press("Escape")
        expect(wire.locator("text")).to_have_text(lost)
        ladder.get_by_role("option", name=re.compile("^16 mm²")).click()
        expect(wire.locator("text")).not_to_have_text(lost)
        page.keyboard.press("ArrowRight")
        expect(wire.locator("text")).to_have_text(lost)

    def test_a_family_alone_and_a_circuit_folded_away(self) -> None:
        page = self._opened("Mobile market van")
        rows = page.get_by_role("treeitem")
        whole = rows.count()
        page.locator("[data-segment] text", has_text=re.compile("^W9$")).click()
        page.get_by_role("button", name="Fold away").click()
        expect(page.get_by_role("treeitem", name=re.compile("^M2 "))).to_have_count(0)
        page.get_by_role("button", name="Unfold Cold box feed").click()
        expect(rows).to_have_count(whole)
        page.get_by_role("combobox", name="Shown alone").click()
        page.get_by_role("option", name="Starting").click()
        expect(page.get_by_text(re.compile("folded away:"))).to_be_visible()
        expect(page.get_by_role("treeitem", name=re.compile("^M2 "))).to_have_count(0)
        self.assertLess(rows.count(), whole / 2)
        page.get_by_role("button", name="Unfold all").click()
        expect(rows).to_have_count(whole)

    def test_on_paper_it_is_as_large_as_the_paper(self) -> None:
        """One sheet where it holds the map, else as many as it takes."""
        page = self._opened("Mobile market van")
        self.assertEqual(self.pages_of_the_map(page, "A3"), [A3])
        expect(page.locator(".map-sheets")).to_have_count(0)
        page.keyboard.press("g")
        file = FilePayload(name="job.json", mimeType="application/json", buffer=generated_job(3, 150).encode())
        page.get_by_label("Job file").set_input_files(file)
        page.get_by_role("dialog").get_by_role("button", name="Open").click()
        page.get_by_role("treeitem").first.wait_for()
        cut = self.pages_of_the_map(page, "A4")
        self.assertGreater(len(cut), 1)
        self.assertLessEqual(set(cut), {A4, A4[::-1]})

    def test_two_fingers_and_a_wheel_bring_it_closer_and_the_devices_stay(self) -> None:
        page = self._opened()
        page.set_viewport_size({"width": 390, "height": 844})
        devices, frame = page.locator(".map-devices"), page.locator(".map-frame")
        frame.evaluate("frame => frame.scrollTo(2000, 0)")
        shown, box = frame.bounding_box(), devices.bounding_box()
        assert shown and box
        self.assertAlmostEqual(box["x"], shown["x"], delta=1)

        def width() -> float:
            drawn = page.locator("svg.map").first.bounding_box()
            assert drawn
            return drawn["width"]

        before = width()
        frame.hover()
        page.keyboard.down("Control")
        page.mouse.wheel(0, -100)
        page.keyboard.up("Control")
        expect(page.locator("svg.map").first).to_have_attribute("width", re.compile(f"^{before * 1.25:.0f}"))
        pinch = """(frame) => {
          const touch = (id, x) => new Touch({identifier: id, target: frame, clientX: x, clientY: 500});
          const move = (kind, x) => frame.dispatchEvent(new TouchEvent(kind, {touches: [touch(0, 100), touch(1, x)],
            cancelable: true, bubbles: true}));
          move("touchstart", 300);
          move("touchmove", 200);
        }"""
        now = width()
        frame.evaluate(pinch)
        expect(page.locator("svg.map").first).to_have_attribute("width", re.compile(f"^{now / 2:.0f}"))
