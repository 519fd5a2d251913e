"""For everybody: what a checker of accessibility finds, enlarged pages, and readers who want nothing to move."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from e2e.conftest import Running

AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"
PLACES = (
    "types",
    "texts",
    "texts/findings",
    "texts/table",
    "texts/imports",
    "desk",
    "lists",
    "rules",
    "tagger",
    "scores",
    "records",
)


def faults(page: Page) -> list[str]:
    """Faults of what is shown that are more than minor, by rule and element."""
    page.evaluate(AXE.read_text())
    found: list[dict[str, Any]] = page.evaluate("axe.run().then(({ violations }) => violations)")
    return [
        f"{fault['id']} ({fault['impact']}): {node['html'][:160]} {node['failureSummary'][:200]}"
        for fault in found
        if fault["impact"] != "minor"
        for node in fault["nodes"]
    ]


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_no_place_has_faults(page: Page, scheme: Any) -> None:
    page.emulate_media(color_scheme=scheme)
    address = page.url.rsplit("/desk", 1)[0]
    for place in PLACES:
        page.goto(f"{address}/{place}")
        expect(page.locator("#main")).to_be_visible()
        # What a place is about has come, not only its frame.
        expect(page.locator("#main h1").first).to_be_attached()
        expect(page.locator("#main [aria-busy]")).to_have_count(0)
        page.wait_for_timeout(300)
        assert faults(page) == [], place
    for path in ("/p/tessmar/project", "/projects", "/account", "/accounts"):
        page.goto(address.split("/p/")[0] + path)
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        page.wait_for_timeout(300)
        assert faults(page) == [], path


def test_windows_of_the_desk_have_no_faults(page: Page) -> None:
    # A window that is still coming into view counts as none.
    page.emulate_media(reduced_motion="reduce")
    expect(page.locator("main [data-token]").first).to_be_visible()
    page.keyboard.press("t")
    page.keyboard.press("Home")
    for key in ("#", "&", "*", "!", "?"):
        page.keyboard.press(key)
        expect(page.get_by_role("dialog")).to_be_visible()
        page.wait_for_timeout(500)
        assert faults(page) == [], key
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("&")
    page.get_by_role("button", name="new round").click()
    expect(page.get_by_label("note to the annotators")).to_be_visible()
    page.wait_for_timeout(500)
    assert faults(page) == []
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("=")
    expect(page.get_by_role("listbox", name="the text").get_by_role("option").first).to_be_visible()
    assert faults(page) == []


def test_enlarged_to_200_percent_one_can_still_work(page: Page) -> None:
    """A window of 1280x800 that is enlarged to 200 % is one of 640x400."""
    page.set_viewport_size({"width": 640, "height": 400})
    expect(page.locator("main [data-token]").first).to_be_visible()
    page.keyboard.press("Home")
    page.keyboard.press("t")
    bar = page.locator('main [data-lane="gold"] [data-span]').first
    bar.scroll_into_view_if_needed()
    expect(bar).to_be_in_viewport()
    stave = page.locator("main [data-stave]").bounding_box()
    assert stave
    assert stave["width"] > 500
    assert page.evaluate("document.documentElement.scrollWidth") <= 640
    page.get_by_role("button", name="turn down").first.scroll_into_view_if_needed()
    expect(page.get_by_role("button", name="turn down").first).to_be_in_viewport()
    # The cursor comes back into sight with the next key.
    expect(page.locator("main [data-cursor]")).not_to_be_in_viewport()
    page.keyboard.press("ArrowRight")
    expect(page.locator("main [data-cursor]")).to_be_in_viewport()


def test_nothing_moves_for_those_who_want_it_so(page: Page) -> None:
    page.emulate_media(reduced_motion="reduce")
    expect(page.locator("main [data-token]").first).to_be_visible()
    page.keyboard.press("#")
    expect(page.get_by_role("dialog")).to_be_visible()
    moving = page.evaluate(
        """() => [...document.querySelectorAll('*')].filter((element) => {
          const { animationName, transitionDuration } = getComputedStyle(element)
          return animationName !== 'none' || transitionDuration.split(',').some((time) => parseFloat(time) > 0)
        }).map((element) => element.outerHTML.slice(0, 100))"""
    )
    assert moving == []


OVERFLOWS = """() => [...document.querySelectorAll('body *')].filter((element) => {
  const { overflowX, display } = getComputedStyle(element)
  // What is cut on purpose, or is not shown, is no fault, and letters may be wider than a short span; what can be
  // scrolled sideways, or sticks out, is.
  if (overflowX === 'hidden' || overflowX === 'clip' || display === 'inline' || element.closest('.spoken, .stave')) return false
  // A table with as many columns as a scheme has types may be scrolled within itself.
  if (element.matches('[data-sideways]')) return false
  // Neither are columns of a stave that stand a little out of its words, unless they make something scroll.
  if (overflowX === 'visible' && element.querySelector('.stave')) return false
  return element.clientWidth > 0 && element.scrollWidth > element.clientWidth + 1
}).map((element) => element.outerHTML.slice(0, 120))"""


@pytest.mark.parametrize("width", [1024, 1280])
def test_nothing_is_wider_than_its_place(page: Page, urdaten: Running, width: int) -> None:
    page.set_viewport_size({"width": width, "height": 768})
    for path in PLACES:
        page.goto(f"{urdaten.address}/p/tessmar/{path}")
        expect(page.locator("#main")).to_be_visible()
        expect(page.locator("#main [aria-busy]")).to_have_count(0)
        page.wait_for_timeout(300)
        assert page.evaluate("document.documentElement.scrollWidth - window.innerWidth") <= 0, path
        assert page.evaluate(OVERFLOWS) == [], path
        expect(page).to_have_title(f"{path.split('/')[0].capitalize()} · Port of Tessmar · Urdaten")


def test_light_or_dark_by_the_system_or_by_hand(page: Page) -> None:
    page.emulate_media(color_scheme="dark")
    expect(page.locator("html.dark")).to_be_visible()
    page.get_by_role("banner").get_by_role("button", name="Ines").click()
    page.get_by_role("menuitemradio", name="light", exact=True).click()
    expect(page.locator("html.dark")).to_have_count(0)
    page.reload()
    expect(page.locator("main [data-token]").first).to_be_visible()
    expect(page.locator("html.dark")).to_have_count(0)
    assert page.evaluate("getComputedStyle(document.documentElement).colorScheme") == "light"
