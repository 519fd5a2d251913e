"""A round from the lead who begins it to the annotator who is asked, and what that annotator does not see."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import BrowserContext, Page, expect

from e2e.conftest import Complaints, Running, sign_in, wait_for

EVIDENCE = "main [data-lane]:not([data-lane=gold])"


# What was loaded into Jo's own layer does not count.
SIGNED_BY_JO = "SELECT count(*) FROM act WHERE kind = 'sign' AND account_id = 2 AND standing <> 'passed'"


def test_a_round_without_suggestions_reaches_whom_it_asks(
    page: Page, urdaten: Running, new_context: Callable[[], BrowserContext], complaints: Complaints
) -> None:
    # The open sentence falls silent under the lead's eyes; what it has just asked for is refused.
    complaints.expected.append("403 (Forbidden)")
    expect(page.locator(EVIDENCE).first).to_be_visible()
    page.get_by_role("combobox", name="round").select_option(label="Week 42")
    expect(page.get_by_text("42/1 · week-42 · sentence 1 of")).to_be_visible()
    expect(page.get_by_text("0 of 107 signed")).to_be_visible()
    page.keyboard.press("&")
    page.get_by_role("button", name="new round").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("name").fill("Unaided")
    dialog.get_by_label("note to the annotators").fill("Take your time.")
    dialog.get_by_label("suggestions").select_option("no")
    dialog.get_by_role("group", name="who is asked").get_by_text("Jo", exact=True).click()
    expect(dialog.get_by_label("how many texts")).to_have_value("20")
    dialog.get_by_label("how many texts").fill("2")
    dialog.get_by_role("button", name="add", exact=True).click()
    made = page.get_by_role("region", name="Unaided")
    expect(made).to_contain_text("without suggestions · for Jo")
    expect(made).to_contain_text("2 texts")

    other = complaints.listen(new_context().new_page())
    sign_in(other, urdaten, "jo")
    expect(other.get_by_text("Take your time.")).to_be_visible()
    expect(other.get_by_text("The round “Unaided” is annotated without suggestions.")).to_be_visible()
    expect(other.locator("main [data-stave]").first).to_be_visible()
    expect(other.locator(EVIDENCE)).to_have_count(0)
    rows = other.get_by_role("listbox", name="sentences").get_by_role("option")
    # The sentence may stand there before the queue does.
    expect(rows.first).to_be_visible()
    before = rows.count()
    other.keyboard.press("v")
    other.keyboard.press("Enter")
    expect(other.get_by_text("sentence 2 of")).to_be_visible()
    expect(other.get_by_text("1 of ", exact=False).filter(has_text="signed").first).to_be_visible()
    assert rows.count() == before
    wait_for(lambda: urdaten.query(SIGNED_BY_JO) == [(1,)])

    # Ended, it silences nothing any more; Jo's page hears of it.
    made.get_by_role("button", name="close round").click()
    expect(other.locator(EVIDENCE).first).to_be_visible()
    made.get_by_role("button", name="delete").click()
    page.get_by_role("dialog").get_by_role("button", name="delete the round").click()
    expect(page.get_by_role("region", name="Unaided")).to_have_count(0)
    expect(other.get_by_role("combobox", name="round")).to_have_value("")
