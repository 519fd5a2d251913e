"""A project of one's own: begun, filled, shared, moved to the bin and brought back."""

from __future__ import annotations

import re
from collections.abc import Callable

from playwright.sync_api import BrowserContext, Page, expect

from e2e.conftest import Complaints, Running

BODY = "The Velvet Heron is in from Varnby with tin. Nothing further."


def test_from_an_empty_project_to_two_people_at_work(
    page: Page, urdaten: Running, new_context: Callable[[], BrowserContext], complaints: Complaints
) -> None:
    # From the project's name to all projects, and a new one with nothing in it.
    page.get_by_role("button", name=re.compile("Port of Tessmar")).click()
    page.get_by_role("menuitem", name="all projects").click()
    expect(page.get_by_role("row", name=re.compile("Port of Tessmar"))).to_contain_text("340")
    page.keyboard.press("n")
    page.get_by_label("name", exact=True).fill("Letters home")
    page.get_by_role("button", name="add", exact=True).click()
    page.wait_for_url("**/p/letters-home/types")

    # Each empty place says what belongs there, and offers the act that fills it.
    expect(page.locator("main")).to_contain_text("An entity type says what is looked for")
    page.locator("main").get_by_role("button", name="new type").click()
    page.get_by_label("code").fill("VES")
    page.get_by_label("name", exact=True).fill("vessel")
    page.get_by_role("button", name="add", exact=True).click()
    expect(page.locator("main h1")).to_contain_text("vessel")
    page.goto(f"{urdaten.address}/p/letters-home")
    page.wait_for_url("**/p/letters-home/texts")
    page.locator("main").get_by_role("button", name="paste a new text").click()
    page.get_by_label("title", exact=True).fill("1")
    page.get_by_label("body", exact=True).fill(BODY)
    page.get_by_role("button", name="add", exact=True).click()
    expect(page.locator("main h1")).to_have_text("1")
    for place in ("lists", "rules", "tagger", "scores", "records"):
        page.goto(f"{urdaten.address}/p/letters-home/{place}")
        expect(page.locator("main")).not_to_be_empty()

    # Somebody else is invited, and joins with a new account.
    page.get_by_role("button", name=re.compile("Letters home")).click()
    page.get_by_role("menuitem", name="people and settings").click()
    page.get_by_role("button", name="invite somebody").click()
    page.get_by_role("button", name="make the link").click()
    link = page.get_by_label("link").input_value()
    complaints.expected += ["401 (Unauthorized)", "404 (Not Found)"]
    other = complaints.listen(new_context().new_page())
    other.goto(link)
    expect(other.get_by_role("main")).to_contain_text("Ines invites you to this project as an annotator")
    other.get_by_label("your name").fill("Sol")
    other.get_by_label("login").fill("sol")
    other.get_by_label("password").fill("a long password")
    other.get_by_role("button", name="make an account and join").click()
    other.wait_for_url("**/p/letters-home/desk/**")
    expect(other.get_by_text("sentence 1 of 2")).to_be_visible()
    other.keyboard.press("Control+Enter")
    expect(other.get_by_text("sentence 2 of 2")).to_be_visible()
    # The link is spent, and of the demo Sol sees nothing.
    other.goto(link)
    other.reload()
    expect(other.get_by_role("alert")).to_contain_text("has been used")
    other.goto(f"{urdaten.address}/p/tessmar/desk")
    expect(other.get_by_role("alert")).to_contain_text("You have no such project")

    # Taken out as one file, and brought back from it.
    page.reload()
    with page.expect_download() as download:
        page.get_by_role("link", name="export the project").click()
    path = download.value.path()
    page.goto(f"{urdaten.address}/projects")
    page.get_by_role("button", name="import one").click()
    page.get_by_label("the project's file").set_input_files(path)
    page.get_by_role("button", name="import", exact=True).click()
    page.wait_for_url("**/p/letters-home-2/desk/**")
    expect(page.locator('[data-figure="desk"]')).to_have_text("50 % signed")
    page.goto(f"{urdaten.address}/p/letters-home/project")

    # Into the bin, where nobody works, and back.
    expect(page.get_by_role("row", name=re.compile("Sol"))).to_be_visible()
    page.get_by_role("button", name="move it to the bin").click()
    page.get_by_role("dialog").get_by_role("button", name="move to the bin").click()
    page.wait_for_url("**/projects")
    other.goto(f"{urdaten.address}/p/letters-home/desk")
    expect(other.get_by_role("alert")).to_contain_text("You have no such project")
    page.get_by_role("button", name="restore").click()
    page.locator('a[href="/p/letters-home"]').click()
    page.wait_for_url("**/p/letters-home/desk/**")
    expect(page.locator('[data-figure="desk"]')).to_have_text("50 % signed")


def test_a_session_that_is_ended_elsewhere_leads_to_sign_in(
    page: Page, urdaten: Running, new_context: Callable[[], BrowserContext], complaints: Complaints
) -> None:
    complaints.expected += ["401 (Unauthorized)"]
    other = complaints.listen(new_context().new_page())
    other.goto(urdaten.command("account", "link", "ines").strip())
    other.wait_for_url("**/projects")
    page.goto(f"{urdaten.address}/account")
    expect(page.get_by_role("table", name="sessions").get_by_role("row")).to_have_count(3)
    page.get_by_role("button", name="sign out everywhere else").click()
    expect(page.get_by_role("table", name="sessions").get_by_role("row")).to_have_count(2)
    other.reload()
    expect(other.get_by_role("heading", name="Sign in")).to_be_visible()
