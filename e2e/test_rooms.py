"""Every room of every demo job, as found and as planned, in every state: no error anywhere, and none hidden."""

import re

from playwright.sync_api import Page, Request, Route, expect

from e2e.browser_case import BrowserCase
from percorso.vehicle.states import STATES

JOBS = ("Mobile market van", "Vineyard tractor", "School minibus")
# What lies on something else in the drawing of a circuit, by more than two pixels, or beyond its right edge or its
# heading's, and what is cut off in a list of parts.
APART = """
() => {
  const found = [];
  const boxes = (what) => [...document.querySelectorAll(what)].map((each) => [each.textContent,
    each.getBoundingClientRect(), each.closest("svg").getBoundingClientRect()]);
  const said = boxes(".profile .drop, .profile .diamond text");
  said.forEach(([text, a], place) => said.slice(place + 1).forEach(([other, b]) => {
    const wide = Math.min(a.right, b.right) - Math.max(a.left, b.left);
    const high = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
    if (wide > 2 && high > 2) found.push(`${text} lies on ${other}`);
  }));
  for (const [name, box, frame] of boxes(".station-name"))
    if (box.right > frame.right + 1) found.push(`${name} is clipped`);
  for (const head of document.querySelectorAll(".room-head, .page-head"))
    for (const each of head.children)
      if (each.getBoundingClientRect().right > head.getBoundingClientRect().right + 1)
        found.push(`${each.textContent} leaves its head`);
  for (const cell of document.querySelectorAll(".rows:not(.board) td"))
    if (cell.scrollWidth > cell.clientWidth + 1) found.push(`${cell.textContent} is cut off`);
  return found;
}
"""
ROOMS = (
    ("v", "New device"),
    ("l", "Can the alternator keep up?"),
    ("t", "situations tried"),
    ("k", "min left"),
    ("y", "What if I just replaced"),
    ("h", "Wire schedule"),
)
FIGURE_MISSING = re.compile(r"NaN|undefined|Infinity|\[object")


class Rooms(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        self.asked: set[Request] = set()

    def _signed_in(self) -> Page:
        page = self.open_browser()
        self.sign_in(page)
        page.on("request", self._asks)
        page.on("requestfinished", self._is_done)
        page.on("requestfailed", self._is_done)
        page.on("response", lambda response: self._is_granted(response.status, response.url))
        return page

    def _asks(self, request: Request) -> None:
        self.asked.add(request)

    def _is_done(self, request: Request) -> None:
        self.asked.discard(request)

    def _is_granted(self, status: int, url: str) -> None:
        if status >= 400:
            self.broken.append(f"{status} from {url}")

    def _at_rest(self, page: Page, where: str) -> None:
        """Wait for the last answer, then read the screen."""
        page.wait_for_timeout(60)
        while self.asked:
            page.wait_for_timeout(30)
        with self.subTest(where):
            self.assertNotRegex(page.locator("body").inner_text(), FIGURE_MISSING)
            self.assertEqual(page.get_by_role("alert").all_inner_texts(), [])
            self.assertEqual(page.evaluate(APART), [])

    def _in_every_state(self, page: Page, where: str) -> None:
        for stage in "fp":
            page.keyboard.press("s")
            page.keyboard.press(stage)
            for place, state in enumerate(STATES, 1):
                page.keyboard.press("s")
                page.keyboard.press(str(place))
                self._at_rest(page, f"{where}, {stage}, {state}")

    def test_every_demo_job(self) -> None:
        for job in JOBS:
            page = self._signed_in()
            self.open_job(page, job)
            self._in_every_state(page, f"{job}, board")
            circuits = page.locator("table.board a").evaluate_all("links => links.map(each => each.href)")
            self.assertGreater(len(circuits), 5)
            for key, ready in ROOMS:
                page.keyboard.press(key)
                page.get_by_text(ready).first.wait_for()
                self._in_every_state(page, f"{job}, {ready}")
            for circuit in circuits:
                page.goto(circuit)
                page.get_by_role("listbox", name="Route").wait_for()
                self._in_every_state(page, circuit)

    def test_twelve_circuits_fit_and_those_that_carry_nothing_say_so(self) -> None:
        page = self._signed_in()
        self.open_job(page, JOBS[0])
        lines = page.locator("table.board tbody tr")
        expect(lines).to_have_count(12)
        self._at_rest(page, "board")
        boxes = [box for line in lines.all() if (box := line.bounding_box())]
        self.assertLessEqual(max(box["y"] + box["height"] for box in boxes), 768)  # where the line of keys begins
        expect(page.get_by_role("row", name=re.compile("Starter feed"))).to_contain_text("no current here")
        expect(page.get_by_role("row", name=re.compile("Charge cable"))).to_contain_text("current flows in reverse")
        expect(page.get_by_role("row", name=re.compile("Sense lead"))).to_contain_text("raised by other circuits")

    def test_no_line_jumps_away_when_findings_come(self) -> None:
        page = self._signed_in()
        held: list[Route] = []

        def hold(route: Route) -> None:
            held.append(route)

        page.route("**/plan-findings**", hold)
        page.get_by_role("link", name=JOBS[1]).click()
        page.get_by_role("link", name="Overview").click()
        expect(page.get_by_text("Looking for what is wrong")).to_be_visible()
        line = page.get_by_role("link", name="Charge path")
        before = line.bounding_box()
        for each in held:
            each.continue_()
        expect(page.get_by_text("Show all")).to_be_visible()
        self.assertEqual(line.bounding_box(), before)

    def test_a_reading_is_asked_for_as_computed_here(self) -> None:
        page = self.open_cold_box()
        page.keyboard.press("r")
        computed = page.get_by_text(re.compile("^Computed here: "))
        said = re.match(r"Computed here: (\S+ \S+) at (\S+ A)", computed.inner_text())
        assert said
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_label("The meter says")).to_have_attribute("placeholder", said[1])
        expect(dialog.get_by_label("Current at the time")).to_have_attribute(
            "placeholder", f"not measured; about {said[2]}"
        )

    def test_what_did_not_come_is_said(self) -> None:
        page = self.open_browser()
        self.sign_in(page)
        self.may_be_away = True

        def breaks(route: Route) -> None:
            route.fulfill(status=500, content_type="text/plain", body="no answer")

        page.route("**/plan-findings**", breaks)
        page.get_by_role("link", name=JOBS[0]).click()
        page.get_by_role("link", name="Overview").click()
        expect(page.get_by_role("alert")).to_contain_text("A blank here does not mean OK.")
        page.unroute("**/plan-findings**", breaks)
        page.get_by_role("button", name="Ask again").click()
        expect(page.get_by_role("alert")).to_have_count(0)
