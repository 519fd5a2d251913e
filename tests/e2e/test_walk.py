"""The whole path, from signing in to a downloaded table."""

from __future__ import annotations

import csv
import json
import re
from pathlib import Path

from playwright.sync_api import Page, expect

from e2e.conftest import SIGNED, Complaints, Running, wait_for

SIGNED_HERE = (
    "SELECT count(*) FROM annotation JOIN sentence ON sentence.id = sentence_id JOIN text ON text.id = text_id "
    "WHERE title = '43/1' AND state = 'signed'"
)
BODY = "The Velvet Heron is due from Varnby on Friday with 640 t of tin ore. Agents Osk Marine."


def place(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="places").get_by_role("link", name=re.compile(f"^{name}")).click()


def select(page: Page, first: str, last: str) -> None:
    """Drag over the words of the open sentence."""
    page.locator("main [data-token]").get_by_text(first, exact=True).first.hover()
    page.mouse.down()
    page.locator("main [data-token]").get_by_text(last, exact=True).first.hover()
    page.mouse.up()


def gold(page: Page) -> list[str]:
    bars = page.locator('main [data-lane="gold"] [data-span]')
    return [bars.nth(i).inner_text() for i in range(bars.count())]


def test_from_signing_in_to_a_table(
    page: Page, urdaten: Running, tmp_path: Path, complaints: Complaints
) -> None:
    # What is refused on purpose: a key that is taken, a pattern that does not compile.
    complaints.expected += ["409 (Conflict)", "422 (Unprocessable"]
    window = page.get_by_role("dialog")
    expect(page.get_by_text("Ines · lead")).to_be_visible()

    # Types: see, add, be refused, change.
    place(page, "Types")
    expect(page.get_by_role("listbox", name="entity types").get_by_role("option")).to_have_count(10)
    page.keyboard.press("n")
    window.get_by_label("code", exact=True).fill("vat")
    window.get_by_label("name", exact=True).fill("vat")
    window.get_by_label("key", exact=True).fill("v")
    page.get_by_role("button", name="add", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("taken by “vessel”")
    window.get_by_label("key", exact=True).fill("")
    page.get_by_role("button", name="add", exact=True).click()
    expect(page.get_by_role("listbox", name="entity types").get_by_role("option")).to_have_count(11)
    expect(page.locator("main h1")).to_contain_text("VAT")
    page.keyboard.press("e")
    window.get_by_label("definition", exact=True).fill("A large vessel for liquids.")
    page.get_by_role("button", name="save", exact=True).last.click()
    expect(page.locator("main")).to_contain_text("A large vessel for liquids.")
    page.locator("main").get_by_role("button", name="retire").click()
    page.get_by_role("dialog").get_by_role("button", name="retire").click()
    expect(page.get_by_role("listbox", name="entity types").get_by_role("option")).to_have_count(10)

    # Texts: paste a new one.
    place(page, "Texts")
    page.get_by_role("button", name="paste a new text").click()
    window.get_by_label("title", exact=True).fill("43/1")
    window.get_by_label("body", exact=True).fill(BODY)
    window.get_by_label("split", exact=True).select_option("train")
    page.get_by_role("button", name="add", exact=True).click()
    expect(page.locator("main h1")).to_have_text("43/1")
    page.get_by_role("link", name="The Velvet Heron").click()

    # Desk: mark by mouse and by keyboard, sign, sign as empty, undo.
    page.wait_for_url("**/desk/**")
    select(page, "Velvet", "Heron")
    page.keyboard.press("v")
    expect(page.locator('main [data-lane="gold"] [data-span]')).to_have_count(1)
    select(page, "Varnby", "Varnby")
    page.get_by_role("button", name="p PRT port").click()
    select(page, "tin", "tin")
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("c")
    select(page, "640", "640")
    page.keyboard.press("Space")  # takes the rule's quantity
    expect(page.locator('main [data-lane="gold"] [data-span]')).to_have_count(4)
    assert sorted(gold(page)) == ["CGO", "PRT", "QTY", "VES"]
    page.keyboard.press("Enter")
    expect(page.get_by_text("sentence 2 of 2")).to_be_visible()
    select(page, "Osk", "Marine")
    page.keyboard.press("o")
    expect(page.locator('main [data-lane="gold"] [data-span]')).to_have_count(1)
    page.keyboard.press("Backspace")
    expect(page.locator('main [data-lane="gold"] [data-span]')).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(page.locator('main [data-lane="gold"] [data-span]')).to_have_count(1)
    page.keyboard.press("Enter")
    expect(page.get_by_text("last sentence of the queue")).to_be_visible()
    wait_for(lambda: urdaten.query(SIGNED_HERE) == [(2,)])
    page.reload()
    expect(page.locator("main")).to_contain_text("· signed")
    signed = urdaten.query(SIGNED)[0][0]
    every = urdaten.query("SELECT count(*) FROM sentence")[0][0]
    expect(page.locator('[data-figure="desk"]')).to_have_text(f"{round(100 * signed / every)} % signed")

    # Lists: a new name is found at once.
    place(page, "Lists")
    page.get_by_role("option", name=re.compile("^vessels")).click()
    expect(page.locator("main h1")).to_contain_text("vessels")
    page.get_by_role("button", name="add a name").click()
    page.get_by_label("name", exact=True).fill("Velvet Heron")
    page.get_by_role("button", name="add", exact=True).click()
    expect(page.locator('[data-figure="lists"]')).to_have_text("5 lists · 581 names")
    names = page.get_by_role("listbox", name="names", exact=True)
    page.get_by_label("search names and variants").fill("Haldis")
    names.get_by_role("option", name="Haldis").click()
    page.keyboard.press("Backspace")
    expect(page.locator('[data-figure="lists"]')).to_have_text("5 lists · 580 names")
    page.keyboard.press("Control+z")
    expect(page.locator('[data-figure="lists"]')).to_have_text("5 lists · 581 names")
    expect(names.get_by_role("option", name="Haldis")).to_be_visible()

    # Rules: a broken pattern is answered while it is typed; a good one finds something.
    place(page, "Rules")
    page.get_by_role("button", name="new rule").click()
    page.get_by_label("name", exact=True).fill("agents")
    page.get_by_label("marks").select_option("ORG")
    page.get_by_label("pattern").fill("'agents' [ 1 to 2 capitl ]")
    expect(page.get_by_role("alert")).to_contain_text("did you mean capital?")
    page.get_by_label("pattern").fill("'agents' [ 1 to 2 capital ]")
    page.get_by_label("must find, one").fill("Agents Osk Marine")
    expect(page.get_by_label("holds")).to_have_count(1)
    page.keyboard.press("Control+Enter")
    expect(page.get_by_role("option", name=re.compile("^agents"))).to_be_visible()
    expect(page.locator('main [data-lane="rules"] [data-span]').first).to_be_visible()

    # Tagger: train, with progress, to a tagger in use.
    place(page, "Tagger")
    page.get_by_role("button", name="new training").first.click()
    window.get_by_label("name", exact=True).fill("Walked")
    window.get_by_role("button", name="all settings").click()
    window.get_by_label("most epochs", exact=True).fill("6")
    page.get_by_role("button", name="train", exact=True).click()
    expect(page.get_by_text("in use: it gives the tagger lane")).to_be_visible(timeout=60_000)
    expect(page.get_by_role("img", name=re.compile("^F1 by epoch"))).to_be_visible()
    expect(page.locator('[data-figure="tagger"]')).to_contain_text("trained")

    # Scores: every figure opens its sentences.
    place(page, "Scores")
    page.get_by_role("button", name="score now").first.click()
    expect(page.get_by_role("option")).to_have_count(4, timeout=60_000)
    missed = page.get_by_role("button", name=re.compile("^all types, missed"))
    count = int(missed.inner_text())
    missed.click()
    expect(page.get_by_text(re.compile(r"All types, missed · \d+ sentence"))).to_be_visible()
    # The sentences carry at least as many gold spans as were missed, in as many staves as said.
    said = re.search(r"(\d+) sentence", page.get_by_text(re.compile("All types, missed")).inner_text())
    assert said
    staves = page.locator("main [data-stave]")

    def all_drawn() -> bool:
        staves.last.scroll_into_view_if_needed()
        return staves.count() == int(said[1])

    wait_for(all_drawn, what="a stave for each sentence")
    assert count >= int(said[1])
    page.get_by_role("button", name=re.compile("^VES, right")).click()
    expect(page.get_by_text(re.compile("vessel, right"))).to_be_visible()
    page.get_by_role("link", name="at the Desk").first.click()
    expect(page.get_by_text("annotated without suggestions")).to_be_visible()

    # Records: assemble, look, download.
    place(page, "Records")
    page.get_by_role("button", name="assemble records").first.click()
    table = page.get_by_role("region", name="Port call records")
    expect(table.get_by_role("row").nth(5)).to_be_visible(timeout=60_000)
    row = table.get_by_role("row").filter(has_text="43/1")

    def scrolled_to_it() -> bool:
        table.evaluate("e => e.scrollTo(0, e.scrollHeight)")
        return row.count() == 1

    wait_for(scrolled_to_it, what="the last record")
    row.click()
    expect(page.get_by_role("complementary")).to_contain_text("behind “from”")
    with page.expect_download() as waiting:
        page.get_by_role("link", name="CSV").click()
    path = tmp_path / "calls.csv"
    waiting.value.save_as(path)
    with path.open(newline="") as file:
        (made,) = [r for r in csv.DictReader(file) if r["text"] == "43/1"]
    assert made == {
        "text": "43/1",
        "vessel": "Velvet Heron",
        "from": "Varnby",
        "to": "",
        "berth": "",
        "arrives": "",
        "sails": "",
        "cargo": "tin ore",
        "weight": "640 t",
        "agent": "Osk Marine",
    }
    with page.expect_download() as waiting:
        page.get_by_role("link", name="JSON Lines").click()
    lines = Path(waiting.value.path()).read_text().splitlines()
    assert {"Velvet Heron"} <= {json.loads(line)["record"].get("vessel") for line in lines}
