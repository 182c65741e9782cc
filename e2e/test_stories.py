"""Stories of the shop in the browser: from what the customer says to the part, each reading off a faulty vehicle."""

import re
from dataclasses import replace
from typing import Any

from playwright.sync_api import Page, Response, expect

from bench.other_worlds import World, in_series
from core.tests.support.demo import demo
from e2e.browser_case import BrowserCase
from percorso.faults.changes import with_resistor
from percorso.verification.measured.measurements import Measurement

MOST_TESTS = 10
CALLED = {"red_point": "points", "black_point": "points", "segment": "segments", "device": "devices"}


class Stories(BrowserCase):
    def _told(self, job: str, says: str, device: str | None, *, phone: bool = False) -> Page:
        """A page in the Trace room of a job with what a customer says; ``traced`` is what was answered last."""
        page = self.open_browser()
        self.sign_in(page)
        self.open_job(page, job)
        if phone:
            page.set_viewport_size({"width": 390, "height": 844})
        self.traced: dict[str, Any] = {}
        page.on("response", self._hear)
        page.keyboard.press("y")
        page.get_by_role("button", name="Start again").click()
        expect(page.get_by_text("Nothing is known yet")).to_be_visible()
        page.get_by_role("button", name="The customer says").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("It", exact=True).click()
        page.get_by_role("option", name=says, exact=True).click()
        if device is not None:
            dialog.get_by_label("The device").click()
            page.get_by_role("listbox").get_by_role("option", name=re.compile(f"^{device} ")).click()
        dialog.get_by_role("button", name="Begin with it").click()
        return page

    def _hear(self, response: Response) -> None:
        if response.url.endswith("/trace") and response.status == 200:
            self.traced = response.json()

    def _follow(self, page: Page, world: World, part: str) -> None:
        """Measure what is offered first, each time, until it is found."""
        job_id = re.search(r"/jobs/([0-9a-f-]+)", page.url)
        assert job_id
        job = page.request.get(f"{self.application.address}/api/jobs/{job_id[1]}").json()
        names = {each["id"]: each.get("designation") or each["name"] for kind in CALLED.values() for each in job[kind]}
        known = page.get_by_role("list", name="What is known").get_by_role("listitem")
        found = page.get_by_role("heading", name=f"Most likely {part}")
        for step in range(MOST_TESTS):
            expect(known).to_have_count(step + 1)
            expect(page.locator(".next-tests button").first.or_(found)).to_be_visible()
            if found.is_visible():
                return
            test = self.traced["next"][0]["test"]
            page.locator(".next-tests button").first.click()
            self._answer(page, test, world.read(_by_name(test["measurement"], names), step))
        expect(found).to_be_visible()

    def _answer(self, page: Page, test: dict[str, Any], read: Measurement) -> None:
        """Write down what a meter shows, or say the word."""
        asked = page.get_by_role("region", name="Asked now")
        expect(asked).to_be_visible()
        if read.value is None:
            says = next(each["says"] for each in test["words"] if each["word"] == read.outcome)
            asked.get_by_role("button", name=re.compile(f"^{re.escape(says)}")).first.click()
            return
        if page.viewport_size and page.viewport_size["width"] < 700:
            for figure in f"{read.value:g}":
                asked.locator(".pad").get_by_role("button", name=figure, exact=True).click()
            asked.get_by_role("button", name="Log it").click()
            return
        page.get_by_label(re.compile("^the meter says")).fill(f"{read.value:g}")
        page.keyboard.press("Enter")

    def test_four_volts_at_the_trigger(self) -> None:
        tractor = demo("vineyard-tractor")
        page = self._told("Vineyard tractor", "does nothing when cranked", None)
        metal = in_series(tractor, tractor.segments["s4"], 2.0)
        self._follow(page, World(metal, "a story", frozenset({"s4"}), sound=tractor), "S4")
        expect(page.get_by_role("region", name="Most likely")).to_contain_text("replace the switch")

    def test_a_module_that_does_not_answer(self) -> None:
        bus = demo("school-minibus")
        page = self._told("School minibus", "module does not answer", "A1")
        metal = replace(bus, opened=bus.opened | {"w10"})
        self._follow(page, World(metal, "a story", frozenset({"w10"}), sound=bus), "W10")
        expect(page.get_by_role("region", name="Most likely")).to_contain_text("find the break")

    def test_a_lamp_that_glows_dimly_on_the_phone(self) -> None:
        van = demo("market-van")
        page = self._told("Mobile market van", "something is weak", "E1", phone=True)
        metal = in_series(van, van.segments["w14"], 0.6)
        self._follow(page, World(metal, "a story", frozenset({"w14"}), sound=van), "W14")
        expect(page.get_by_role("region", name="Most likely")).to_contain_text("broken strands")

    def test_a_blower_that_somebody_else_feeds(self) -> None:
        """No part is condemned for a wire that nobody described, and where it is, is said."""
        van = demo("market-van")
        page = self._told("Mobile market van", "something runs on", "M3")
        metal = with_resistor(van, "b-plus", "k5-86", 0.03)
        self._follow(page, World(metal, "a story", frozenset(), sound=van), "something that this job does not describe")
        said = page.get_by_role("region", name="Most likely")
        expect(said).to_contain_text("Something else feeds K5 86. Follow every wire that ends there")

    def test_a_test_that_cannot_be_reached_is_left_out_until_it_is_offered_again(self) -> None:
        page = self._told("Vineyard tractor", "does nothing when cranked", None)
        known = page.get_by_role("list", name="What is known").get_by_role("listitem")
        expect(known).to_have_count(1)
        first = page.locator(".next-tests button").first
        title = first.inner_text()
        first.click()
        page.get_by_role("button", name="cannot reach").click()
        expect(known.last).to_contain_text("cannot reach")
        expect(first).not_to_have_text(title)
        expect(page.get_by_text(re.compile(r"\d min so far"))).to_be_visible()
        known.last.get_by_role("button", name="offer it again").click()
        expect(known).to_have_count(1)
        expect(first).to_have_text(title)


def _by_name(measurement: dict[str, Any], names: dict[str, str]) -> Measurement:
    """A measurement with the names of its points and parts, as the job file has them."""
    called = {each: names[measurement[each]] for each in CALLED if measurement[each] is not None}
    situation = dict(measurement["situation"])
    done = situation["preparations"]
    situation["preparations"] = [{key: names.get(value, value) for key, value in each.items()} for each in done]
    return Measurement.model_validate(measurement | called | {"situation": situation})
