"""Records in the browser: learnt from what is signed, looked through, signed."""

from __future__ import annotations

import json
import re
from pathlib import Path

from playwright.sync_api import Page, expect

from .conftest import Running


def test_records_are_learnt_looked_through_and_signed(page: Page, urdaten: Running) -> None:
    page.goto(f"{urdaten.address}/p/tessmar/records")
    table = page.get_by_role("region", name="Port call records")
    expect(table.get_by_role("row").nth(3)).to_be_visible()
    page.get_by_role("button", name=re.compile("learn from")).click()
    side = page.get_by_role("complementary")
    looks = page.get_by_role("button", name=re.compile("would be found otherwise"))
    expect(looks).to_be_visible(timeout=90_000)

    # What there is to look at narrows the table, and says what differs.
    looks.click()
    expect(looks).to_have_attribute("aria-pressed", "true")
    expect(side).to_contain_text("Would be found otherwise now")
    expect(side).to_contain_text("signed")
    page.get_by_role("button", name="show all").click()

    # One that nobody has signed: why it is there, then signed by key, and the signature withdrawn.
    page.get_by_text("not signed only").click()
    expect(side).to_contain_text("not signed")
    why = side.get_by_role("button", name="why", exact=True)
    if why.count():
        why.first.click()
        expect(side).to_contain_text("against")
    page.get_by_text("not signed only").click()
    table.get_by_role("row").filter(has_text="27/2").first.click()
    expect(side).to_contain_text("27/2")
    page.keyboard.press("Enter")
    expect(side).to_contain_text("not signed")
    page.keyboard.press("Enter")
    expect(side.get_by_role("button", name="withdraw the signature")).to_be_visible()

    # By any column, there and back.
    table.get_by_role("button", name="berth", exact=True).click()
    expect(table.get_by_role("columnheader", name="berth")).to_have_attribute("aria-sort", "ascending")
    table.get_by_role("button", name="berth ↑").click()
    expect(table.get_by_role("columnheader", name="berth")).to_have_attribute("aria-sort", "descending")

    # The schema goes out, and comes back under another name.
    with page.expect_download() as waiting:
        page.get_by_role("link", name="JSON Schema", exact=True).click()
    schema = json.loads(Path(waiting.value.path()).read_text())
    assert schema["properties"]["weight"]["urdaten"]["unit"] == "t"
    page.get_by_role("button", name="from a JSON Schema").click()
    file = {
        "name": "call.json",
        "mimeType": "application/json",
        "buffer": json.dumps(schema | {"title": "Visit"}).encode(),
    }
    page.get_by_label("JSON Schema, draft 2020-12").set_input_files(file)  # type: ignore[arg-type] # as one says
    expect(page.get_by_role("option", name=re.compile("Visit"))).to_be_visible()
