"""What lists find in unsigned sentences: what of it is clear, and how a tagger learns from it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.invented import QUICK, TYPES, invented
from urdaten.core.spans import Span, clear_spans
from urdaten.core.tagger import (
    PRESETS,
    GoldText,
    TaggerInput,
    TrainingSettings,
    from_lists,
    text_from_lists,
    train,
    weighed,
)
from urdaten.core.text import Vocabulary, analyse
from urdaten.errors import BadInput, BadSettings

SOME = st.lists(st.tuples(st.integers(0, 12), st.integers(1, 5), st.sampled_from(("VES", "PRT"))), max_size=8)


def by_definition(spans: list[Span]) -> tuple[list[Span], list[Span]]:
    """Slowly: each held against all others."""
    different = set(spans)
    outer = {
        s
        for s in different
        if not any(
            o.start <= s.start and s.end <= o.end and (o.start, o.end) != (s.start, s.end) for o in different
        )
    }
    unclear = {s for s in outer if any(s.overlaps(o) for o in outer - {s})}
    return sorted(outer - unclear), sorted(unclear)


@given(SOME)
def test_what_is_clear_is_what_nothing_else_stands_against(raw: list[tuple[int, int, str]]) -> None:
    spans = [Span(start, start + size, code) for start, size, code in raw]
    assert clear_spans(spans) == by_definition(spans)


def test_the_first_of_two_that_are_alike_stands() -> None:
    one, other = Span(0, 3, "VES", maker="tugs"), Span(0, 3, "VES", maker="ships")
    assert [span.maker for span in clear_spans([one, other])[0]] == ["tugs"]


BODY = "Pellin is in. Ketta lies off Osk. Ketta Osk sails."


def test_a_text_as_lists_see_it_is_its_unsigned_sentences() -> None:
    found = [
        Span(0, 6, "VES"),
        Span(14, 19, "VES"),
        Span(29, 32, "PRT"),
        Span(34, 39, "VES"),
        Span(34, 43, "PRT"),
        Span(34, 43, "VES"),
    ]
    text = text_from_lists(analyse(BODY), [0], found, ["PRT", "VES"], "33")
    assert (text.item.sentences, text.item.group, list(text.item.evidence)) == ([1, 2], "33", [])
    assert text.gold == [Span(14, 19, "VES"), Span(29, 32, "PRT")]
    assert list(text.unread) == [(34, 43), (34, 43)]
    assert text.signed_types == frozenset({"PRT", "VES"})
    assert not text_from_lists(analyse(BODY), [0, 1, 2], found, ["VES"]).item.token_ranges()


def of_sentences(count: int) -> GoldText:
    return GoldText(TaggerInput(analyse("It sails. " * count), []), [])


@pytest.mark.parametrize(
    ("sizes", "worth", "signed", "weight"),
    [((2, 3), 1, 9, 0.2), ((2, 3), 60, 9, 1.0), ((2, 3), 1, 0, 1.0), ((), 5, 9, None), ((0,), 5, 9, None)],
)
def test_all_of_it_counts_as_much_as_so_many_signed_sentences(
    sizes: tuple[int, ...], worth: int, signed: int, weight: float | None
) -> None:
    texts = weighed([of_sentences(size) for size in sizes], worth, signed)
    assert [text.weight for text in texts] == [weight] * (0 if weight is None else len(sizes))


def test_of_very_many_sentences_some_are_taken_evenly(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(from_lists, "MOST_SENTENCES", 30)
    sizes = np.random.default_rng(3).integers(1, 6, 100).tolist()
    texts = [of_sentences(size) for size in sizes]
    taken = weighed(texts, 6, 1)
    total = sum(len(text.item.token_ranges()) for text in taken)
    assert 25 <= total <= 36
    assert sum(text.weight * len(text.item.token_ranges()) for text in taken) == pytest.approx(6)
    places = [next(k for k, text in enumerate(texts) if text.item is one.item) for one in taken]
    assert max(np.diff([*places, 100])) < 25, "no stretch is left out"


def test_names_that_lists_know_teach_what_stands_around_them() -> None:
    vocabulary = Vocabulary()
    known = {"Amber Quay", "Pellin", "Lindmoor", "Varnby"}
    seen = [
        text_from_lists(
            text.item.analysis,
            (),
            [span for span in text.gold if text.item.analysis.body[span.start : span.end] in known],
            TYPES,
        )
        for text in invented(80, 5, vocabulary)
    ]
    tagger = train(weighed(seen, 1, 0), (), vocabulary, TYPES, QUICK)
    other = invented(30, 6, vocabulary)
    found = tagger.tag([text.item for text in other], vocabulary)
    right = [
        span
        for text, spans in zip(other, found, strict=True)
        for span in spans
        if span in text.gold and text.item.analysis.body[span.start : span.end] in known
    ]
    assert len(right) > 20


def test_types_that_no_list_is_of_are_left_open() -> None:
    """A few signed ports, and many sentences of which only vessels are known: ports are found all the same."""
    vocabulary = Vocabulary()
    signed, many = invented(12, 1, vocabulary), invented(120, 2, vocabulary)
    ships = [
        text_from_lists(t.item.analysis, (), [s for s in t.gold if s.type == "VES"], ["VES"]) for t in many
    ]
    closed = [replace(text, signed_types=None) for text in ships]
    other = invented(40, 3, vocabulary)

    def ports(more: list[GoldText]) -> int:
        tagger = train([*signed, *more], (), vocabulary, TYPES, QUICK)
        found = tagger.tag([text.item for text in other], vocabulary)
        return sum(span.type == "PRT" for spans in found for span in spans)

    assert ports(ships) == 40
    assert ports(closed) < 20


def test_settings_say_what_cannot_be() -> None:
    with pytest.raises(BadSettings, match="perceptron") as caught:
        replace(PRESETS["quick"], from_lists=5)
    assert caught.value.detail["field"] == "from_lists"
    assert PRESETS["early"] == TrainingSettings(from_lists=60)
    with pytest.raises(BadSettings, match="from_lists is -1"):
        TrainingSettings(from_lists=-1)


def test_nothing_to_learn_from_says_what_else_there_is() -> None:
    with pytest.raises(BadInput, match="what lists find"):
        train([], (), Vocabulary(), TYPES, QUICK)
