"""Spans and their coding."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.spans import (
    Span,
    allowed_transitions,
    check_span,
    decode,
    encode,
    overlapping_pairs,
    without_overlaps,
)
from urdaten.core.text import analyse
from urdaten.errors import BadSpan

TYPES = ("VES", "PRT", "CGO")
WORDS = 12
BODY = " ".join(f"w{i}" for i in range(WORDS))


@st.composite
def separate_spans(draw: st.DrawFn) -> list[tuple[int, int, str]]:
    cuts = sorted(draw(st.sets(st.integers(0, WORDS), max_size=8)))
    spans = []
    for first, last in itertools.pairwise(cuts):
        if draw(st.booleans()):
            spans.append((first, last, draw(st.sampled_from(TYPES))))
    return spans


@given(separate_spans())
def test_coding_and_back_gives_the_same_spans(ranges: list[tuple[int, int, str]]) -> None:
    analysis = analyse(BODY)
    spans = [Span(int(analysis.start[a]), int(analysis.end[b - 1]), code) for a, b, code in ranges]
    labels = encode(spans, analysis, TYPES)
    assert decode(labels, TYPES) == ranges
    allowed = allowed_transitions(TYPES)
    path = [len(allowed) - 1, *labels.tolist()]
    assert all(allowed[a, b] for a, b in itertools.pairwise(path))


def test_of_overlapping_spans_the_longer_one_is_coded() -> None:
    analysis = analyse("Corrie Lindmoor sails")
    spans = [Span(7, 15, "PRT"), Span(0, 15, "VES"), Span(0, 6, "PER")]
    assert decode(encode(spans, analysis, ("VES", "PRT", "PER")), ("VES", "PRT", "PER")) == [(0, 2, "VES")]
    # A longer span that cuts off another's beginning leaves no stray end behind.
    crossing = [Span(7, 21, "PRT"), Span(0, 15, "VES")]
    labels = encode(crossing, analysis, TYPES)
    assert all(allowed_transitions(TYPES)[a, b] for a, b in itertools.pairwise(labels))


def test_an_inside_label_without_beginning_begins_a_span() -> None:
    assert decode(np.array([0, 2, 2, 4], dtype=np.int16), TYPES) == [(1, 3, "VES"), (3, 4, "PRT")]


@given(st.lists(st.tuples(st.integers(0, 20), st.integers(1, 6), st.sampled_from(TYPES)), max_size=12))
def test_without_overlaps_keeps_apart_and_drops_only_what_overlaps(raw: list[tuple[int, int, str]]) -> None:
    spans = [Span(start, start + size, code) for start, size, code in raw]
    kept = without_overlaps(spans)
    assert overlapping_pairs(kept) == []
    assert all(span in kept or any(span.overlaps(other) for other in kept) for span in spans)


@pytest.mark.parametrize(
    ("start", "end", "words"),
    [
        (-1, 2, "within"),
        (3, 3, "within"),
        (0, 99, "within"),
        (5, 4, "within"),
        (3, 5, "white space"),
        (0, 4, "white space"),
    ],
)
def test_a_bad_span_says_what_is_wrong(start: int, end: int, words: str) -> None:
    with pytest.raises(BadSpan, match=words) as fault:
        check_span(start, end, "all fast")
    assert fault.value.detail == {"start": start, "end": end}


def test_a_good_span_is_let_through() -> None:
    check_span(0, 3, "all fast")
    check_span(4, 8, "all fast")
