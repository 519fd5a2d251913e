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


def test_texts_are_filtered_marked_changed_and_brought_back(page: Page) -> None:
    page.goto(page.url.rsplit("/desk", 1)[0] + "/texts")
    expect(page.locator("#main h1").first).to_be_visible()
    page.keyboard.press("f")
    form = page.get_by_role("group", name="filter")
    form.get_by_label("type in gold").select_option("INC")
    form.get_by_label("split").select_option("dev")
    # Those of all splits are more than ninety-nine.
    shown = page.get_by_text(re.compile(r"^\d\d? of \d+ texts$"))
    expect(shown).to_be_visible()
    count = shown.inner_text().split()[0]
    page.get_by_text("mark all").click()
    page.get_by_role("button", name=f"change {count}").click()
    window = page.get_by_role("dialog")
    window.get_by_label("name of metadata").fill("checked by")
    window.get_by_label("value").fill("Ines")
    window.get_by_role("button", name="save").click()
    expect(page.get_by_text(f"{count} texts changed.")).to_be_visible()
    expect(page.get_by_role("complementary")).to_contain_text("checked by")
    expect(form.get_by_label("checked by")).to_contain_text(f"Ines · {count}")
    page.get_by_role("button", name="undo").click()
    expect(page.get_by_text(f"Undone: {count} texts are as before.")).to_be_visible()
    expect(page.get_by_role("complementary")).not_to_contain_text("checked by")
    page.get_by_text("mark all").click()
    page.get_by_role("button", name=f"delete {count}").click()
    expect(page.get_by_text("No text fits this search.")).to_be_visible()
    page.get_by_role("button", name="more").click()
    page.get_by_role("menuitem", name="bin").click()
    page.get_by_role("button", name="put all back").click()
    expect(page.get_by_text("Nothing is in the bin.")).to_be_visible()
    page.get_by_role("button", name="close").last.click()
    expect(shown).to_have_text(re.compile(rf"^{count} of"))


def test_texts_are_split_as_they_were_drafted(page: Page) -> None:
    page.goto(page.url.rsplit("/desk", 1)[0] + "/texts")
    page.get_by_role("button", name="more").click()
    page.get_by_role("menuitem", name="splits").click()
    window = page.get_by_role("dialog", name="Splits")
    window.get_by_role("button", name="look for them").click()
    expect(window.get_by_role("button", name="look for them")).to_have_count(0, timeout=60_000)
    train = window.get_by_role("row").nth(1)
    before = train.inner_text()
    window.get_by_role("button", name="split anew").click()
    window.get_by_label("dev, %").fill("5")
    expect(window.get_by_text("No group has texts in two splits.")).to_be_visible()
    window.get_by_role("button", name=re.compile("^move ")).click()
    page.get_by_role("button", name="undo").click()
    expect(page.get_by_text(re.compile("^Undone: "))).to_be_visible()
    page.get_by_role("button", name="more").click()
    page.get_by_role("menuitem", name="splits").click()
    expect(train).to_have_text("".join(before.split("\t")))


def test_findings_lead_to_the_desk_and_the_table_into_a_file(page: Page) -> None:
    page.goto(page.url.rsplit("/desk", 1)[0] + "/texts?split=train")
    page.get_by_role("link", name="findings").click()
    bars = page.get_by_role("list", name="spans by value of VES")
    bars.get_by_role("button", name=re.compile(r"^Pellin \d")).click()
    expect(page.get_by_text(re.compile(r"^Pellin · \d+ sentences$"))).to_be_visible()
    expect(page.locator("main [data-stave]").first).to_be_visible()
    page.get_by_role("button", name="in context").click()
    page.get_by_label("words", exact=True).fill("amber quay")
    place = page.get_by_role("link", name="Amber Quay", exact=True).first
    expect(place).to_be_visible()
    page.get_by_role("link", name="table").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="export as XLSX").click()
    assert download.value.suggested_filename == "tessmar-table.xlsx"
    page.get_by_role("button", name=re.compile(r"of VES in 27.1:")).click()
    page.get_by_role("link", name="at the Desk").first.click()
    expect(page).to_have_url(re.compile(r"/desk/\d+"))
