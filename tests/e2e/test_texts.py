"""Texts in the browser: the corpus taken out, and files brought in."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from urdaten.core.formats import read_label_columns
from urdaten.demo.files import FOLDER

SHAPES = FOLDER / "shapes"


def test_the_corpus_is_seen_before_it_is_made_and_then_made(page: Page, tmp_path: Path) -> None:
    page.goto(page.url.rsplit("/desk", 1)[0] + "/texts")
    expect(page.locator("#main h1").first).to_be_visible()
    page.keyboard.press("x")
    window = page.get_by_role("dialog", name="Export the corpus")
    window.get_by_label("format").select_option("BIO columns")
    window.get_by_label("split").select_option("test")
    shown = window.get_by_role("region", name="how the file begins")
    expect(shown).to_contain_text("\tB-")
    first = shown.inner_text().splitlines()[1]
    with page.expect_download() as download:
        window.get_by_role("link", name="export").click()
    assert download.value.suggested_filename == "tessmar.bio"
    file = tmp_path / "tessmar.bio"
    download.value.save_as(file)
    with file.open(newline="\n") as lines:
        texts = list(read_label_columns(lines))
    assert {text.split for text in texts} == {"test"}
    assert file.read_text().splitlines()[1] == first
    assert sum(len(text.spans) for text in texts) > 100
    window.get_by_role("button", name="close").click()
    expect(window).to_have_count(0)


def test_files_are_seen_before_they_are_kept_and_then_kept(page: Page) -> None:
    page.goto(page.url.rsplit("/desk", 1)[0] + "/texts")
    expect(page.locator("#main h1").first).to_be_visible()
    page.keyboard.press("i")
    expect(page.get_by_role("heading", name="New import")).to_be_visible()
    page.get_by_label("files to import").set_input_files(
        [SHAPES / "remarks.csv", SHAPES / "mail" / "31-7.eml", SHAPES / "damaged" / "cut-off.pdf"]
    )
    keep = page.get_by_role("button", name="import 201 texts")
    expect(keep).to_be_enabled(timeout=60_000)
    refused = page.get_by_role("table", name="refused")
    expect(refused).to_contain_text("The PDF is damaged")
    expect(page.get_by_role("table", name="files").get_by_role("row")).to_have_count(4)
    # Another plan is looked into at once.
    page.get_by_label("what Desk is for").select_option("group")
    expect(page.get_by_text("group night log").first).to_be_visible(timeout=60_000)
    page.get_by_role("combobox", name="split").select_option("dev")
    expect(page.get_by_text("group night log · dev").first).to_be_visible(timeout=60_000)
    expect(keep).to_be_enabled(timeout=60_000)
    page.keyboard.press("Control+Enter")
    expect(page.get_by_role("heading", name="201 texts imported")).to_be_visible(timeout=60_000)
    with page.expect_download() as download:
        page.get_by_role("link", name="what and why, as a table").click()
    assert "The PDF is damaged" in Path(download.value.path()).read_text()
    page.get_by_role("link", name="to the texts").click()
    page.get_by_label("search titles and bodies").fill("0015 wind SW 5")
    page.get_by_role("option", name=re.compile("0015 wind SW 5.*dev")).click()
    expect(page.get_by_role("complementary")).to_contain_text("remarks.csv, line 2")
    expect(page.get_by_role("complementary")).to_contain_text("night log")
