"""Everything the keyboard does can be done by mouse, wrong input is met beside its field, and small screens work."""

import re

from playwright.sync_api import expect

from e2e.browser_case import BrowserCase


class Mouse(BrowserCase):
    def test_the_ladder_is_climbed_and_kept_by_mouse(self) -> None:
        page = self.open_cold_box()
        ladder = page.get_by_role("listbox", name="Size ladder")
        ladder.get_by_role("option", name=re.compile("^6 AWG")).click()
        expect(page.locator(".headline .verdict")).not_to_contain_text("over")
        page.get_by_role("button", name="Keep it").click()
        expect(page.get_by_role("option", name="W9, wire, 6 AWG")).to_be_visible()
        page.get_by_text("mm²", exact=True).click()
        expect(ladder.get_by_role("option", name=re.compile("^16 mm²"))).to_be_visible()
        ladder.get_by_role("option", name=re.compile("^16 mm²")).click()
        page.get_by_role("button", name="Put back").click()
        expect(page.get_by_role("option", name="W9, wire, 6 AWG")).to_be_visible()

    def test_a_fuse_is_chosen_from_its_ratings(self) -> None:
        """18 A ÷ 0.8 asks for 22.5 A: a 20 A fuse tires, a 25 A one does (common practice)."""
        page = self.open_cold_box()
        page.get_by_role("option", name="F7, fuse").click()
        ratings = page.get_by_role("listbox", name="Size ladder")
        expect(ratings.get_by_role("option", name=re.compile("^20 A"))).to_contain_text("needs 22.5 A")
        expect(ratings.get_by_role("option", name=re.compile("^25 A"))).to_contain_text("smallest that does both")
        ratings.get_by_role("option", name=re.compile("^20 A")).click()
        expect(page.get_by_text("F7 20 A is too small for 18 A.")).to_be_visible()
        page.get_by_role("button", name="Put back").click()

    def test_segments_are_moved_and_taken_out(self) -> None:
        page = self.open_cold_box()
        page.get_by_role("button", name="Move towards the source").click()
        route = page.get_by_role("listbox", name="Route").get_by_role("option")
        expect(route.nth(3)).to_contain_text("W9")
        expect(route.nth(4)).to_contain_text("K3")
        page.get_by_role("button", name="Move away from the source").click()
        expect(route.nth(4)).to_contain_text("W9")
        page.get_by_role("button", name="Delete", exact=True).click()
        expect(page.get_by_role("option", name="W9, wire")).to_have_count(0)
        page.keyboard.press("Control+z")
        expect(page.get_by_role("option", name="W9, wire")).to_be_visible()

    def test_the_circuit_and_its_points_are_changed(self) -> None:
        page = self.open_cold_box()
        page.get_by_role("button", name="Circuit ▾").click()
        page.get_by_role("menuitem", name="Change the circuit").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Target").fill("0.8 V")
        dialog.get_by_role("button", name="Save").click()
        expect(page.get_by_text("volts lost, 0.80 allowed")).to_be_visible()
        expect(dialog).to_have_count(0)
        page.keyboard.press("p")
        name = dialog.get_by_label("Name of GND4 lug")
        name.fill("GND4 tailgate")
        name.press("Enter")
        expect(dialog.get_by_label("Name of GND4 tailgate")).to_be_visible()
        way = dialog.get_by_label("Way to GND4 tailgate")
        way.click()
        page.get_by_role("option", name="inside the harness").click()
        expect(
            page.get_by_text("way to GND4 lug · saved").or_(page.get_by_text("way to GND4 tailgate"))
        ).to_be_visible()
        expect(way).to_have_value("inside the harness")
        dialog.get_by_label("New point").fill("GND8")
        dialog.get_by_role("button", name="Add").click()
        dialog.get_by_role("button", name="Delete GND8").click()
        expect(dialog.get_by_label("Name of GND8")).to_have_count(0)
        dialog.get_by_role("button", name="Delete B+ post").click()
        expect(dialog.get_by_role("alert")).to_contain_text("end here")

    def test_a_route_is_led_on_over_segments_that_are_there(self) -> None:
        page = self.open_cold_box()
        page.get_by_role("option", name="W2, wire").click()
        page.keyboard.press("x")
        page.get_by_role("button", name=re.compile("W4.*starts at Starter 30")).click()
        expect(page.get_by_role("option", name="W4, wire")).to_be_visible()
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.keyboard.press("Control+z")
        expect(page.get_by_role("option", name="W4, wire")).to_have_count(0)

    def test_a_reading_is_corrected_by_a_new_one(self) -> None:
        page = self.open_cold_box()
        page.get_by_role("button", name="Correct it").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("The meter says").fill("0.24 V")
        dialog.get_by_label("Current at the time").fill("17 A")
        dialog.get_by_role("button", name="Log it").click()
        readings = page.get_by_label("Readings here")
        expect(readings.get_by_text("superseded by a later one")).to_be_visible()
        expect(readings.get_by_text("240 mV")).to_be_visible()


class WrongInput(BrowserCase):
    def test_every_wrong_value_is_met_beside_its_field_and_nothing_is_written(self) -> None:
        page = self.open_cold_box()
        page.keyboard.press("e")
        dialog = page.get_by_role("dialog")
        for label, text, hint in [
            ("Length", "-3 m", "above 0 up to 200 m"),
            ("Length", "1 km", "above 0 up to 200 m"),
            ("Length", "4", "has no unit"),
            ("Length", "4 cubits", "not a unit of length"),
            ("Size", "10", "AWG or mm²"),
            ("Size", "47 AWG", "24 AWG up to 4/0"),
            ("Colour", "reddish", "not a colour code"),
            ("Designation", "<b>", "not allowed"),
            ("To point", "Nowhere", "a point this job does not have"),
        ]:
            with self.subTest(label=label, text=text):
                field = dialog.get_by_label(label, exact=True)
                before = field.input_value()
                field.fill(text)
                dialog.get_by_role("button", name="Save").click()
                expect(dialog.get_by_text(hint).first).to_be_visible()
                expect(field).to_have_value(text)
                field.fill(before)
        page.keyboard.press("Escape")
        expect(page.get_by_role("option", name="W9, wire, 10 AWG, 4.1 m")).to_be_visible()

    def test_a_wrong_password_is_refused_plainly(self) -> None:
        page = self.open_browser()
        page.get_by_label("Sign-in name").fill("nobody")
        page.get_by_label("Password", exact=True).fill("nothing")
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_role("alert")).to_contain_text("Name or password is wrong")

    def test_an_empty_job_and_an_unknown_address_lead_somewhere(self) -> None:
        page = self.open_browser()
        self.sign_in(page)
        page.goto(f"{self.application.address}/jobs/00000000-0000-0000-0000-000000000000")
        expect(page.get_by_text("there is no such thing in this shop")).to_be_visible()
        page.goto(f"{self.application.address}/elsewhere")
        expect(page.get_by_role("heading", name="Jobs")).to_be_visible()


class Screens(BrowserCase):
    signs_in_by_hand = True

    def test_a_phone_shows_every_screen_without_sideways_scrolling(self) -> None:
        page = self.open_cold_box()
        page.set_viewport_size({"width": 390, "height": 844})
        for key, place in (("", "circuit"), ("b", "board"), ("h", "sheets"), ("g", "jobs")):
            if key:
                page.keyboard.press(key)
            page.get_by_role("heading").first.wait_for()
            with self.subTest(place):
                wide = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
                self.assertLessEqual(wide, 0)

    def test_the_working_area_of_a_laptop_does_not_scroll(self) -> None:
        page = self.open_cold_box()
        parts = "[document.documentElement, document.querySelector('main')]"
        scroll = page.evaluate(f"{parts}.map(part => part.scrollHeight - part.clientHeight)")
        self.assertEqual(scroll, [0, 0])

    def test_dark_and_light_are_switched_and_remembered(self) -> None:
        page = self.open_cold_box()
        page.get_by_role("button", name="Switch to dark").click()
        page.reload()
        expect(page.locator("html")).to_have_attribute("data-mantine-color-scheme", "dark")

    def test_a_session_that_ended_elsewhere_is_said_and_the_change_waits(self) -> None:
        page = self.open_cold_box()
        other = page.context.new_page()
        other.goto(self.application.address)
        other.get_by_role("heading", name="Jobs").wait_for()
        other.get_by_role("button", name="You").click()
        other.get_by_role("menuitem", name="Sign out").click()
        other.get_by_role("button", name="Sign in").wait_for()
        page.keyboard.press("e")
        page.get_by_role("dialog").get_by_label("Length").fill("5 m")
        page.get_by_role("button", name="Save").click()
        expect(page.get_by_text("You are signed out")).to_be_visible()
        self.sign_in(other)
        page.reload()
        expect(page.get_by_role("option", name="W9, wire, 10 AWG, 5 m")).to_be_visible()
