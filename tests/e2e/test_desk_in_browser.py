"""The Desk in the browser: keys, conflicts, and a server that comes and goes."""

from __future__ import annotations

import re
from collections.abc import Callable

from playwright.sync_api import BrowserContext, Locator, Page, expect

from e2e.conftest import Complaints, Running, wait_for

GOLD = 'main [data-lane="gold"] [data-span]'
HISTORY = "SELECT kind FROM act WHERE standing IN ('done', 'undone') ORDER BY id"


def open_first(page: Page) -> str:
    """The first untouched sentence of the demo, which begins bulletin 41/1."""
    expect(page.get_by_text("41/1 · week-41 · sentence 1 of")).to_be_visible()
    expect(page.locator("main [data-stave] [data-token]").first).to_be_visible()
    return page.url


def test_keys_mark_sign_and_travel(page: Page, urdaten: Running) -> None:
    first = open_first(page)
    expect(page.locator("main [data-token]").first).to_have_text("0255")
    page.keyboard.press("t")
    expect(page.locator(GOLD)).to_have_text(["TIM"])
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("p")
    expect(page.locator(GOLD)).to_have_text(["TIM", "PRT"])
    page.keyboard.press("v")  # another type takes its place
    expect(page.locator(GOLD)).to_have_text(["TIM", "VES"])
    page.keyboard.press("Control+Enter")  # refused: there are spans
    expect(page.get_by_text("remove them before you sign it as empty")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_text("sentence 2 of")).to_be_visible()
    page.keyboard.press("Enter")  # refused: nothing is marked
    expect(page.get_by_text("Ctrl and enter sign the sentence as empty")).to_be_visible()
    page.keyboard.press("Control+Enter")
    expect(page.get_by_text("sentence 3 of")).to_be_visible()
    for words in ("untouched", "begun, not signed"):
        page.keyboard.press("Control+z")
        expect(page.locator("main")).to_contain_text(words)
    assert page.url == first
    page.keyboard.press("Control+Shift+z")
    expect(page.locator("main")).to_contain_text("· signed")
    page.get_by_role("button", name="withdraw the signature").click()
    expect(page.locator("main")).to_contain_text("begun, not signed")
    wait_for(lambda: urdaten.query(HISTORY) == [("mark",), ("mark",), ("mark",), ("sign",), ("unsign",)])
    page.get_by_role("button", name="history").click()
    expect(page.get_by_role("dialog")).to_contain_text("Ines · unsign")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("mark as vessel")


def test_evidence_is_taken_and_gaps_are_found(page: Page) -> None:
    open_first(page)
    # The rule's time, the list's vessel, and the Spit, which the list wrongly takes for a port.
    expect(page.locator("main [data-differs]")).to_have_count(3)
    page.keyboard.press(" ")
    expect(page.locator(GOLD)).to_have_text(["TIM"])
    expect(page.locator("main [data-differs]")).to_have_count(2)
    # Taking has gone on to the next gap.
    page.keyboard.press(" ")
    expect(page.locator(GOLD)).to_have_text(["TIM", "VES"])
    expect(page.locator("main [data-differs]")).to_have_count(1)
    page.locator('main [data-lane="gold"] [data-span]').last.click()
    expect(page.get_by_role("complementary")).to_contain_text("Ostvar II")
    page.keyboard.press("Delete")
    expect(page.locator(GOLD)).to_have_text(["TIM"])


def gold_spans(page: Page) -> list[str]:
    return [str(bar.get_attribute("data-span")) for bar in page.locator(GOLD).all()]


def right_of(locator: Locator) -> float:
    box = locator.bounding_box()
    assert box
    return box["x"] + box["width"]


def test_bounds_are_moved_by_keys_and_by_the_mouse(page: Page) -> None:
    open_first(page)
    page.keyboard.press("Control+ArrowRight")
    page.keyboard.press("v")
    expect(page.locator(GOLD)).to_have_attribute("data-span", "5-14-VES")  # Ostvar II
    page.keyboard.press("Alt+ArrowRight")
    expect(page.locator(GOLD)).to_have_attribute("data-span", "5-17-VES")
    page.keyboard.press("Alt+Shift+ArrowRight")
    expect(page.locator(GOLD)).to_have_attribute("data-span", "12-17-VES")
    page.keyboard.press("Control+z")
    expect(page.locator(GOLD)).to_have_attribute("data-span", "5-17-VES")
    page.keyboard.press("End")
    page.keyboard.press("(")  # to the list's port
    page.keyboard.press("(")  # and back to the span
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("/")
    expect(page.locator(GOLD)).to_have_count(2)
    page.keyboard.press("Home")
    page.keyboard.press(")")
    page.keyboard.press("+")
    expect(page.locator(GOLD)).to_have_count(1)
    tick = page.locator('main [data-tick="end"]').bounding_box()
    spit = page.locator("main [data-token]").filter(has_text="Spit").bounding_box()
    assert tick
    assert spit
    page.mouse.move(tick["x"] + 4, tick["y"] + 6)
    page.mouse.down()
    page.mouse.move(spit["x"] + 5, tick["y"] + 6, steps=4)
    # Its end goes along before it is let go.
    wait_for(lambda: right_of(page.locator(GOLD)) >= spit["x"] + spit["width"] - 1)
    expect(page.locator(GOLD)).to_have_attribute("data-span", "5-17-VES")
    page.mouse.up()
    expect(page.locator("main")).to_contain_text("begun, not signed")
    expect(page.locator(GOLD)).to_have_attribute("data-span", "5-26-VES")
    # Drag over two words and mark them; then one letter alone, with a modifier.
    words = [page.locator("main [data-token]").nth(n).bounding_box() for n in (7, 8)]
    assert words[0]
    assert words[1]
    page.mouse.move(words[0]["x"] + 3, words[0]["y"] + 15)
    page.mouse.down()
    page.mouse.move(words[1]["x"] + 6, words[1]["y"] + 15, steps=3)
    page.mouse.up()
    page.get_by_role("button", name="organisation").click()
    expect(page.locator(GOLD)).to_have_text(["VES", "ORG"])
    page.keyboard.press("Control+Shift+ArrowLeft")
    page.keyboard.press("o")
    expect(page.locator(GOLD)).to_have_text(["VES", "ORG"])
    first, second = (int(gold_spans(page)[1].split("-")[n]) for n in (0, 1))
    assert second - first == len("late for") - 1


def test_spans_lie_within_each_other_where_the_scheme_lets_them(page: Page, complaints: Complaints) -> None:
    complaints.expected.append("409 (Conflict)")
    first = open_first(page)
    page.get_by_role("navigation", name="places").get_by_role("link", name="Types").click()
    # Kept, before the page is left: it would take the wish with it.
    with page.expect_response(lambda answer: answer.url.endswith("/types/overlap") and answer.ok):
        page.get_by_label("spans of one sentence").select_option("nested")
    page.goto(first)
    expect(page.locator("main [data-token]").first).to_have_text("0255")
    page.keyboard.press("Control+ArrowRight")
    page.keyboard.press("v")
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("p")
    expect(page.locator(GOLD)).to_have_count(2)
    assert sorted(gold_spans(page)) == ["5-11-PRT", "5-14-VES"]
    expect(page.locator("main")).to_contain_text("begun, not signed")
    page.get_by_role("navigation", name="places").get_by_role("link", name="Types").click()
    page.get_by_label("spans of one sentence").select_option("apart")
    expect(page.get_by_role("alert")).to_contain_text("1 sentence has spans that this would forbid")


def test_evidence_is_turned_down_taken_as_one_and_learnt(page: Page, urdaten: Running) -> None:
    open_first(page)
    learned = page.locator('main [data-lane="learned"] [data-span]')
    expect(learned).to_have_text(["TIM", "VES"])
    page.keyboard.press("-")
    expect(page.locator("main [data-differs]")).to_have_count(2)
    expect(page.get_by_role("complementary")).to_contain_text("turned down")
    page.keyboard.press("Shift+ ")
    expect(page.locator(GOLD)).to_have_text(["VES", "PRT"])
    wait_for(
        lambda: (
            urdaten.query("SELECT source, taken FROM verdict ORDER BY taken, source")
            == [
                ("learned", False),
                ("rules", False),
                ("learned", True),
                ("lists", True),
                ("lists", True),
                ("rules", True),
            ]
        )
    )
    page.keyboard.press("!")
    page.get_by_role("textbox", name="question").fill("Is the Spit a port?")
    page.get_by_role("button", name="ask", exact=True).click()
    expect(page.get_by_text("1 with a question")).to_be_visible()
    page.get_by_label("show").select_option("asked")
    expect(page.get_by_role("listbox", name="sentences").get_by_role("option")).to_have_count(1)
    page.get_by_label("show").select_option("all")
    page.get_by_label("order").select_option("novelty")
    expect(page.get_by_text("refresh the order")).to_be_visible()
    expect(page.get_by_role("listbox", name="sentences")).to_contain_text("% new")


def test_all_alike_are_marked_and_taken_back_at_once(page: Page, urdaten: Running) -> None:
    open_first(page)
    page.keyboard.press("t")
    page.keyboard.press("*")
    window = page.get_by_role("dialog")
    expect(window).to_contain_text("Mark “0255” as TIM")
    page.keyboard.press("Escape")
    expect(window).to_have_count(0)
    page.keyboard.press("#")
    window.get_by_label("type").select_option("VES")
    window.get_by_label("text of the span").fill("Ostvar II")
    window.get_by_role("button", name="search", exact=True).click()
    expect(page.get_by_text("Found: vessel “Ostvar II” in gold")).to_be_visible()
    found = page.get_by_role("listbox", name="sentences").get_by_role("option")
    # Rows of before stay until those that were found are here.
    expect(found.first).to_contain_text(re.compile("ostvar ii", re.IGNORECASE))
    count = found.count()
    page.get_by_role("button", name="correct them").click()
    window.get_by_label("change to").select_option("ORG")
    window.get_by_role("button", name="show what would change").click()
    window.get_by_role("checkbox").first.uncheck()
    window.get_by_role("button", name=f"change {count - 1} sentences").click()
    expect(page.get_by_text(f"Changed in {count - 1} sentences")).to_be_visible()
    corrected = "SELECT count(*) FROM act WHERE kind = 'correct' AND standing = 'done'"
    assert urdaten.query(corrected) == [(count - 1,)]
    page.keyboard.press("Control+z")
    expect(page.get_by_text(f"Undone in {count - 1} sentences.")).to_be_visible()
    assert urdaten.query(corrected) == [(0,)]


def test_keys_of_another_layout_and_keys_that_are_held(page: Page, urdaten: Running) -> None:
    open_first(page)
    keyboard = page.context.new_cdp_session(page)

    def press(key: str, code: str, *, shift: bool = False, held: int = 0, text: str | None = None) -> None:
        event = {
            "key": key,
            "code": code,
            "modifiers": 8 if shift else 0,
            "text": key if text is None else text,
        }
        for turn in range(held + 1):
            keyboard.send("Input.dispatchKeyEvent", {"type": "keyDown", "autoRepeat": turn > 0} | event)
        keyboard.send("Input.dispatchKeyEvent", {"type": "keyUp"} | event)

    # Held, an arrow goes on and on.
    press("ArrowRight", "ArrowRight", held=3, text="")
    expect(page.get_by_role("complementary")).to_contain_text("the")
    press("Home", "Home", text="")
    press("ArrowRight", "ArrowRight", text="")
    press("v", "KeyV", held=5)
    expect(page.locator(GOLD)).to_have_text(["VES"])
    # On a German keyboard / is shift and 7, + has a key of its own, and so has #.
    press("ArrowRight", "ArrowRight", shift=True, text="")
    press("v", "KeyV")
    press("ArrowRight", "ArrowRight", text="")
    press("ArrowLeft", "ArrowLeft", text="")
    press("/", "Digit7", shift=True)
    expect(page.locator(GOLD)).to_have_count(2)
    press("ArrowLeft", "ArrowLeft", text="")
    press("+", "BracketRight")
    expect(page.locator(GOLD)).to_have_count(1)
    press("#", "Backslash")
    expect(page.get_by_role("dialog")).to_contain_text("Search sentences")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    signed = "SELECT count(*) FROM act WHERE kind LIKE 'sign%'"
    ((before,),) = urdaten.query(signed)
    # Sentence after sentence signed unread: not by holding a key.
    press("Enter", "Enter", held=8, text="\r")
    wait_for(lambda: urdaten.query(signed) == [(before + 1,)])
    page.wait_for_timeout(300)
    assert urdaten.query(signed) == [(before + 1,)]


def test_the_focus_comes_back_to_the_sentence(page: Page) -> None:
    open_first(page)
    page.get_by_label("show").select_option("open")
    page.keyboard.press("t")
    expect(page.locator(GOLD)).to_have_text(["TIM"])
    page.get_by_role("group", name="lanes").get_by_role("button", name="rules").click()
    page.keyboard.press("Enter")
    expect(page.get_by_text("41/1 · week-41 · sentence 2 of")).to_be_visible()
    page.get_by_role("button", name="history").click()
    expect(page.get_by_role("dialog")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("Control+Enter")
    expect(page.get_by_text("41/1 · week-41 · sentence 3 of")).to_be_visible()


def test_who_is_signed_out_signs_in_again_in_place(
    page: Page, urdaten: Running, complaints: Complaints
) -> None:
    complaints.expected += ["401 (Unauthorized)"]
    address = open_first(page)
    page.context.clear_cookies()
    page.keyboard.press("t")
    expect(page.get_by_text("You are signed out. 1 act waits here")).to_be_visible()
    page.get_by_role("button", name="sign in again").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("password").fill("not this one")
    dialog.get_by_role("button", name="sign in", exact=True).click()
    expect(dialog.get_by_role("alert")).to_be_visible()
    dialog.get_by_label("password").fill(urdaten.password("ines"))
    dialog.get_by_role("button", name="sign in", exact=True).click()
    wait_for(lambda: urdaten.query(HISTORY) == [("mark",)])
    expect(page.get_by_text("You are signed out")).to_have_count(0)
    assert page.url == address


def test_acts_survive_a_server_that_is_away_and_a_reload(
    page: Page, urdaten: Running, complaints: Complaints
) -> None:
    complaints.expected += ["ERR_CONNECTION", "ERR_INTERNET_DISCONNECTED", "503 (Service Unavailable)"]
    open_first(page)
    page.context.set_offline(True)
    page.keyboard.press("t")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("v")
    expect(page.locator(GOLD)).to_have_text(["TIM", "VES"])
    expect(page.get_by_text("2 acts wait here")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.locator(GOLD)).to_have_text(["TIM"])
    page.keyboard.press("Control+Shift+z")
    expect(page.locator(GOLD)).to_have_text(["TIM", "VES"])
    page.keyboard.press("Enter")
    expect(page.get_by_text("5 acts wait here")).to_be_visible()
    assert urdaten.query(HISTORY) == []
    page.context.set_offline(False)
    page.reload()
    wait_for(lambda: urdaten.query(HISTORY) == [("mark",), ("mark",), ("sign",)])
    travelled = "SELECT kind FROM act WHERE standing = 'passed' AND token IS NOT NULL ORDER BY id"
    assert urdaten.query(travelled) == [("undo mark",), ("redo mark",)]
    expect(page.get_by_text("wait here")).to_have_count(0)
    # A page that is left in the same breath, before its database has begun to write, leaves its acts to the next one;
    # the second would be sent once the first is answered.
    before = len(urdaten.query(HISTORY))
    with page.expect_navigation():
        page.evaluate(
            """() => {
                IDBDatabase.prototype.transaction = () => { throw new Error('too late') }
                for (const key of ['t', 'v']) {
                    document.body.dispatchEvent(
                        new KeyboardEvent('keydown', { key, code: `Key${key.toUpperCase()}`, bubbles: true }),
                    )
                }
                location.reload()
            }"""
        )
    wait_for(lambda: len(urdaten.query(HISTORY)) == before + 2)


def test_a_restarted_server_is_taken_up_again(page: Page, urdaten: Running, complaints: Complaints) -> None:
    complaints.expect_cut_connections()
    open_first(page)
    urdaten.kill("server")
    page.keyboard.press("t")
    wait_for(lambda: urdaten.query(HISTORY) == [("mark",)])
    # Live events flow again: what somebody else does shows without a reload.
    urdaten.query(
        "WITH a AS (INSERT INTO revision (project_id, place, number) VALUES (1, 'texts', 99) "
        "RETURNING 1), b AS (UPDATE text SET title = 'renamed' WHERE title = '41/1' RETURNING 1) "
        'SELECT pg_notify(\'urdaten\', \'{"project": 1, "what": "all"}\') FROM a, b'
    )
    expect(page.get_by_text("renamed · week-41")).to_be_visible()


def test_two_people_on_one_sentence_choose(
    page: Page, urdaten: Running, new_context: Callable[[], BrowserContext], complaints: Complaints
) -> None:
    complaints.expected.append("409 (Conflict)")
    address = open_first(page)
    other = complaints.listen(new_context().new_page())
    other.goto(f"{urdaten.address}/sign-in")
    other.get_by_label("login").fill("jo")
    other.get_by_label("password").fill("not it at all")
    other.get_by_role("button", name="sign in").click()
    expect(other.get_by_role("alert")).to_contain_text("do not go together")
    other.get_by_label("password").fill(urdaten.password("jo"))
    other.get_by_role("button", name="sign in").click()
    other.wait_for_url("**/desk/**")
    other.goto(address)
    expect(other.locator("main [data-token]").first).to_have_text("0255")
    # Jo does not hear of what Ines does, and writes on what was there before.
    other.route(
        "**/desk/sentences/*",
        lambda route: route.abort() if route.request.method == "GET" else route.continue_(),
    )
    complaints.expected.append("ERR_FAILED")
    page.keyboard.press("t")
    wait_for(lambda: urdaten.query(HISTORY) == [("mark",)])
    other.keyboard.press("d")
    dialog = other.get_by_role("dialog")
    expect(dialog).to_contain_text("Ines changed it while you worked on it. Nothing is lost yet")
    expect(dialog.locator('[data-lane="theirs"] [data-span]')).to_have_text(["TIM"])
    expect(dialog.locator('[data-lane="yours"] [data-span]')).to_have_text(["DAT"])
    # Neither a key nor a click beside it makes the choice, nor does another page.
    other.keyboard.press("Escape")
    other.mouse.click(5, 400)
    other.unroute("**/desk/sentences/*")
    other.goto(address.split("/desk/")[0] + "/texts")
    expect(dialog.locator('[data-lane="yours"] [data-span]')).to_have_text(["DAT"])
    dialog.get_by_role("button", name="replace it with mine").click()
    wait_for(lambda: urdaten.query(HISTORY) == [("mark",), ("mark",)])
    expect(page.locator(GOLD)).to_have_text(["DAT"])


def test_an_annotator_annotates_and_leads_nothing(
    urdaten: Running, new_context: Callable[[], BrowserContext], complaints: Complaints
) -> None:
    complaints.expected.append("401 (Unauthorized)")
    page = complaints.listen(new_context().new_page())
    page.goto(urdaten.address)
    page.get_by_label("login").fill("jo")
    page.get_by_label("password").fill(urdaten.password("jo"))
    page.keyboard.press("Enter")
    open_first(page)
    for path, act in (
        ("types", "new type"),
        ("lists", "new list"),
        ("rules", "new rule"),
        ("tagger", "new training"),
    ):
        page.goto(f"{urdaten.address}/p/tessmar/{path}")
        expect(page.locator(f'[data-figure="{path}"]')).not_to_be_empty()
        expect(page.get_by_role("button", name=act)).to_have_count(0)
    page.get_by_role("button", name="Jo · annotator").click()
    page.get_by_role("menuitem", name="sign out").click()
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()
    page.goto(f"{urdaten.address}/p/tessmar/desk")
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()
