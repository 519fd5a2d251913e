"""Spans and their coding."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.spans import Span, add_apart, check_span, overlapping_pairs, without_overlaps
from urdaten.errors import BadSpan

TYPES = ("VES", "PRT", "CGO")


SOME = st.lists(st.tuples(st.integers(0, 20), st.integers(1, 6), st.sampled_from(TYPES)), max_size=12)


@given(SOME, SOME)
def test_more_spans_join_those_that_lie_apart_in_the_order_in_which_they_are_preferred(
    first: list[tuple[int, int, str]], later: list[tuple[int, int, str]]
) -> None:
    kept = without_overlaps(Span(start, start + size, code) for start, size, code in first)
    more = [Span(start, start + size, code) for start, size, code in later]
    expected = list(kept)
    for span in more:
        if not any(span.overlaps(other) for other in expected):
            expected.append(span)
    assert add_apart(kept, more) == sorted(expected)


@given(SOME)
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
