"""The map in a browser: how soon a state that is chosen is drawn, and how smoothly a large vehicle is panned."""

import statistics

from playwright.sync_api import FilePayload, Page

from core.tests.support.generated import generated_job

POINTS = 400
PAN_MS = 4000


def measure_map(page: Page) -> None:
    """Print both. The page is signed in, on any room of a job."""
    page.get_by_role("link", name="Vehicle", exact=True).click()
    page.get_by_role("treeitem").first.wait_for()
    page.wait_for_timeout(3000)  # the other states are read beforehand
    _print_redrawn(page, "the map of the van")
    page.keyboard.press("g")
    file = FilePayload(name="large.json", mimeType="application/json", buffer=generated_job(3, POINTS).encode())
    page.get_by_label("Job file").set_input_files(file)
    page.get_by_role("dialog").get_by_role("button", name="Open").click()
    page.get_by_role("treeitem").first.wait_for()
    page.wait_for_timeout(8000)
    for _ in range(3):
        page.keyboard.press("+")
    page.wait_for_timeout(1000)
    frames_s, worst_ms = page.evaluate(_PAN, PAN_MS)
    print(f"panning {POINTS} points: {frames_s:.0f} frames a second (aim: 50), the longest {worst_ms:.0f} ms")


def _print_redrawn(page: Page, of: str) -> None:
    times = [page.evaluate(_CHOOSE_AND_WATCH, key) for key in "4561456145"]
    median, worst = statistics.median(times), max(times)
    print(f"state chosen to {of} redrawn: median {median:.0f} ms, worst {worst:.0f} ms (aim: 100)")


_CHOOSE_AND_WATCH = """key => new Promise(done => {
  const start = performance.now();
  const seen = new MutationObserver(() => {
    seen.disconnect();
    requestAnimationFrame(() => setTimeout(() => done(performance.now() - start)));
  });
  seen.observe(document.querySelector('.map-frame'), {subtree: true, attributes: true, characterData: true});
  setTimeout(() => done(10000), 10000);
  for (const pressed of ['s', key])
    document.body.dispatchEvent(new KeyboardEvent('keydown', {key: pressed, bubbles: true, cancelable: true}));
})"""

_PAN = """during => new Promise(done => {
  const frame = document.querySelector('.map-frame');
  const start = performance.now();
  let [count, last, worst, by] = [0, start, 0, 9];
  const step = now => {
    count += 1;
    worst = Math.max(worst, now - last);
    last = now;
    if (frame.scrollTop + frame.clientHeight >= frame.scrollHeight - 2 || frame.scrollTop <= 0) by = -by;
    frame.scrollBy(by / 2, -by);
    if (now - start < during) requestAnimationFrame(step);
    else done([(1000 * count) / (now - start), worst]);
  };
  requestAnimationFrame(step);
})"""
