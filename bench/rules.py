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
from pathlib import Path
from typing import Any

import numpy as np
from _running import browsing, started

from urdaten.core.lists import Gazetteer
from urdaten.core.pipeline import RuleStage, resolve
from urdaten.core.rules import CompiledRule, Offers, Rule, match_rules
from urdaten.core.scoring import score_spans
from urdaten.core.spans import SpanTable
from urdaten.core.tagger import PRESETS, GoldText, TaggerInput, train
from urdaten.core.tags import SOURCES, Words, held_out, read_lemmas, read_tagged
from urdaten.core.text import Batch, Vocabulary, analyse, batch_of
from urdaten.demo.files import Demo, read_demo
from urdaten.demo.stream import generate
from urdaten.installed import words

TAGGED = Path(__file__).parents[1] / "data" / "tags"
BULLETINS, FULL_BULLETINS = 4_000, 20_000
RULES, FEW = 100, 10
WORDS_OF_EACH = 6
ROUNDS = 5
EDITS, FULL_EDITS = 12, 20
# So many bulletins are learnt from by the tagger that tags are held against, where only its speed counts.
FEW_LEARNT = 60
# So many are offered for each type.
OFFERS = 10
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
    return (
        _speed(demo, bodies)
        | _tags(demo, bodies, anew=full)
        | _trial(demo)
        | _worth(demo)
        | _offered(demo)
        | _edited(FULL_EDITS if full else EDITS)
    )


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
    listed = _rules(chosen, " and not list(ports)")
    took, took_few, took_listed = _medians(
        lambda: match_rules(rules, batch, spans),
        lambda: match_rules(rules[:FEW], batch, spans),
        lambda: match_rules(listed, batch, spans),
    )
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
    base = words(demo.language)
    took = []
    for k, one in enumerate(demo.rules):
        edited = Rule(name=one.name, type=one.type, text=f"{one.pattern}\n# edit {k}")
        began = time.perf_counter()
        match_rules([edited.compiled(fragments, base)], batch, spans)
        took.append(1000 * (time.perf_counter() - began))
    return {"demo_edit_ms_95": float(np.percentile(took, 95))}


def _tags(demo: Demo, bodies: Sequence[str], *, anew: bool) -> dict[str, float]:
    """How often tags and lemmas are right in sentences held out, as measured when installing or anew, and how quick tags are
    beside a tagger of the demo's types."""
    known = words(demo.language)
    if known is None:
        return {}
    figures = _held_out(known) if anew else known.parts.figures
    texts = [(one, batch_of([one.body], demo.language)) for one in demo.bulletins if one.split == "train"]
    vocabulary = Vocabulary()
    gold = [
        GoldText(TaggerInput(analyse(one.body, demo.language, vocabulary), ()), one.gold)
        for one, _ in texts
        if one.signed
    ][: None if anew else FEW_LEARNT]
    tagger = train(gold, [], vocabulary, [one.code for one in demo.types], PRESETS["quick"])
    batch = batch_of(bodies, demo.language)
    spans = SpanTable.empty()
    took: dict[str, list[float]] = {"tags": [], "tagger": []}
    for _ in range(ROUNDS):
        for name, job in (("tags", known.tags), ("tagger", lambda own: tagger.tag_batch(own, spans))):
            began = time.perf_counter()
            job(batch)
            took[name].append(time.perf_counter() - began)
    tagging = statistics.median(took["tags"])
    found = {
        "tags_per_second": len(batch.word) / tagging,
        "tags_speed_to_tagger": statistics.median(took["tagger"]) / tagging,
    }
    for source, own in figures["sources"].items():
        name = source.replace(" ", "_")
        found |= {
            f"tags_right_{name}": 100 * own["right"] / own["words"],
            f"tags_right_{name}_known": 100 * own["known_right"] / own["known"],
            f"tags_right_{name}_unknown": 100 * own["unknown_right"] / own["unknown"],
            f"lemmas_right_{name}": 100 * own["lemmas_right"] / own["words"],
        }
    return found


def _held_out(known: Words) -> dict[str, Any]:
    sources = {
        name: list(read_tagged((TAGGED / file).read_text(encoding="utf-8").splitlines()))
        for name, file in SOURCES.items()
    }
    lemmas = read_lemmas((TAGGED / "lemmas.txt").read_text(encoding="utf-8").splitlines())
    return held_out(sources, known.parts.words, lemmas)


def _offered(demo: Demo) -> dict[str, float]:
    """Strict F1 on test of the demo's rules with those that are offered from gold of train and dev, all taken."""
    learnt = [one for one in demo.bulletins if one.split in ("train", "dev") and one.signed]
    batch = batch_of([one.body for one in learnt], demo.language)
    listed = Gazetteer(demo.lists).read(batch).table
    spans = SpanTable.joined([listed, RuleStage(demo.compiled_rules).apply(batch, listed).added])
    base = words(demo.language)
    rules = list(demo.compiled_rules)
    seconds = []
    for code in (one.code for one in demo.types):
        began = time.perf_counter()
        offers = Offers(
            batch,
            spans,
            [(k, 0, len(one.body)) for k, one in enumerate(learnt)],
            [(k, s.start, s.end) for k, one in enumerate(learnt) for s in one.gold if s.type == code],
            type=code,
            base=base,
            lists=[one.name for one in demo.lists],
        )
        for k, one in enumerate(offers.found(OFFERS)):
            rules.append(Rule(name=f"{code} {k}", type=code, text=one.pattern).compiled(None, base))
        seconds.append(time.perf_counter() - began)
    found = {f"{name}_with_offers": value for name, value in _worth(demo, rules).items()}
    return found | {"offers": float(len(rules) - len(demo.rules)), "offers_seconds_most": max(seconds)}


def _worth(demo: Demo, rules: Sequence[CompiledRule] = ()) -> dict[str, float]:
    """Strict F1 of rules alone, the demo's where no others are given, on its test split."""
    tested = [one for one in demo.bulletins if one.split == "test" and one.signed]
    batch = batch_of([one.body for one in tested], demo.language)
    spans = Gazetteer(demo.lists).read(batch).table
    changes = RuleStage(tuple(rules) or demo.compiled_rules).apply(batch, spans)
    found = [resolve({"rules": own}) for own in changes.added.spans(len(batch))]
    types = [one.code for one in demo.types]
    card = score_spans(list(zip((one.gold for one in tested), found, strict=True)), types, rounds=10)
    overall = card.overall
    return {
        "demo_f1": 100 * (overall.f1 or 0.0),
        "demo_precision": 100 * (overall.precision or 0.0),
        "demo_recall": 100 * (overall.recall or 0.0),
    }


def _medians(*jobs: Callable[[], object]) -> list[float]:
    """Seconds that each takes. They take turns, so that a machine that slows down slows all of them."""
    took: list[list[float]] = [[] for _ in jobs]
    for _ in range(ROUNDS):
        for own, job in zip(took, jobs, strict=True):
            began = time.perf_counter()
            job()
            own.append(time.perf_counter() - began)
    return [statistics.median(own) for own in took]


def _edited(edits: int) -> dict[str, float]:
    """A key in the editor, until the whole demo corpus is matched anew and the page says what was found; in the browser."""
    with started() as link, browsing() as page:
        page.goto(link)
        page.wait_for_url("**/projects")
        page.goto(f"{link.split('/sign-in')[0]}/p/tessmar/rules")
        page.get_by_role("option", name="quantity with unit").click()
        page.get_by_role("heading", name="quantity with unit").wait_for()
        page.keyboard.press("e")
        page.wait_for_selector(".cm-content")
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
