"""Take the pictures of the main views in docs/screenshots from a fresh demo project.

    .venv/bin/python scripts/pictures.py

Starts an Urdaten of its own, trains, scores and assembles, and takes each view at 1280x800.
"""

from __future__ import annotations

import re
import sys
from pathlib import Path

from playwright.sync_api import Page

ROOT = Path(__file__).parents[1]
FOLDER = ROOT / "docs" / "screenshots"
sys.path.insert(0, str(ROOT / "bench"))

from _running import browsing, started  # noqa: E402  # beside the benchmarks, which need the same


def place(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="places").get_by_role("link", name=re.compile(f"^{name}")).click()


def shoot(page: Page, name: str) -> None:
    page.mouse.move(1275, 760)  # nothing there looks up at a pointer
    page.wait_for_timeout(700)
    page.screenshot(path=FOLDER / f"{name}.png", animations="disabled")
    print(f"{name}.png")


def walk(page: Page, link: str) -> None:
    page.goto(link.split("#")[0])
    shoot(page, "sign-in")
    page.goto(link)
    page.wait_for_url("**/projects")
    shoot(page, "projects")
    page.goto(f"{link.split('/sign-in')[0]}/p/tessmar/project")
    page.get_by_role("table", name="members").wait_for()
    shoot(page, "project")
    page.goto(f"{link.split('/sign-in')[0]}/p/tessmar/desk")
    page.wait_for_url("**/desk/**")
    place(page, "Tagger")
    page.get_by_role("button", name="new training").first.click()
    page.get_by_label("name", exact=True).fill("Words, lists and rules")
    shoot(page, "tagger-new")
    page.get_by_role("button", name="train", exact=True).click()
    page.get_by_text("in use: it gives the tagger lane").wait_for(timeout=90_000)
    page.get_by_text("Words, lists and rules").first.wait_for()
    page.wait_for_timeout(5500)  # until the note that it has begun is gone
    shoot(page, "tagger")
    place(page, "Scores")
    page.get_by_role("button", name="score now").first.click()
    page.get_by_role("option").nth(3).wait_for(timeout=60_000)
    page.get_by_role("button", name=re.compile("^VES, missed")).click()
    shoot(page, "scores")
    place(page, "Pipeline")
    page.get_by_label("trace a sentence").fill("Amber Quay from Varnby, berth Sill Wharf 2, 0600.")
    page.get_by_text("gave way to").first.wait_for()
    shoot(page, "pipeline")
    place(page, "Records")
    page.get_by_role("button", name="learn from").first.click()
    page.get_by_text("would be found otherwise now").wait_for(timeout=90_000)
    page.get_by_role("row").filter(has_text="27/2").first.click()
    shoot(page, "records")
    place(page, "Desk")
    page.get_by_text("41/1 · week-41").wait_for()
    page.get_by_role("listbox", name="sentences").get_by_role("option", selected=True).wait_for()
    for key in ("ArrowDown", "ArrowDown", "ArrowDown", "ArrowDown", "v"):
        page.keyboard.press(key)
        page.wait_for_timeout(150)
    page.keyboard.press(".")
    page.wait_for_timeout(1500)  # until what the act changed has been looked at again
    page.get_by_role("button", name="why the tagger says so").click()
    page.get_by_role("group", name=re.compile("^why")).wait_for()
    shoot(page, "desk")
    page.keyboard.press("=")
    page.get_by_role("listbox", name="the text").get_by_role("option").first.wait_for()
    shoot(page, "desk-reading")
    page.keyboard.press("Escape")
    page.keyboard.press("#")
    page.get_by_label("type").select_option("VES")
    page.get_by_label("text of the span").fill("Ostvar II")
    page.get_by_role("button", name="search", exact=True).click()
    page.get_by_role("button", name="correct them").click()
    page.get_by_label("change to").select_option("ORG")
    page.get_by_role("button", name="show what would change").click()
    page.get_by_role("checkbox").first.wait_for()
    shoot(page, "desk-correcting")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="rounds", exact=True).click()
    page.get_by_role("region", name="Week 41").wait_for()
    shoot(page, "desk-rounds")
    page.keyboard.press("Escape")
    page.get_by_role("dialog").wait_for(state="hidden")
    page.keyboard.press("F1")
    page.get_by_role("dialog", name="Desk").wait_for()
    shoot(page, "guide")
    page.keyboard.press("Escape")
    place(page, "Types")
    shoot(page, "types")
    place(page, "Texts")
    page.get_by_text("340 texts").first.wait_for()
    page.get_by_role("option").first.wait_for()
    page.get_by_role("button", name="filter", exact=True).click()
    page.get_by_role("group", name="filter").get_by_label("type in gold").select_option("INC")
    page.get_by_text(re.compile(r"^\d+ of \d+ texts$")).wait_for()
    shoot(page, "texts")
    page.get_by_role("button", name="clear").click()
    page.get_by_role("link", name="findings").click()
    page.get_by_role("list", name="spans by value of VES").get_by_role("button").nth(1).click()
    page.locator("main [data-stave]").first.wait_for()
    shoot(page, "findings")
    page.get_by_role("link", name="texts", exact=True).click()
    page.get_by_role("option").first.wait_for()
    page.keyboard.press("i")
    shapes = ROOT / "data" / "demo" / "shapes"
    page.get_by_label("files to import").set_input_files(
        [shapes / "remarks.csv", shapes / "mail" / "31-7.eml"]
    )
    page.get_by_role("button", name=re.compile(r"^import \d+ texts")).wait_for(timeout=60_000)
    shoot(page, "import")
    page.get_by_role("button", name="drop this import").click()
    page.get_by_role("button", name="drop", exact=True).click()
    page.get_by_role("heading", name="New import").wait_for()
    place(page, "Lists")
    page.get_by_role("listbox", name="lists").get_by_role("option", name=re.compile("^vessels")).click()
    page.get_by_role("button", name=re.compile("^harmful")).click()
    # The rows are drawn anew once it is summed up what harms.
    page.wait_for_timeout(3000)
    page.get_by_role("listbox", name="names", exact=True).get_by_role("option").nth(8).click()
    page.locator("aside [data-stave]").first.wait_for()
    shoot(page, "lists")
    place(page, "Rules")
    page.get_by_role("option", name=re.compile("^weekday")).click()
    page.get_by_label("holds").first.wait_for()
    page.locator("[aria-label=finds] ~ *").get_by_text("at the Desk").first.wait_for()
    shoot(page, "rules")


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    with started() as link, browsing() as page:
        walk(page, link)


if __name__ == "__main__":
    main()
