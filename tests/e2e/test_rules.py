"""Rules in the browser: written with what the editor offers, with a fragment, in their order."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from e2e.conftest import Complaints


def test_a_rule_is_written_with_what_the_editor_offers(page: Page, complaints: Complaints) -> None:
    complaints.expected.append("422")  # what cannot be read yet is answered so
    page.goto(page.url.rsplit("/desk", 1)[0] + "/rules")
    expect(page.get_by_role("option", name=re.compile("^berth by number"))).to_be_visible()
    page.get_by_role("button", name="new fragment").click()
    page.get_by_label("name", exact=True).fill("grain")
    page.get_by_label("pattern").fill("('barley' or 'oats')")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_role("button", name="grain", exact=True)).to_be_visible()
    expect(page.get_by_role("heading", name=re.compile("^grain"))).to_contain_text("not used yet")

    page.get_by_role("button", name="new rule").click()
    page.get_by_label("name", exact=True).fill("grain by its amount")
    page.get_by_label("marks").select_option("CGO")
    editor = page.get_by_label("pattern")
    editor.click()
    page.keyboard.type("found(QTY) optional 'of' [ use(gr")
    offered = page.locator(".cm-tooltip-autocomplete")
    expect(offered).to_contain_text("grain")
    # The editor takes a key that comes at once for one that was meant for the text.
    page.wait_for_timeout(200)
    page.keyboard.press("Enter")
    page.keyboard.type(") ")
    # A bracket that was opened is closed already.
    page.keyboard.press("Control+End")
    expect(
        page.get_by_text("After a span of QTY, then perhaps “of”, it marks the fragment “grain” as CGO.")
    ).to_be_visible()
    page.keyboard.type("\nunless insde list(ports)")
    expect(page.get_by_role("alert")).to_contain_text("did you mean inside?")
    expect(page.locator(".cm-lintRange-error")).to_have_count(1)
    for _ in " insde list(ports)":
        page.keyboard.press("Backspace")
    page.keyboard.type(" inside list(ports)")
    expect(page.get_by_role("alert")).to_have_count(0)
    expect(page.locator("main [data-trial]")).to_contain_text(re.compile(r"finds [1-9]"))
    page.get_by_label("must find, one").fill("with 3 t of barley")
    expect(page.get_by_label("holds")).to_have_count(1)
    page.keyboard.press("Control+Enter")
    rule = page.get_by_role("option", name=re.compile("^grain by its amount"))
    expect(rule).to_be_visible()
    expect(page.locator('main [data-lane="rules"] [data-span]').first).to_be_visible()

    # Before the rules that find amounts there is nothing for it to see.
    names = page.get_by_role("option")
    last = names.last
    expect(last).to_contain_text("grain by its amount")
    page.keyboard.press("Shift+ArrowUp")
    expect(last).not_to_contain_text("grain by its amount")
    page.get_by_role("button", name="grain", exact=True).click()
    expect(page.get_by_role("heading", name=re.compile("^grain"))).to_contain_text(
        "used by grain by its amount"
    )
    page.get_by_role("button", name="delete").click()
    window = page.get_by_role("dialog")
    complaints.expected.append("409")  # what is used is not deleted
    window.get_by_role("button", name="delete").click()
    expect(window.get_by_role("alert")).to_contain_text("is used by")
    window.get_by_role("button", name="cancel").click()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name=re.compile("^grain by its amount"))).to_be_visible()


def test_a_rule_is_made_of_words_that_are_chosen(page: Page) -> None:
    page.goto(page.url.rsplit("/desk", 1)[0] + "/rules")
    expect(page.get_by_role("option", name=re.compile("^berth by number"))).to_be_visible()
    page.keyboard.press("w")
    page.get_by_label("sentence").fill("The pilot Amber Vane boarded the Pellin.")
    tags = page.locator('main [data-lane="tags"] [data-span]')
    expect(tags).to_have_text(["DET", "NOUN", "PROPN", "PROPN", "VERB", "DET", "PROPN"])
    page.locator("main [data-token]").nth(2).click()
    page.get_by_role("button", name="mark more").click()
    places = page.get_by_role("group", name="places of the rule")
    expect(places.get_by_label(re.compile("may be"))).to_have_count(3)
    expect(page.locator("main pre")).to_have_text("lemma('pilot') [ capital capital ]")
    expect(page.locator("main [data-trial]")).to_contain_text(re.compile(r"finds [1-9]"))
    places.get_by_label("Vane stands").select_option("optional")
    expect(page.locator("main pre")).to_have_text("lemma('pilot') [ capital optional capital ]")
    expect(page.locator('main [data-lane="rules"] [data-span]').first).to_be_visible()
    page.get_by_role("button", name="make a rule of it").click()
    expect(page.get_by_label("pattern")).to_have_text("lemma('pilot') [ capital optional capital ]")
    expect(page.get_by_text(re.compile("It leans on what is known of words"))).to_contain_text("% of lemmas")
    expect(page.get_by_label("holds")).to_have_count(1)
    page.get_by_label("name", exact=True).fill("after a pilot")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_role("option", name=re.compile("^after a pilot"))).to_be_visible()


def test_a_rule_that_gold_offers_is_looked_at_and_taken(page: Page) -> None:
    page.goto(page.url.rsplit("/desk", 1)[0] + "/rules")
    expect(page.get_by_role("option", name=re.compile("^berth by number"))).to_be_visible()
    page.keyboard.press("g")
    page.get_by_label("that mark").select_option("CGO")
    expect(page.get_by_text(re.compile(r"^[1-9]\d* offers?, from"))).to_be_visible()
    offered = page.locator("main pre").first.inner_text()
    page.get_by_role("button", name="its sentences").first.click()
    expect(page.locator('main [data-lane="rules"] [data-span]').first).to_be_visible()
    page.get_by_role("button", name="take it").first.click()
    expect(page.get_by_label("pattern")).to_have_text(offered)
    page.get_by_label("name", exact=True).fill("cargo by gold")
    page.keyboard.press("Control+Enter")
    expect(page.get_by_role("option", name=re.compile("^cargo by gold"))).to_be_visible()
    expect(page.get_by_role("heading", name=re.compile("^cargo by gold"))).to_be_visible()
    # What is taken is not offered again.
    page.keyboard.press("g")
    page.get_by_label("that mark").select_option("CGO")
    expect(page.get_by_role("status").filter(has_text="signed sentence")).to_be_visible()
    expect(page.locator("main pre").filter(has_text=offered)).to_have_count(0)
