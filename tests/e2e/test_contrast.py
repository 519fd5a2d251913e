"""Contrast of every pair of colours as the page draws them, in both themes: words, marks, edges of fields; WCAG 2.2, 1.4.3 and 1.4.11."""

from __future__ import annotations

from typing import Any

import pytest
from playwright.sync_api import Page, expect

from e2e.test_accessible import PLACES

# What is drawn fainter than it has to be: what it is, its ratio, and where.
FAINT = """() => {
  const canvas = document.createElement('canvas')
  canvas.width = canvas.height = 1
  const pen = canvas.getContext('2d', { willReadFrequently: true })
  const painted = (colour) => {
    pen.clearRect(0, 0, 1, 1)
    pen.fillStyle = colour
    pen.fillRect(0, 0, 1, 1)
    const [r, g, b, alpha] = pen.getImageData(0, 0, 1, 1).data
    return [r, g, b, alpha / 255]
  }
  const over = ([r, g, b, alpha], under) => [r, g, b].map((one, i) => one * alpha + under[i] * (1 - alpha))
  const around = function* (element) {
    for (let one = element; one; one = one.parentElement) yield one
  }
  const groundOf = (element) => {
    const layers = []
    for (const one of around(element)) {
      layers.push(painted(getComputedStyle(one).backgroundColor))
      if (layers.at(-1)[3] === 1) break
    }
    return layers.reduceRight((under, layer) => over(layer, under), [255, 255, 255])
  }
  const opacityOf = (element) => [...around(element)].reduce((all, one) => all * Number(getComputedStyle(one).opacity), 1)
  const light = (colour) => {
    const [r, g, b] = colour.map((v) => (v / 255 <= 0.04045 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4))
    return 0.2126 * r + 0.7152 * g + 0.0722 * b
  }
  const ratio = (one, other) => {
    const [a, b] = [light(one), light(other)]
    return (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05)
  }
  const isSeen = (element) => element.checkVisibility({ visibilityProperty: true }) && element.getBoundingClientRect().width > 0
  const faint = []
  let pairs = 0
  const check = (what, colour, ground, least, element) => {
    pairs += 1
    const [r, g, b, alpha] = painted(colour)
    const found = ratio(over([r, g, b, alpha * opacityOf(element)], ground), ground)
    if (found < least) faint.push(`${what} ${found.toFixed(2)} ${colour} on ${ground.map(Math.round)}: ${element.outerHTML.slice(0, 120)}`)
  }
  const words = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT)
  for (let node = words.nextNode(); node; node = words.nextNode()) {
    const element = node.parentElement
    if (!node.data.trim() || !isSeen(element) || element.closest('.spoken, script, option, [disabled]')) continue
    const { color, fontSize, fontWeight } = getComputedStyle(element)
    const size = parseFloat(fontSize)
    check('words', color, groundOf(element), size >= 24 || (size >= 18.66 && fontWeight >= 700) ? 3 : 4.5, element)
  }
  for (const field of document.querySelectorAll('input:not([type=checkbox], [type=radio]), select, textarea, [data-part=control]'))
    if (isSeen(field) && !field.matches('[disabled], [data-disabled]'))
      check('edge', getComputedStyle(field).borderBottomColor, groundOf(field.parentElement), 3, field)
  for (const sign of document.querySelectorAll('svg[role=img]'))
    if (isSeen(sign)) check('sign', getComputedStyle(sign).color, groundOf(sign), 3, sign)
  for (const mark of document.querySelectorAll('i[role=img], [data-part=range]'))
    if (isSeen(mark)) check('mark', getComputedStyle(mark).backgroundColor, groundOf(mark.parentElement), 3, mark)
  return { pairs, faint: [...new Set(faint)] }
}"""


def faint(page: Page, least: int = 20) -> list[str]:
    told: dict[str, Any] = page.evaluate(FAINT)
    assert told["pairs"] >= least, "hardly anything was looked at"
    return list(told["faint"])


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_nothing_on_any_place_is_faint(page: Page, scheme: Any) -> None:
    page.emulate_media(color_scheme=scheme, reduced_motion="reduce")
    address = page.url.split("/p/")[0]
    paths = [f"/p/tessmar/{place}" for place in PLACES] + [
        "/p/tessmar/project",
        "/projects",
        "/account",
        "/accounts",
    ]
    for path in paths:
        page.goto(address + path)
        expect(page.get_by_role("heading", level=1).first).to_be_attached()
        expect(page.locator("[aria-busy=true]")).to_have_count(0)
        page.wait_for_timeout(300)
        assert faint(page, least=10) == [], path


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_nothing_is_faint_under_the_pointer_or_in_windows(page: Page, scheme: Any) -> None:
    page.emulate_media(color_scheme=scheme, reduced_motion="reduce")
    expect(page.locator("main [data-token]").first).to_be_visible()
    bar = page.get_by_role("navigation", name="places")
    row = page.get_by_role("listbox", name="sentences").get_by_role("option").nth(3)
    for pointed in (
        bar.get_by_role("link").first,
        bar.get_by_role("link", name="Desk"),
        row,
        page.locator("aside button").first,
    ):
        pointed.hover()
        assert faint(page) == []
    page.keyboard.press("t")
    page.keyboard.press("Home")
    for key in ("#", "&", "!", "?"):
        page.keyboard.press(key)
        expect(page.get_by_role("dialog")).to_be_visible()
        page.wait_for_timeout(300)
        assert faint(page) == [], key
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
    page.get_by_role("banner").get_by_role("button", name="Ines").click()
    page.get_by_role("menuitem", name="your account").hover()
    assert faint(page) == []


def test_what_is_faint_would_be_found(page: Page) -> None:
    expect(page.locator("main [data-token]").first).to_be_visible()
    assert faint(page) == []
    page.add_style_tag(
        content="main h1 { color: #9a9a9a !important } select { border-color: #ccc !important } .placeTab b { opacity: 0.4 }"
    )
    told = " ".join(faint(page))
    assert all(found in told for found in ("words", "edge", "<h1", "<b>"))
