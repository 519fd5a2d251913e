"""A hundred rules over a stream of bulletins, and what the demo's rules are worth.

Against the same rules as Python writes them: for each a regular expression of alternatives over the texts. Both are given what they
would be given at work: rules the analysed texts, which lists and the tagger read as well, expressions the texts themselves; how long
the analysis takes stands beside it. Ratios are within one run.
"""

from __future__ import annotations

import json
import re
import statistics
import time
from collections.abc import Callable, Sequence

import numpy as np
from _running import browsing, started

from urdaten.core.lists import Gazetteer
from urdaten.core.pipeline import RuleStage, resolve
from urdaten.core.rules import CompiledRule, Rule, match_rules
from urdaten.core.scoring import score_spans
from urdaten.core.text import Batch, batch_of
from urdaten.demo.files import Demo, read_demo
from urdaten.demo.stream import generate

BULLETINS, FULL_BULLETINS = 4_000, 20_000
RULES, FEW = 100, 10
WORDS_OF_EACH = 6
ROUNDS = 3
EDITS = 20
# Milliseconds from a key in the editor until what the pattern finds in the whole corpus stands below it.
ANSWERED = """
() => new Promise((resolve) => {
  const said = () => document.querySelector('main [data-trial]')?.textContent ?? ''
  const before = said()
  addEventListener('keydown', () => {
    const began = performance.now()
    const look = () => {
      const took = performance.now() - began
      return said() !== before || took > 5000 ? resolve(took) : requestAnimationFrame(look)
    }
    look()
  }, { once: true, capture: true })
})
"""


def measure(full: bool) -> dict[str, float]:
    """Every figure by name."""
    demo = read_demo()
    bodies = [
        json.loads(line)["text"] for line in generate(demo, FULL_BULLETINS if full else BULLETINS, seed=5)
    ]
    return _speed(demo, bodies) | _trial(demo) | _worth(demo) | _edited(EDITS)


def _speed(demo: Demo, bodies: Sequence[str]) -> dict[str, float]:
    began = time.perf_counter()
    batch = batch_of(bodies, demo.language)
    analysed = time.perf_counter() - began
    spans = Gazetteer(demo.lists).read(batch).table
    chosen = _words(batch, RULES * WORDS_OF_EACH)
    rules = _rules(chosen, "")
    expressions = [_expression(own) for own in chosen]
    match_rules(rules[:1], batch, spans)
    found = [len(finds.first) for finds in match_rules(rules, batch, spans)]
    plain = [sum(len(one.findall(body)) for body in bodies) for one in expressions]
    took = _median(lambda: match_rules(rules, batch, spans))
    took_few = _median(lambda: match_rules(rules[:FEW], batch, spans))
    listed = _rules(chosen, " and not list(ports)")
    took_listed = _median(lambda: match_rules(listed, batch, spans))
    began = time.perf_counter()
    for one in expressions:
        for body in bodies:
            for _ in one.finditer(body):
                pass
    took_plain = time.perf_counter() - began
    return {
        "times_as_fast_as_expressions": took_plain / took,
        "times_as_fast_with_the_analysis": took_plain / (took + analysed),
        "cost_of_each_of_100_to_10": (took / RULES) / (took_few / FEW),
        "cost_of_a_list_test": took_listed / took,
        "found_to_found_by_expressions": sum(found) / max(1, sum(plain)),
        "million_tokens_per_second": len(batch.word) * RULES / took / 1e6,
        "seconds": took,
        "expressions_seconds": took_plain,
    }


def _words(batch: Batch, count: int) -> list[list[str]]:
    """Words in small letters, some common and some rare, a few for each rule."""
    forms = batch.vocabulary.forms
    counts = np.bincount(batch.word, minlength=len(forms))
    small = [
        k
        for k in np.argsort(-counts).tolist()
        if forms[k].isascii() and forms[k].isalpha() and forms[k].islower()
    ]
    random = np.random.default_rng(3)
    picked = [forms[k] for k in random.permutation(small[: 3 * count])[:count].tolist()]
    return [picked[k::RULES] for k in range(RULES)]


def _rules(chosen: Sequence[Sequence[str]], more: str) -> list[CompiledRule]:
    rules = []
    for k, own in enumerate(chosen):
        words = " or ".join(f"'{word}'" for word in own)
        text = f"({words}) [ (capital{more}) optional capital ]"
        rules.append(Rule(name=f"rule {k}", type="PER", text=text).compiled())
    return rules


def _expression(words: Sequence[str]) -> re.Pattern[str]:
    capital = r"[A-Z](?:[a-z]|[-'’&][A-Z]?)*"
    return re.compile(rf"\b(?i:{'|'.join(words)})\s+({capital}(?:\s+{capital})?)(?![\w'’-])")


def _trial(demo: Demo) -> dict[str, float]:
    """The whole demo corpus matched anew after an edit of one rule, in the core alone."""
    batch = batch_of([one.body for one in demo.bulletins], demo.language)
    spans = Gazetteer(demo.lists).read(batch).table
    fragments = {one.name: one.pattern for one in demo.fragments}
    took = []
    for k, one in enumerate(demo.rules):
        edited = Rule(name=one.name, type=one.type, text=f"{one.pattern}\n# edit {k}")
        began = time.perf_counter()
        match_rules([edited.compiled(fragments)], batch, spans)
        took.append(1000 * (time.perf_counter() - began))
    return {"demo_edit_ms_95": float(np.percentile(took, 95))}


def _worth(demo: Demo) -> dict[str, float]:
    """Strict F1 of the demo's rules alone on its test split."""
    tested = [one for one in demo.bulletins if one.split == "test" and one.signed]
    batch = batch_of([one.body for one in tested], demo.language)
    spans = Gazetteer(demo.lists).read(batch).table
    changes = RuleStage(demo.compiled_rules).apply(batch, spans)
    found = [resolve({"rules": own}) for own in changes.added.spans(len(batch))]
    types = [one.code for one in demo.types]
    card = score_spans(list(zip((one.gold for one in tested), found, strict=True)), types, rounds=10)
    overall = card.overall
    return {
        "demo_f1": 100 * (overall.f1 or 0.0),
        "demo_precision": 100 * (overall.precision or 0.0),
        "demo_recall": 100 * (overall.recall or 0.0),
    }


def _median(job: Callable[[], object]) -> float:
    took = []
    for _ in range(ROUNDS):
        began = time.perf_counter()
        job()
        took.append(time.perf_counter() - began)
    return statistics.median(took)


def _edited(edits: int) -> dict[str, float]:
    """A key in the editor, until the whole demo corpus is matched anew and the page says what was found; in the browser."""
    with started() as link, browsing() as page:
        page.goto(link)
        page.wait_for_url("**/projects")
        page.goto(f"{link.split('/sign-in')[0]}/p/tessmar/rules")
        page.get_by_role("option", name="quantity with unit").click()
        page.keyboard.press("e")
        page.get_by_label("pattern").fill("[  figure use(unit) ]")
        for key in ("Home", "ArrowRight", "ArrowRight"):
            page.keyboard.press(key)
        page.wait_for_selector("main [data-trial]")
        took = []
        for k in range(edits + 2):
            page.wait_for_timeout(500)
            page.evaluate(f"window.told = ({ANSWERED})(); undefined")
            page.keyboard.press("23"[k % 2])
            took.append(page.evaluate("window.told"))
            page.keyboard.press("Backspace")
    # The first ones load what every later one has.
    return {"edit_ms_95": float(np.percentile(took[2:], 95)), "edit_ms": statistics.median(took[2:])}
