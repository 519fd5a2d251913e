"""Lists in the browser: a file with bad rows comes in, figures follow a name that is off, gold is taken, bulk edits are undone,
and names of the general lexicon are a list to start with."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from e2e.conftest import Complaints, Running
from urdaten.installed import senses

FILE = "name,variants,id\nVelvet Heron,V. Heron,V900\n,nobody,\nHaldis,Hald. the Second,\nQuill Tern,,V901\n"
AGAIN = "name,variants,id\nVelvet Heron,V. Heron;Velvet H.,V900\nQuill Tern,,V901\n"


def send(page: Page, name: str, content: str) -> None:
    page.keyboard.press("i")
    page.get_by_role("dialog").get_by_label("file").set_input_files(
        {"name": name, "mimeType": "text/csv", "buffer": content.encode()}
    )


def test_a_list_from_a_file_to_figures_and_back(page: Page, urdaten: Running) -> None:
    page.goto(f"{urdaten.address}/p/tessmar/lists")
    page.get_by_role("listbox", name="lists").get_by_text("vessels", exact=True).click()
    expect(page.locator("main h1")).to_contain_text("vessels")
    names = page.get_by_role("listbox", name="names", exact=True)
    which = page.get_by_role("group", name="which names")
    expect(which.get_by_role("button", name="all names 220")).to_be_visible()

    # A file with a row that cannot be kept.
    send(page, "ships.csv", FILE)
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="1 cannot be kept").click()
    expect(dialog).to_contain_text("line 3: There is no name in it.")
    dialog.get_by_role("button", name="import 3 names").click()
    expect(dialog).to_have_count(0)
    expect(which.get_by_role("button", name="all names 222")).to_be_visible()

    # It comes again with something new, and doubles nothing.
    send(page, "ships.csv", AGAIN)
    expect(dialog.get_by_role("button", name="1 get something new")).to_be_visible()
    expect(dialog.get_by_role("button", name="1 as they are")).to_be_visible()
    dialog.get_by_role("button", name="import 1 name").click()
    expect(dialog).to_have_count(0)
    page.get_by_label("search names and variants").fill("velvet h")
    expect(names.get_by_role("option")).to_contain_text(["also V. Heron, Velvet H."])
    page.get_by_label("search names and variants").fill("")

    # What harms is looked through, turned off, and the figures follow.
    row = page.get_by_role("listbox", name="lists").get_by_role("option", name=re.compile("^vessels"))
    before = row.inner_text()
    page.locator("main h1").click()
    page.keyboard.press("h")
    page.get_by_role("button", name="turn off what harms").click()
    dialog.get_by_role("button", name=re.compile("^turn off [0-9]+ names$")).click()
    expect(which.get_by_role("button", name=re.compile("^off [1-9]"))).to_be_visible()
    expect(row).not_to_have_text(before)
    page.locator("main h1").click()
    page.keyboard.press("Control+z")
    expect(which.get_by_role("button", name="off 0")).to_be_visible()
    expect(row).to_contain_text(before.split("\n")[1])

    # One name off by one key, and why it is worth what it is.
    page.keyboard.press("h")
    # What was turned off before is read anew first.
    expect(names.get_by_role("option").first).not_to_contain_text("· off")
    names.get_by_role("option").first.click()
    expect(page.locator("aside [data-span]").first).to_be_visible()
    page.keyboard.press("t")
    expect(which.get_by_role("button", name="off 1")).to_be_visible()

    # A name of gold that no list has is taken.
    page.keyboard.press("g")
    missing = page.get_by_role("listbox", name="missing names")
    taken = missing.get_by_role("option").first.locator("div").first.inner_text().split("\n")[0]
    page.keyboard.press("t")
    expect(which.get_by_role("button", name="all names 223")).to_be_visible()
    page.keyboard.press("a")
    page.get_by_label("search names and variants").fill(taken)
    names.get_by_role("option", name=re.compile(f"mark {re.escape(taken)} ")).first.click()
    expect(page.locator("aside")).to_contain_text("gold")


@pytest.mark.skipif(senses() is None, reason="no general lexicon is installed: Urdaten works without")
def test_a_list_to_start_with(page: Page, urdaten: Running, complaints: Complaints) -> None:
    page.goto(f"{urdaten.address}/p/tessmar/lists")
    page.get_by_role("listbox", name="lists").get_by_text("vessels", exact=True).click()
    page.get_by_role("button", name="starter lists").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("search for a kind of thing").fill("calendar month")
    dialog.get_by_role("button", name=re.compile("^Gregorian calendar month")).click()
    dialog.get_by_role("textbox", name="its name").fill("months")
    dialog.get_by_label("type of its names").select_option("DAT")
    dialog.get_by_role("button", name="take 12 names").click()
    expect(dialog).to_have_count(0)
    expect(page.locator("main h1")).to_contain_text("months")
    names = page.get_by_role("listbox", name="names", exact=True)
    expect(names.get_by_role("option", name=re.compile("mark April"))).to_contain_text("also Apr")
    page.locator("main h1").click()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("This list holds no name yet.")).to_be_visible()
    # What the page asks of the list while it goes is answered with that.
    complaints.expected.append("404 (Not Found)")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("listbox", name="lists").get_by_text("months", exact=True)).to_have_count(0)


def test_from_lists_to_gold(page: Page, urdaten: Running) -> None:
    page.goto(f"{urdaten.address}/p/tessmar/lists")
    page.get_by_role("listbox", name="lists").get_by_text("vessels", exact=True).click()
    page.get_by_role("button", name="propose spans").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="propose", exact=True).click()
    expect(dialog).to_contain_text(re.compile(r"[0-9]+ spans in [0-9]+ unsigned sentences are proposed"))
    dialog.get_by_role("link", name="to the Desk").click()
    page.wait_for_url("**/desk/*")
    expect(page.locator("main [data-stave]").first).to_be_visible()
    page.get_by_role("button", name="take over a layer").click()
    dialog.get_by_role("button", name="show what would change").click()
    dialog.get_by_role("button", name="choose none").click()
    dialog.get_by_role("checkbox").first.check()
    dialog.get_by_role("button", name="change 1 sentence").click()
    expect(page.get_by_text("Changed in 1 sentence; ctrl and z undo that.")).to_be_visible()
