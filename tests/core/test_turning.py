"""Stages that look at spans, at the words around them, and at the same words elsewhere."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.pipeline import (
    Beside,
    Changes,
    GivenStage,
    RepeatsStage,
    Scope,
    Stage,
    TypesStage,
    WhereStage,
)
from urdaten.core.rules import Rule
from urdaten.core.spans import Span, SpanTable
from urdaten.core.text import batch_of

SHIP, PORT = Span(4, 10, "VES", "tagger", 0.95), Span(20, 26, "PRT", "lists")


def done(
    stage: Stage, bodies: list[str], spans: list[list[Span]], beside: Beside | None = None
) -> tuple[list[list[Span]], Changes]:
    table = SpanTable.of_spans(spans)
    changes = stage.apply(batch_of(bodies), table, beside or Beside())
    return [sorted(own) for own in changes.to(table).spans(len(bodies))], changes


@pytest.mark.parametrize(
    ("stage", "left", "words"),
    [
        (TypesStage(keep=frozenset({"VES"})), [SHIP], ["PRT is left out"]),
        (TypesStage(drop=frozenset({"VES"})), [PORT], ["VES is left out"]),
        (TypesStage(rename={"PRT": "LOC"}), [SHIP, Span(20, 26, "LOC")], ["is LOC from here on"]),
        (TypesStage(drop=frozenset({"VES", "PRT"}), of=frozenset({"lists"})), [SHIP], ["PRT is left out"]),
        (TypesStage(keep=frozenset({"VES", "PRT"}), rename={"BTH": "LOC"}), [SHIP, PORT], []),
    ],
)
def test_types_stay_go_and_become_others(stage: TypesStage, left: list[Span], words: list[str]) -> None:
    (found,), changes = done(stage, ["The Haldis lies in   Varnby now."], [[SHIP, PORT]])
    assert found == left
    assert [why.words for why in changes.why_removed] == words


def test_what_gets_another_type_is_still_of_whoever_said_it() -> None:
    (found,), _ = done(TypesStage(rename={"VES": "BOAT"}), ["The Haldis lies in   Varnby now."], [[SHIP]])
    assert found[0].source == "tagger"
    assert found[0].probability == pytest.approx(0.95)


def condition(
    scope: Scope, *, has: bool = True, types: frozenset[str] = frozenset(), of: frozenset[str] | None = None
) -> WhereStage:
    pattern = Rule(name="sails", type="X", text="'sails'").compiled()
    return WhereStage(pattern, scope, has, types, of)


BODIES = ["Haldis sails. Varnby waits.", "Pellin is here.", "Pellin again."]
NAMES = [
    [Span(0, 6, "VES", "lists"), Span(14, 20, "PRT", "lists")],
    [Span(0, 6, "VES", "lists")],
    [Span(0, 6, "VES", "tagger", 0.5)],
]


@pytest.mark.parametrize(
    ("stage", "left"),
    [
        (condition("sentence"), [NAMES[0][:1], [], []]),
        (condition("text"), [NAMES[0], [], []]),
        (condition("group"), [NAMES[0], NAMES[1], []]),
        (condition("sentence", has=False), [NAMES[0][1:], NAMES[1], NAMES[2]]),
        (condition("text", types=frozenset({"PRT"})), NAMES),
        (condition("text", of=frozenset({"tagger"})), [NAMES[0], NAMES[1], []]),
    ],
)
def test_spans_stay_where_the_words_around_them_are_as_asked(
    stage: WhereStage, left: list[list[Span]]
) -> None:
    found, changes = done(stage, BODIES, NAMES, Beside(["week", "week", ""]))
    assert found == left
    assert len(changes.why_removed) == sum(map(len, NAMES)) - sum(map(len, left))


def test_a_condition_that_takes_too_long_on_a_text_leaves_it_as_it_is() -> None:
    costly = "(?:" + "|".join(f"a{{{n},200}}" for n in range(1, 25)) + ")b"
    stage = WhereStage(Rule(name="c", type="X", text=f"text(/{costly}/)").compiled(), "text")
    bodies = ["a" * 2000, "Haldis"]
    spans = [[Span(0, 2000, "VES", "lists")], [Span(0, 6, "VES", "lists")]]
    found, changes = done(stage, bodies, spans)
    assert found == [spans[0], []]
    assert [(t.text, t.maker) for t in changes.troubles] == [(0, "where")]


def test_spans_from_elsewhere_come_in_by_their_source_with_types_of_ours() -> None:
    given_spans = SpanTable.of_spans(
        [[Span(0, 6, "ship", "scanner"), Span(0, 6, "x", "other")], [Span(0, 6, "place", "scanner")]]
    )
    beside = Beside(given=given_spans)
    found, _ = done(GivenStage("scanner"), BODIES[:2], [[], []], beside)
    assert found == [[Span(0, 6, "ship")], [Span(0, 6, "place")]]
    found, _ = done(GivenStage("scanner", (("ship", "VES"),)), BODIES[:2], [[], []], beside)
    assert found == [[Span(0, 6, "VES")], []]


def again(stage: RepeatsStage, bodies: list[str], spans: list[list[Span]], *groups: str) -> list[list[str]]:
    changes = stage.apply(batch_of(bodies), SpanTable.of_spans(spans), Beside(groups))
    return [
        [f"{body[s.start : s.end]} {s.type}" for s in own]
        for body, own in zip(bodies, changes.added.spans(len(bodies)), strict=True)
    ]


def test_a_certain_name_is_found_again_where_nothing_is_marked() -> None:
    body = "The Amber Quay sails. Amber Quay, amber quay and Amber. Amber Quay waits."
    spans = [Span(4, 14, "VES", "tagger", 0.95), Span(56, 66, "PRT", "rules")]
    assert again(RepeatsStage(), [body], [spans[:1]]) == [["Amber Quay VES", "Amber Quay VES"]]
    # What another stage has marked is not marked again, and of two types as common none is taken.
    assert again(RepeatsStage(sure=frozenset()), [body], [spans]) == [["Amber Quay VES"]]
    assert again(RepeatsStage(), [body], [spans]) == [[]]
    assert again(RepeatsStage(least=0.96), [body], [spans[:1]]) == [[]]
    assert again(RepeatsStage(types=frozenset({"PRT"})), [body], [spans[:1]]) == [[]]
    assert again(RepeatsStage(times=2), [body], [spans[:1]]) == [[]]


def test_a_part_of_a_name_that_is_found_again_is_no_name_of_its_own() -> None:
    body = "Amber Quay met Amber. Then Amber Quay left."
    spans = [Span(0, 10, "VES", "lists"), Span(15, 20, "PER", "lists")]
    assert again(RepeatsStage(), [body], [spans]) == [["Amber Quay VES"]]


def test_it_is_found_again_in_other_texts_of_its_group_alone() -> None:
    bodies = ["Haldis sails.", "And Haldis waits.", "Or Haldis."]
    spans: list[list[Span]] = [[Span(0, 6, "VES", "lists")], [], []]
    assert again(RepeatsStage(in_group=True), bodies, spans, "a", "a", "b") == [[], ["Haldis VES"], []]
    assert again(RepeatsStage(), bodies, spans, "a", "a", "b") == [[], [], []]
    changes = RepeatsStage(in_group=True).apply(batch_of(bodies), SpanTable.of_spans(spans), Beside("aab"))
    (reason,) = changes.added.reasons
    assert reason.words == "“Haldis” is VES once elsewhere in texts of its group"


def test_names_in_small_letters_are_looked_for_only_if_asked() -> None:
    body, spans = "salt and salt", [Span(0, 4, "CGO", "lists")]
    assert again(RepeatsStage(), [body], [spans]) == [[]]
    assert again(RepeatsStage(small=True), [body], [spans]) == [["salt CGO"]]


WORDS = st.lists(st.sampled_from(["Ada", "Bel", "Cor"]), min_size=1, max_size=9)


@given(
    words=WORDS,
    places=st.lists(st.tuples(st.integers(0, 8), st.integers(1, 3), st.sampled_from("PV")), max_size=3),
)
def test_found_again_as_a_slow_search_finds_it(words: list[str], places: list[tuple[int, int, str]]) -> None:
    body = " ".join(words)
    batch = batch_of([body])
    held = [(a, a + n, kind) for a, n, kind in places if a + n <= len(words)]
    spans = [Span(4 * a, 4 * b - 1, kind, "lists") for a, b, kind in held]
    found = RepeatsStage().apply(batch, SpanTable.of_spans([spans])).added
    expected = []
    taken = {k for a, b, _ in held for k in range(a, b)}
    for size in (3, 2, 1):
        kinds: dict[tuple[str, ...], list[str]] = {}
        for a, b, kind in sorted(set(held)):
            if b - a == size:
                kinds.setdefault(tuple(words[a:b]), []).append(kind)
        new = []
        end = 0
        for a in range(len(words) - size + 1):
            own = kinds.get(tuple(words[a : a + size]))
            if not own or taken & set(range(a, a + size)) or a < end:
                continue
            counts = sorted(own.count(kind) for kind in set(own))
            if len(counts) > 1 and counts[-1] == counts[-2]:
                continue
            new.append((a, a + size, max(set(own), key=own.count)))
            end = a + size
        expected += new
        taken |= {k for a, b, _ in new for k in range(a, b)}
    assert [(s.start, s.end, s.type) for s in found.spans(1)[0]] == sorted(
        (4 * a, 4 * b - 1, kind) for a, b, kind in expected
    )
    assert np.isnan(found.probability).all()
