"""The Desk in a real browser: how soon a key shows, how soon the next sentence stands there, and how many keys gold costs.

Times are from the moment of the key press, as the browser dates it, to the end of the frame that shows its effect.
"""

from __future__ import annotations

import random
import statistics
from collections.abc import Sequence
from typing import Any

from _keys import ask, begin_training, keys_per_span, use_tagger
from _running import at_the_desk
from playwright.sync_api import Page

from urdaten.demo.files import read_demo

STAVE = "main [data-stave] p"
# Resolves when the frame that shows what was waited for is over; `show` is looked at in every frame. A task of this urgency
# comes right after the frame, before work that the page has put off until later.
WATCH = """
window.watch = (show) => {
  let begun
  addEventListener('keydown', (event) => { begun = event.timeStamp }, { capture: true, once: true })
  window.seen = new Promise((resolve) => {
    const look = () => {
      if (begun === undefined || !show()) return requestAnimationFrame(look)
      scheduler.postTask(() => resolve(performance.now() - begun), { priority: 'user-blocking' })
    }
    requestAnimationFrame(look)
  })
}
"""


def measure(full: bool) -> dict[str, float]:
    """Times in milliseconds and keys per span; with --full also large queues, and the replay of all bulletins.

    Every full replay has an Urdaten of its own, so that neither learns from the other; a short one goes on where the
    other ended.
    """
    titles = [b.title for b in read_demo().bulletins if not b.signed]
    figures: dict[str, float] = {}
    if full:
        with at_the_desk() as page:
            figures |= _by_hand(page, titles)
        with at_the_desk() as page:
            begin_training(page)
            use_tagger(page)
            figures |= _with_evidence(page, titles)
    with at_the_desk() as page:
        begin_training(page)
        if not full:
            # Keys are counted, not timed, so the tagger may be trained beside.
            figures |= _by_hand(page, titles[:2])
        use_tagger(page)
        if not full:
            figures |= _with_evidence(page, titles[2:5])
        page.evaluate(WATCH)
        page.keyboard.press("Alt+5")  # the sixth lane
        figures |= _paint(page, "painted", 60, 80 if full else 20) | _next(page, 40 if full else 5)
        figures |= _learnt(page, 10 if full else 2)
        if full:
            figures |= _paint(page, "painted_400_tokens", 400, 80) | _large(page)
    return figures


def _press(page: Page, key: str, show: str) -> float:
    """Milliseconds from the key to the end of the frame in which `show` holds."""
    page.evaluate(f"watch(() => {show})")
    page.keyboard.press(key)
    return float(page.evaluate("seen"))


def _of(name: str, times: Sequence[float]) -> dict[str, float]:
    return {
        f"{name}_ms": statistics.median(times),
        f"{name}_ms_95": statistics.quantiles(times, n=20, method="inclusive")[-1],
    }


def _go(page: Page, sentence: int) -> None:
    """Open a sentence as a link would, without loading the application again."""
    page.evaluate(
        "(to) => { history.pushState({}, '', to); dispatchEvent(new PopStateEvent('popstate')) }",
        f"/p/tessmar/desk/{sentence}",
    )


def _paint(page: Page, name: str, tokens: int, rounds: int) -> dict[str, float]:
    """From a type's key to its bar, in a sentence of so many tokens with all six lanes."""
    demo = read_demo()
    drawn = random.Random(1)
    names = [entry.preferred for names in demo.lists for entry in names.entries]
    words: list[str] = []
    while len(words) < tokens - 1:
        words += [*drawn.choice(names).split(), drawn.choice(("from", "with", "at", "for")), "0410"]
    body = " ".join([f"Today{tokens}", *words[: tokens - 1]])
    (sentence,) = _sentences(page, name, body)
    _go(page, sentence["id"])
    page.locator(STAVE).filter(has_text=f"Today{tokens}").wait_for(state="attached")
    for lane in ("gold", "lists", "rules", "tagger", "learned", "together"):
        page.locator(f'main [data-lane="{lane}"]').first.wait_for()
    page.keyboard.press("Home")
    times = []
    for i in range(rounds):
        key, code = (("v", "VES"), ("p", "PRT"), ("o", "ORG"))[i % 3]
        before = page.locator(f'main [data-lane="gold"] [data-span$="{code}"]').count()
        show = f"document.querySelectorAll('main [data-lane=gold] [data-span$={code}]').length > {before}"
        times.append(_press(page, key, show))
        page.keyboard.press("ArrowRight")
        page.wait_for_timeout(60)
    return _of(name, times)


def _sentences(page: Page, title: str, body: str) -> list[dict[str, Any]]:
    """The sentences of a new text of no split."""
    text = ask(page, "POST", "/texts", {"title": title, "body": body, "split": "none"})
    found: list[dict[str, Any]] = ask(page, "GET", f"/texts/{text['id']}/sentences")["sentences"]
    return found


def _learnt(page: Page, rounds: int) -> dict[str, float]:
    """From signing a name for the second time to its being suggested in the next sentence."""
    times = []
    for i in range(rounds):
        name = f"Zarn{chr(97 + i)}w"
        first, *_, last = _sentences(
            page, name, f"{name} is late.\n{name} waits for a pilot.\n{name} has sailed."
        )
        _go(page, first["id"])
        for words in ("is late", "waits"):
            page.locator(STAVE).filter(has_text=words).wait_for(state="attached")
            page.wait_for_timeout(1000)
            page.keyboard.press("Home")
            page.keyboard.press("v")
            if words == "is late":
                page.keyboard.press("Enter")
        bar = f"{last['start']}-{last['start'] + len(name)}-VES"
        show = f"document.querySelector('main [data-lane=learned] [data-span=\"{bar}\"]')"
        times.append(_press(page, "Enter", show))
    return _of("learnt", times)


def _next(page: Page, rounds: int) -> dict[str, float]:
    """From signing to the next sentence, after a second of reading."""
    _go(page, ask(page, "GET", "/desk/queue/counts")["first_open"])
    page.wait_for_timeout(1500)
    times = []
    for _ in range(rounds):
        words = page.locator(STAVE).text_content()
        show = f"document.querySelector('{STAVE}')?.textContent !== {words!r}"
        times.append(_press(page, "Control+Enter", show))
        page.wait_for_timeout(1000)
    return _of("next_sentence", times)


def _large(page: Page) -> dict[str, float]:
    """A text of 3 000 sentences, and a queue of over 10 000."""
    drawn = random.Random(2)
    bodies = [
        "\n".join(f"Ship {drawn.randrange(10**6)} came in at {k:04} with salt." for k in range(3000))
        for _ in range(3)
    ]
    made = [_sentences(page, f"long {k}", body) for k, body in enumerate(bodies)]
    sentence = made[0][1500]
    page.wait_for_timeout(2000)
    opened = page.evaluate(
        """async (to) => {
          const begun = performance.now()
          const old = document.querySelector('main [data-stave] p').textContent
          history.pushState({}, '', to)
          dispatchEvent(new PopStateEvent('popstate'))
          for (;;) {
            await new Promise((frame) => requestAnimationFrame(frame))
            const now = document.querySelector('main [data-stave] p')?.textContent
            if (now && now !== old) return performance.now() - begun
          }
        }""",
        f"/p/tessmar/desk/{sentence['id']}",
    )
    total = ask(page, "GET", "/desk/queue/counts")["total"]
    page.get_by_text(f"of {total // 1000}").first.wait_for()
    page.wait_for_timeout(3000)
    blank = page.evaluate(
        """async () => {
          const list = document.querySelector('[role=listbox]')
          let blank = 0
          for (let at = 0; at < list.scrollHeight; at += list.clientHeight * 3) {
            list.scrollTop = at
            await new Promise((frame) => requestAnimationFrame(() => requestAnimationFrame(frame)))
            const frame = list.getBoundingClientRect()
            const x = frame.left + frame.width / 2
            for (const y of [frame.top + 8, frame.top + frame.height / 2, frame.bottom - 8]) {
              if (!document.elementFromPoint(x, y)?.closest('[role=option]')) blank += 1
            }
          }
          return blank
        }"""
    )
    return {"long_text_opened_ms": float(opened), "queue": float(total), "blank_rows": float(blank)}


def _by_hand(page: Page, titles: Sequence[str]) -> dict[str, float]:
    """Keys per span with every lane but gold hidden."""
    page.locator("main [data-lane='learned']").first.wait_for()
    _toggle_evidence(page)
    keys, spans = keys_per_span(page, titles, evidence=False)
    _toggle_evidence(page)
    return {"keys_per_span_by_hand": keys, "spans_by_hand": spans}


def _with_evidence(page: Page, titles: Sequence[str]) -> dict[str, float]:
    """Keys per span with a tagger in use and every lane shown but *together*."""
    keys, spans = keys_per_span(page, titles, evidence=True)
    return {"keys_per_span_with_evidence": keys, "spans_with_evidence": spans}


def _toggle_evidence(page: Page) -> None:
    for number in range(1, 5):
        page.keyboard.press(f"Alt+{number}")
