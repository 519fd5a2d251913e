"""The pipeline in the browser: stages moved, turned off and added, seen on dev before they are saved; traced, weighed, compared,
published, exported and brought in."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from urdaten import load

from .conftest import Complaints, Running


def opened(page: Page, urdaten: Running) -> Locator:
    page.goto(f"{urdaten.address}/p/tessmar/pipeline")
    table = page.get_by_role("table", name="stages")
    expect(table.get_by_role("row").nth(1)).to_contain_text(re.compile(r"lists\s*[1-9]"))
    page.locator("main h1").click()
    return table


def names(table: Locator) -> list[str]:
    rows = table.get_by_role("row")
    return [rows.nth(k).get_by_role("button").inner_text() for k in range(1, rows.count() - 1)]


def test_stages_are_changed_seen_on_dev_saved_and_brought_back(page: Page, urdaten: Running) -> None:
    table = opened(page, urdaten)
    assert names(table) == ["lists", "rules"]
    rows = table.get_by_role("row")

    # Moved by a key, and back by the pointer; nothing is saved.
    page.keyboard.press("Shift+ArrowDown")
    assert names(table) == ["rules", "lists"]
    expect(page.get_by_text("changed, not saved")).to_be_visible()
    rows.nth(2).drag_to(rows.nth(1))
    assert names(table) == ["lists", "rules"]
    expect(page.get_by_text("changed, not saved")).to_have_count(0)

    # Without the rules it is worse, which is seen before it is saved.
    page.locator("main h1").click()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("t")
    expect(
        page.get_by_text(re.compile(r"^−\d+\.\d against F1 \d+\.\d now · \d+ sentences differ$"))
    ).to_be_visible()
    page.get_by_role("button", name="show", exact=True).click()
    expect(page.get_by_text("at the Desk").first).to_be_visible()
    page.get_by_role("button", name="save").click()
    expect(page.get_by_text("Version 1 is saved: “rules” is off.")).to_be_visible()
    expect(page.get_by_role("link", name=re.compile("^Pipeline"))).to_contain_text("1 stage · v1")

    # Back to what every project begins with, as a change like any other.
    page.get_by_role("button", name="try as every project begins").click()
    expect(page.get_by_text(re.compile(r"^\+\d+\.\d against F1"))).to_be_visible()
    page.locator("main h1").click()
    page.keyboard.press("Control+Enter")
    expect(page.get_by_text("Version 2 is saved: “rules” is on.")).to_be_visible()
    versions = page.get_by_role("list", name="versions").get_by_role("listitem")
    expect(versions.first).to_contain_text("version 2 · now")
    expect(versions).to_have_count(3)


def test_a_pasted_sentence_is_traced_through_a_new_stage(
    page: Page, urdaten: Running, complaints: Complaints
) -> None:
    complaints.expected.append("422")  # a plan that cannot run is answered so
    table = opened(page, urdaten)
    page.get_by_label("a stage of this kind").select_option("condition")
    page.get_by_role("button", name="add a stage").click()
    expect(page.get_by_role("alert")).to_contain_text("The stage “condition” has no pattern.")
    page.get_by_label("what this pattern finds").fill("'sails")
    expect(page.get_by_role("alert")).to_be_visible()
    page.get_by_label("what this pattern finds").fill("'sailed'")
    page.get_by_role("group", name="spans of these types").get_by_text("VES", exact=True).click()
    expect(page.get_by_role("alert")).to_have_count(0)
    expect(table.get_by_role("row").nth(3)).to_contain_text(re.compile(r"condition\s*0"))
    page.get_by_label("trace a sentence").fill("The Amber Quay lies at Sill Wharf. Amber Quay sailed.")
    dropped = page.get_by_text("VES “Amber Quay” · what it takes is not in its sentence")
    expect(dropped.first).to_be_visible()
    expect(page.get_by_text("list vessels, entry “Amber Quay”").first).to_be_visible()
    page.locator("main h1").click()
    page.keyboard.press("Control+z")
    page.get_by_role("button", name="discard").click()
    assert names(table) == ["lists", "rules"]


def test_a_bundle_goes_out_and_says_what_the_place_says(page: Page, urdaten: Running, tmp_path: Path) -> None:
    opened(page, urdaten)
    with page.expect_download() as coming:
        page.get_by_role("link", name="export as a bundle").click()
    path = tmp_path / "port.bundle"
    coming.value.save_as(path)
    assert re.fullmatch(r"tessmar-\d+\.bundle", coming.value.suggested_filename)
    words = "Haldis sailed for Varnby at 0600."
    page.get_by_label("trace a sentence").fill(words)
    (found,) = load(path).run([words])
    assert found.spans
    expect(page.get_by_text("0600").first).to_be_visible()
    last = page.get_by_text("in the end").last
    expect(last).to_be_visible()
    said = page.locator("main [data-span]")
    expect(said.first).to_be_visible()
    for span in found.spans:
        expect(page.get_by_text(f"{span.type} “{words[span.start : span.end]}”").first).to_be_visible()


def test_spans_are_weighed_by_what_was_learnt_and_taken_at_the_desk(
    page: Page, urdaten: Running, complaints: Complaints
) -> None:
    complaints.expected.append("422")  # as long as nothing has been learnt
    opened(page, urdaten)
    page.get_by_role("button", name="what stands in the end").click()
    page.get_by_label("of spans that may not stand together").select_option("weighed")
    expect(page.get_by_text("Nothing has been learnt yet")).to_be_visible()
    page.get_by_role("button", name="learn weights").click()
    expect(page.get_by_text(re.compile(r"on dev by folds.* Difference [+−]?\d+\.\d"))).to_be_visible(
        timeout=60_000
    )
    expect(page.get_by_text(re.compile("Its weights have seen these sentences"))).to_be_visible()
    weighed = page.get_by_role("group", name="what was weighed")
    weighed.get_by_role("button").first.click()
    expect(
        page.get_by_role("group", name=re.compile("^what speaks for")).get_by_text("any span")
    ).to_be_visible()
    page.get_by_role("button", name="save").click()
    expect(page.get_by_text("Version 1 is saved: the policy is “weighed”.")).to_be_visible()

    # What each stage is worth is asked for by one press.
    page.get_by_role("button", name="compare the stages").click()
    table = page.get_by_role("table", name="stages compared")
    expect(table.get_by_role("row")).to_have_count(6, timeout=60_000)
    expect(table).to_contain_text("lists alone")
    table.get_by_role("button", name="try without lists").click()
    expect(page.get_by_text("changed, not saved")).to_be_visible()
    page.get_by_role("button", name="discard").click()

    page.get_by_role("link", name=re.compile("^Desk")).click()
    page.wait_for_url("**/desk/*")
    page.get_by_label("take all").select_option("0.9")
    page.locator("main [data-stave]").first.wait_for()
    page.get_by_role("button", name="what speaks for it").first.click()
    expect(page.get_by_text(re.compile(r"% likely; from \d+\.\d % on it stands"))).to_be_visible()


def test_a_version_is_named_compared_published_and_brought_in_again(
    page: Page, urdaten: Running, tmp_path: Path
) -> None:
    opened(page, urdaten)
    page.keyboard.press("ArrowDown")
    page.keyboard.press("t")
    page.get_by_role("button", name="save").click()
    page.get_by_role("button", name="name version 1").click()
    page.get_by_role("dialog").get_by_label("name").fill("for the port")
    page.keyboard.press("Enter")
    version = page.get_by_role("listitem", name="version 1, for the port")
    version.get_by_role("button", name=re.compile("^publish")).click()
    expect(version.get_by_text("published")).to_be_visible(timeout=60_000)

    page.get_by_role("button", name="compare as every project begins with now").click()
    both = page.get_by_role("region", name="two versions")
    expect(both.get_by_text("From one to the other “rules” is off.")).to_be_visible()
    expect(both.get_by_text("at the Desk").first).to_be_visible()
    both.get_by_role("button", name="close").click()

    with page.expect_download() as going:
        version.get_by_role("link", name=re.compile("^file of")).click()
    file = tmp_path / "port.bundle"
    going.value.save_as(file)
    page.get_by_role("button", name="bring in a bundle").click()
    page.get_by_label("file of a bundle, or of a tagger").set_input_files(file)
    coming = page.get_by_role("group", name="what comes")
    expect(coming.get_by_text("Everything that it has is here already.")).to_be_visible(timeout=60_000)
    page.get_by_role("button", name="bring it in").click()
    page.get_by_role("button", name="look at its stages").click(timeout=60_000)
    expect(page.get_by_text("changed, not saved")).to_be_visible()
    page.get_by_role("button", name="save").click()
    expect(page.get_by_text(re.compile("^Version 2 is saved"))).to_be_visible()

    version.get_by_role("button", name=re.compile("^withdraw")).click()
    expect(version.get_by_text("published")).to_have_count(0)
