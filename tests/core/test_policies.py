"""Policies against a slow reference that goes span by span."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.pipeline import (
    POLICIES,
    Beaten,
    Beside,
    PolicyKind,
    PolicyStage,
    SaidAlready,
    Unlikely,
    bound,
)
from urdaten.core.spans import OVERLAPS, Overlap, Span, SpanTable, forbidden_pairs
from urdaten.core.text import Batch, batch_of

SOURCES = ("lists", "rules", "tagger")
ORDER = ("tagger", "rules")
BY_TYPE = (("PRT", ("lists",)),)
WORTH = {"lists": 0.3, "rules": 0.8}
RANKS = {"firm": 1, "loose": -1}
SPAN = st.builds(
    lambda start, size, kind, source, p, maker: Span(
        start,
        start + size,
        kind,
        source,
        p if source == "tagger" else None,
        maker=maker if source == "rules" else "",
    ),
    st.integers(0, 10),
    st.integers(1, 6),
    st.sampled_from(["VES", "PRT"]),
    st.sampled_from(SOURCES),
    st.sampled_from([0.125, 0.5, 0.75]),
    st.sampled_from(["firm", "loose", "plain"]),
)


class Halved:
    """A weigher that says of each span something that can be looked up."""

    fingerprint = "halved"

    def probabilities(self, _batch: Batch, spans: SpanTable, _beside: Beside, /) -> np.ndarray:
        return np.array([likely(span) for span in spans.spans_in_order()])


def likely(span: Span) -> float:
    return ((span.start * 7 + span.end * 3 + len(span.type)) % 8) / 8


def probability(kind: PolicyKind, span: Span) -> float:
    if kind == "weighed":
        return likely(span)
    return WORTH.get(span.source, 0.5) if span.probability is None else span.probability


def strength(kind: PolicyKind, span: Span) -> tuple[object, ...]:
    order = dict(BY_TYPE).get(span.type, ORDER) if kind == "by type" else ORDER
    place = order.index(span.source) if span.source in order else len(order)
    rank = -RANKS.get(span.maker, 0) if span.source == "rules" else 0
    usual = (place, rank, span.start - span.end, span.start, span.type)
    if kind == "longest":
        return (span.start - span.end, *usual)
    return (-probability(kind, span), *usual) if kind in ("likeliest", "weighed") else usual


def slowly(kind: PolicyKind, spans: Sequence[Span], overlap: Overlap, least: float, fed: bool) -> list[Span]:
    kept: list[Span] = []
    for span in sorted(spans, key=lambda s: strength(kind, s)):
        if kind in ("likeliest", "weighed") and probability(kind, span) < least:
            continue
        if fed and kind != "weighed" and span.source == "lists":
            continue
        if span not in kept and not any(forbidden_pairs([span, other], overlap) for other in kept):
            kept.append(span)
    return sorted(kept)


@pytest.mark.parametrize("kind", POLICIES)
@given(
    texts=st.lists(st.lists(SPAN, max_size=7), min_size=1, max_size=3),
    overlap=st.sampled_from(OVERLAPS),
    least=st.sampled_from([0.0, 0.4]),
    fed=st.booleans(),
)
def test_a_policy_answers_as_one_that_goes_span_by_span(
    kind: PolicyKind, texts: list[list[Span]], overlap: Overlap, least: float, fed: bool
) -> None:
    policy = PolicyStage(
        kind,
        order=ORDER,
        by_type=BY_TYPE,
        left_out=(("lists", "tagger"),) if fed else (),
        overlap=overlap,
        ranks=tuple(RANKS.items()),
        least=least,
        worth=tuple(WORTH.items()),
        weigher=Halved(),
    )
    batch = batch_of(["some words of a text"] * len(texts))
    table = SpanTable.of_spans(texts)
    # Stages add to each other's spans, so those of one text need not follow each other.
    table = table.at(table.start.argsort(kind="stable"))
    changes = policy.apply(batch, table)
    answers = [sorted(own) for own in changes.to(table).spans(len(texts))]
    assert answers == [slowly(kind, own, overlap, least, fed) for own in texts]
    gone = table.at(changes.removed)
    for text, span, why in zip(gone.text.tolist(), gone.spans_in_order(), changes.why_removed, strict=True):
        assert why.words
        match why:
            case Beaten(by=by):
                assert by in answers[text]
                assert forbidden_pairs([span, by], overlap)
            case SaidAlready():
                assert span in answers[text]
            case Unlikely(probability=p):
                assert p == probability(kind, span) < least
            case _:
                assert fed
                assert span.source == "lists"
    if kind == "weighed":
        for own in changes.to(table).spans(len(texts)):
            assert all(span.probability == likely(span) for span in own)


@given(earlier=st.lists(SPAN, max_size=4), own=st.lists(SPAN, max_size=5), overlap=st.sampled_from(OVERLAPS))
def test_what_binds_stands_and_one_s_own_are_not_judged_among_each_other(
    earlier: list[Span], own: list[Span], overlap: Overlap
) -> None:
    allowed, by = bound(SpanTable.of_spans([[], earlier]), SpanTable.of_spans([[], own]), overlap)
    for k, span in enumerate(own):
        against = [s for s in earlier if s == span or forbidden_pairs([span, s], overlap)]
        assert allowed[k] == (not against)
        assert (by[k] < 0) if allowed[k] else (earlier[by[k]] in against)


def test_spans_of_other_texts_are_in_nobody_s_way() -> None:
    one = Span(0, 5, "VES", "tagger", 0.9)
    allowed, _ = bound(
        SpanTable.of_spans([[one], []]), SpanTable.of_spans([[], [replace(one, type="PRT")]]), "apart"
    )
    assert allowed.tolist() == [True]
