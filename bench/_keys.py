"""Keys that gold costs at the Desk of an Urdaten that is running, pressed in a real browser, and what it takes to begin."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from _keystrokes import Open, plan
from playwright.sync_api import Page

from urdaten.demo.files import read_demo

API = "/api/projects/tessmar"
# How unlikely the tagger's second thoughts may be, where they are weighed.
SECOND_THOUGHTS = 0.05
# From which probability on spans may be taken; where two cost as much the first.
LEAST = (0.2, 0.25, 0.3, 0.35, 0.4, 0.45, 0.5, 0.55)


def ask(page: Page, method: str, path: str, body: Any = None) -> Any:
    answer = page.request.fetch(
        page.url.split("/p/")[0] + API + path,
        method=method,
        data=body,
        headers={"Origin": page.url.split("/p/")[0]},
    )
    assert answer.ok, answer.text()
    return answer.json() if answer.status != 204 else None


def begin_training(page: Page) -> None:
    ask(page, "POST", "/trainings", {"name": "bench", "settings": {}})


def use_tagger(page: Page) -> None:
    """Wait until the training has ended and its tagger is in use and shown."""
    for _ in range(600):
        if any(training["in_use"] for training in ask(page, "GET", "/trainings")):
            break
        page.wait_for_timeout(200)
    page.reload()
    page.locator('main [data-lane="tagger"]').first.wait_for()


def weigh(page: Page) -> None:
    """Let the pipeline weigh, by weights learnt from dev and from train by taggers that have not seen it, and take what is as likely
    as costs the fewest keys in signed dev sentences: a span that is taken wrongly is gone with fewer keys than one costs that is
    missed."""
    stages = ask(page, "GET", "/pipeline")["version"]["plan"]
    for stage in stages["stages"]:
        if stage["kind"] == "tagger":
            stage["settings"]["also"] = SECOND_THOUGHTS
    ask(page, "POST", "/pipeline/weights", {"plan": stages, "train": True})
    for _ in range(1500):
        if held := ask(page, "GET", "/pipeline/weights")["weights"]:
            break
        page.wait_for_timeout(200)
    else:
        raise AssertionError("No weights were learnt.")
    stages["policy"] |= {"kind": "weighed", "weights": str(held[0]["id"])}
    items = ask(page, "GET", "/desk/queue?split=dev&limit=5000")["items"]
    signed = [item["id"] for item in items if item["state"] == "signed"]
    costs = []
    for seen, least in enumerate(LEAST):
        ask(page, "PUT", "/pipeline", {"plan": _with_least(stages, least), "seen": seen})
        costs.append((_keys_of(page, signed), least))
    ask(page, "PUT", "/pipeline", {"plan": _with_least(stages, min(costs)[1]), "seen": len(LEAST)})
    page.reload()
    page.locator('main [data-lane="tagger"]').first.wait_for()


def _with_least(plan: dict[str, Any], least: float) -> dict[str, Any]:
    return plan | {"policy": plan["policy"] | {"least": least}}


def _keys_of(page: Page, sentences: Sequence[int]) -> int:
    """How many keys it would take to bring signed sentences to their gold from nothing."""
    letters = {t["code"]: t["key"] for t in ask(page, "GET", "/types")["types"]}
    total = 0
    for number in sentences:
        shown = ask(page, "GET", f"/desk/sentences/{number}")
        gold = [(s["start"], s["end"], s["type"]) for s in shown["annotation"]["spans"]]
        total += len(plan(Open.of(shown, evidence=True), gold, letters))
    return total


def keys_per_span(page: Page, titles: Sequence[str], *, evidence: bool) -> tuple[float, int]:
    """Keys per span when the gold of unsigned bulletins is made at the Desk, signing included."""
    gold = {b.title: b for b in read_demo().bulletins if b.title in titles}
    letters = {t["code"]: t["key"] for t in ask(page, "GET", "/types")["types"]}
    pressed = spans = 0
    left = sum(1 for item in _unsigned(page) if item["title"] in titles)
    while left:
        left -= 1
        shown = _shown(page, evidence=evidence)
        here = [
            (s.start, s.end, s.type)
            for s in gold[shown["text"]["title"]].gold
            if shown["start"] <= s.start and s.end <= shown["end"]
        ]
        keys = plan(Open.of(shown, evidence=evidence), here, letters)
        for key in keys:
            page.keyboard.press(key)
        pressed += len(keys)
        spans += len(here)
        _check(page, shown["id"], here)
        if left:
            page.wait_for_function("(id) => !location.pathname.endsWith('/' + id)", arg=str(shown["id"]))
    return pressed / spans, spans


def _unsigned(page: Page) -> list[dict[str, Any]]:
    items = ask(page, "GET", "/desk/queue?split=none&limit=5000")["items"]
    return [item for item in items if item["state"] != "signed"]


def _shown(page: Page, *, evidence: bool) -> dict[str, Any]:
    """The open sentence, once the page shows it just as the server has it."""
    for _ in range(200):
        shown: dict[str, Any] = ask(page, "GET", f"/desk/sentences/{page.url.rsplit('/', 1)[1]}")
        drawn = page.evaluate(
            """() => [
              document.querySelector('main [data-stave] p')?.textContent,
              ...new Set([...document.querySelectorAll('main [data-lane]:not([data-lane=gold]) [data-span]')].map((bar) => bar.dataset.span.split('-').slice(0, 3).join('-'))),
            ]"""
        )
        lanes = {f"{s['start']}-{s['end']}-{s['type']}" for spans in shown["lanes"].values() for s in spans}
        if drawn[0] == shown["words"] and set(drawn[1:]) == (lanes if evidence else set()):
            return shown
        page.wait_for_timeout(50)
    raise AssertionError("The page does not show what the server has.")


def _check(page: Page, sentence: int, gold: list[tuple[int, int, str]]) -> None:
    """What stands in the end is gold, or the count is worth nothing."""
    for _ in range(100):
        annotation = ask(page, "GET", f"/desk/sentences/{sentence}")["annotation"]
        if annotation["state"] == "signed":
            stands = [(s["start"], s["end"], s["type"]) for s in annotation["spans"]]
            assert stands == sorted(gold), (sentence, stands, gold)
            return
        page.wait_for_timeout(50)
    raise AssertionError(f"Sentence {sentence} was not signed.")
