"""Codings: round trips on random spans, and what may follow what."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.spans import CODINGS, Coding, CodingKind, Span, span_ranges
from urdaten.core.text import analyse

TYPES = ("PRT", "VES", "CGO")


@st.composite
def spans_in_sentences(draw: st.DrawFn) -> tuple[list[tuple[int, int, int]], list[int]]:
    """Ranges that do not overlap or cross sentences, and the lengths of the sentences."""
    lengths = draw(st.lists(st.integers(1, 8), min_size=1, max_size=6))
    found = []
    base = 0
    for length in lengths:
        at = 0
        while at < length:
            size = draw(st.integers(0, length - at))
            if size:
                found.append((base + at, base + at + size, draw(st.integers(0, len(TYPES) - 1))))
            at += max(1, size)
        base += length
    return found, lengths


@pytest.mark.parametrize("kind", CODINGS)
@given(spans_in_sentences())
def test_spans_survive_coding(kind: CodingKind, drawn: tuple[list[tuple[int, int, int]], list[int]]) -> None:
    spans, lengths = drawn
    coding = Coding(kind, TYPES)
    columns = np.array(spans, dtype=np.int32).reshape(-1, 3).T
    labels = coding.encode(columns[0], columns[1], columns[2], sum(lengths))
    starts = np.zeros(len(labels), dtype=bool)
    starts[np.cumsum(lengths) - lengths] = True
    assert list(zip(*(c.tolist() for c in coding.decode(labels, starts)), strict=True)) == spans
    for before, after, begins in zip(labels[:-1], labels[1:], starts[1:], strict=True):
        if begins:
            assert coding.closing[0] <= before < coding.closing[1]
            assert coding.opening[0] <= after < coding.opening[1]
        else:
            assert coding.allowed[before, after]


@pytest.mark.parametrize("kind", CODINGS)
def test_what_is_allowed_is_what_some_spans_are_coded_as(kind: CodingKind) -> None:
    """All sequences of three labels that moves allow are exactly those that a set of spans has."""
    coding = Coding(kind, TYPES[:2])
    starts = np.array([True, False, False])
    for labels in itertools.product(range(coding.count), repeat=3):
        allowed = (
            coding.opening[0] <= labels[0] < coding.opening[1]
            and all(coding.allowed[a, b] for a, b in itertools.pairwise(labels))
            and coding.closing[0] <= labels[-1] < coding.closing[1]
        )
        first, last, number = coding.decode(np.array(labels), starts)
        assert allowed == (coding.encode(first, last, number, 3).tolist() == list(labels))


def test_an_inside_label_that_continues_nothing_begins_a_span() -> None:
    coding = Coding("BIO", ("VES", "PRT"))
    inside = [coding.label("inside", k) for k in (0, 1)]
    labels = np.array([inside[0], inside[0], inside[1], 0, inside[1], inside[1]])
    starts = np.array([True, False, False, False, False, True])
    first, last, kind = coding.decode(labels, starts)
    assert list(zip(first.tolist(), last.tolist(), kind.tolist(), strict=True)) == [
        (0, 2, 0),
        (2, 3, 1),
        (4, 5, 1),
        (5, 6, 1),
    ]


def test_labels_have_names() -> None:
    coding = Coding("BILOU", ("VES",))
    assert [coding.name(label) for label in range(5)] == [
        "VES begins",
        "outside",
        "VES alone",
        "VES ends",
        "VES inside",
    ]
    assert [Coding("BIO", ("VES",)).name(label) for label in range(3)] == [
        "outside",
        "VES begins",
        "VES inside",
    ]


def test_of_overlapping_spans_the_longer_is_coded() -> None:
    analysis = analyse("The Amber Quay berthed at B12")
    spans = [Span(4, 9, "CGO"), Span(4, 14, "VES"), Span(10, 22, "PRT"), Span(26, 29, "BTH")]
    assert span_ranges(spans, analysis, TYPES) == [(1, 2, 2), (2, 4, 0)]
    assert span_ranges(spans[:2], analysis, TYPES) == [(1, 3, 1)]
