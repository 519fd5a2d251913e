"""Strict span scores."""

from __future__ import annotations

import pytest

from urdaten.core.scoring import count_matches, outcomes, score_spans
from urdaten.core.spans import Span

GOLD = [Span(0, 5, "VES"), Span(6, 9, "PRT"), Span(10, 12, "PRT")]
FOUND = [Span(0, 5, "VES"), Span(6, 10, "PRT"), Span(10, 12, "CGO")]


def test_only_the_very_span_is_right() -> None:
    assert count_matches(GOLD, FOUND) == (1, 3, 3)
    assert count_matches(GOLD, []) == (0, 3, 0)
    assert count_matches([Span(0, 5, "VES", "gold")], [Span(0, 5, "VES", "tagger", 0.3)]) == (1, 1, 1)


def test_figures_by_hand() -> None:
    scores = score_spans([(GOLD, FOUND)], ["VES", "PRT", "CGO", "ORG"])
    overall = scores.overall
    assert (overall.right, overall.missed, overall.surplus) == (1, 2, 2)
    assert overall.precision == overall.recall == pytest.approx(1 / 3)
    assert overall.f1 == pytest.approx(1 / 3)
    assert scores.types["PRT"].f1 == 0.0
    assert scores.types["CGO"].recall is None
    assert scores.types["ORG"].f1 is None


def test_the_interval_is_seeded_holds_the_figure_and_needs_two_texts() -> None:
    texts = [(GOLD, FOUND), (GOLD, GOLD), (GOLD, []), (GOLD, GOLD)]
    first = score_spans(texts, ["VES", "PRT", "CGO"])
    again = score_spans(texts, ["VES", "PRT", "CGO"])
    assert first == again
    assert first.f1_low is not None
    assert first.f1_high is not None
    assert first.overall.f1 is not None
    assert 0 <= first.f1_low < first.overall.f1 < first.f1_high <= 1
    assert score_spans(texts[:1], ["VES"]).f1_low is None


def test_nothing_at_all_has_no_figures() -> None:
    scores = score_spans([([], []), ([], [])], ["VES"])
    assert scores.overall.f1 is None
    assert scores.f1_low is None


def test_outcomes_of_a_sentence() -> None:
    assert outcomes(GOLD, FOUND) == [
        ("CGO", "surplus"),
        ("PRT", "missed"),
        ("PRT", "surplus"),
        ("VES", "right"),
    ]
