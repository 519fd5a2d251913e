"""Texts in the browser: the corpus taken out."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page, expect

from urdaten.core.formats import read_label_columns


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
