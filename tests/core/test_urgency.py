"""Disputes between sources, and what a tagger leaves open."""

from __future__ import annotations

import pytest

from urdaten.core.pipeline import disputes, doubt
from urdaten.core.spans import Span

A, B = Span(0, 6, "VES", "lists"), Span(10, 14, "PRT", "rules")


@pytest.mark.parametrize(
    ("spans", "count"),
    [
        ([], 0),
        ([A, B], 0),
        ([A, Span(0, 6, "VES", "tagger")], 0),
        ([A, Span(0, 6, "ORG", "tagger")], 1),
        ([A, Span(0, 8, "VES", "tagger"), Span(7, 9, "QTY", "rules"), B], 1),
        ([A, Span(3, 6, "VES", "tagger"), B, Span(10, 13, "PRT", "tagger")], 2),
        ([A, Span(6, 9, "VES", "tagger")], 0),
    ],
)
def test_disputes_are_runs_of_spans_that_differ(spans: list[Span], count: int) -> None:
    assert disputes(spans) == disputes(spans[::-1]) == count


def test_doubt_is_bits_per_token() -> None:
    unsure, sure = Span(0, 6, "VES", "tagger", 0.5), Span(10, 14, "PRT", "tagger", 1.0)
    assert doubt([unsure, sure], 4) == 0.25
    assert doubt([unsure], 2) > doubt([unsure], 4) > doubt([Span(0, 6, "VES", "tagger", 0.9)], 4) > 0
    assert doubt([A], 4) == doubt([unsure], 0) == 0.0
