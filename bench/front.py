"""The front end as somebody meets it: the first load of the Desk in a cold browser, and each place from the bar.

The server is warm; the demo has no tagger and no scorecard yet. A place stands when what the place before showed is gone, its
own heading is there, and nothing in it says that it is loading.
"""

from __future__ import annotations

import gzip
import re
import statistics
from pathlib import Path

from _running import FLAGS, started
from playwright.sync_api import Page, sync_playwright

ASSETS = Path(__file__).parents[1] / "web" / "dist"
LOADS, FULL_LOADS = 5, 15
VISITS, FULL_VISITS = 3, 15
PLACES = ("Types", "Texts", "Lists", "Rules", "Tagger", "Scores", "Records", "Desk")
STANDS = "!document.querySelector('main[data-old]') && !!document.querySelector('main h1, main [data-stave]') && !document.querySelector('main [aria-busy=true]')"
# Usable: the sentence stands there and a key moves the cursor in it.
USABLE = """
new Promise((resolve) => {
  const look = () => {
    const cursor = document.querySelector('main [data-stave] [data-cursor]')
    if (!cursor) return requestAnimationFrame(look)
    const before = cursor.style.cssText
    dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', bubbles: true }))
    requestAnimationFrame(() => {
      const after = document.querySelector('main [data-stave] [data-cursor]')?.style.cssText
      if (after !== before) resolve(performance.now())
      else requestAnimationFrame(look)
    })
  }
  look()
})
"""


def measure(full: bool) -> dict[str, float]:
    """Times in milliseconds, medians; script in kilobytes as it is sent."""
    loads = FULL_LOADS if full else LOADS
    visits = FULL_VISITS if full else VISITS
    with started() as link, sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS.split())
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(link)
        page.wait_for_url("**/projects")
        address = f"{link.split('/sign-in')[0]}/p/tessmar"
        state = page.context.storage_state()
        page.goto(f"{address}/desk")
        page.wait_for_url("**/desk/*")
        desk = page.url
        page.evaluate(USABLE)
        times = {place: [_place(page, place) for _ in range(visits)] for place in PLACES}
        page.context.close()
        first = []
        for _ in range(loads):
            # Nothing of an earlier visit is kept.
            fresh = browser.new_context(viewport={"width": 1280, "height": 800}, storage_state=state)
            cold = fresh.new_page()
            cold.goto(desk, wait_until="commit")
            first.append(float(cold.evaluate(USABLE)))
            fresh.close()
        browser.close()
    medians = {f"{place.lower()}_ms": statistics.median(every[1:]) for place, every in times.items()}
    return {
        "first_load_ms": statistics.median(first),
        "first_script_kilobytes": _script(),
        "slowest_place_ms": max(medians.values()),
        "slowest_first_visit_ms": max(every[0] for every in times.values()),
    } | medians


def _stands(place: str) -> str:
    return f"location.pathname.includes('/{place.lower()}') && {STANDS}"


def _place(page: Page, place: str) -> float:
    """From a click in the bar until the place stands."""
    away = "Texts" if place != "Texts" else "Types"
    bar = page.get_by_role("navigation", name="places")
    bar.get_by_role("link", name=re.compile(f"^{away}")).click()
    page.evaluate(
        f"new Promise((stood) => {{ const look = () => ({_stands(away)} ? stood() : requestAnimationFrame(look)); look() }})"
    )
    page.wait_for_timeout(300)  # what the place before still asks for is not this one's
    page.evaluate(
        """() => {
          const there = () => THERE
          // The address changes before the page does: what stands there now does not count.
          document.querySelector('main').dataset.old = ''
          window.stood = new Promise((resolve) => {
            addEventListener('click', (event) => {
              const begun = event.timeStamp
              const look = () => (there() ? resolve(performance.now() - begun) : requestAnimationFrame(look))
              requestAnimationFrame(look)
            }, { capture: true, once: true })
          })
        }""".replace("THERE", _stands(place))
    )
    bar.get_by_role("link", name=re.compile(f"^{place}")).click()
    return float(page.evaluate("stood"))


def _script() -> float:
    """What the page names in its head, packed."""
    page = (ASSETS / "index.html").read_text()
    names = re.findall(r'(?:src|href)="/(assets/[^"]+\.js)"', page)
    return sum(len(gzip.compress((ASSETS / name).read_bytes())) for name in names) / 1000
