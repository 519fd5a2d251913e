"""Strict span scores."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from urdaten.core.scoring import count_matches, outcomes, score_spans
from urdaten.core.scoring.ledger import resampled
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


def test_a_type_that_is_not_listed_counts_and_is_told_of() -> None:
    scores = score_spans([(GOLD, FOUND)], ["PRT"])
    assert (scores.overall.right, scores.overall.missed, scores.overall.surplus) == (1, 2, 2)
    assert list(scores.types) == ["PRT", "CGO", "VES"]
    assert scores.types["CGO"].surplus == 1


SPAN = st.builds(Span, st.integers(0, 3), st.integers(4, 6), st.sampled_from(["VES", "PRT"]))
PAIRS = st.lists(st.tuples(st.lists(SPAN, max_size=4), st.lists(SPAN, max_size=4)), min_size=1, max_size=5)


@given(PAIRS)
def test_figures_are_those_of_a_slow_count(pairs: list[tuple[list[Span], list[Span]]]) -> None:
    scores = score_spans(pairs, ["VES", "PRT"], rounds=1)
    of_type: dict[str, Counter[str]] = {"VES": Counter(), "PRT": Counter()}
    for gold, found in pairs:
        for span in {*gold, *found}:
            outcome = "right" if span in gold and span in found else "missed" if span in gold else "surplus"
            of_type[span.type][outcome] += 1
    together: Counter[str] = sum(of_type.values(), Counter())
    for made, counts in [(scores.types[code], own) for code, own in of_type.items()] + [
        (scores.overall, together)
    ]:
        assert (made.right, made.missed, made.surplus) == (
            counts["right"],
            counts["missed"],
            counts["surplus"],
        )


def test_the_interval_is_between_percentiles(monkeypatch: pytest.MonkeyPatch) -> None:
    # Rounds with an F1 of 0, 0.01, … 1, in no order.
    drawn = np.array([[k, 100 - k, 100 - k] for k in np.random.default_rng(1).permutation(101)])
    monkeypatch.setattr("urdaten.core.scoring.spans.resampled", lambda *_: drawn)
    scores = score_spans([(GOLD, FOUND), (GOLD, GOLD)], ["VES"])
    assert scores.f1_low == pytest.approx(0.025)
    assert scores.f1_high == pytest.approx(0.975)


def test_texts_are_drawn_with_their_group() -> None:
    """Counts that tell which text was drawn give the weights of the texts, whose moments are known."""
    rounds = 40_000
    weight = resampled(np.eye(3, dtype=np.int64), ["a", "b", "a"], seed=5, rounds=rounds)
    assert weight.shape == (rounds, 3)
    # Two groups are drawn; of a group of two as many texts as of it, twice.
    assert ((weight[:, 0] + weight[:, 2]) % 2 == 0).all()
    assert ((weight[:, 0] + weight[:, 2]) // 2 + weight[:, 1] == 2).all()
    assert weight.mean(axis=0) == pytest.approx([1, 1, 1], abs=0.03)
    spread = np.cov(weight.T)
    # Between the groups 1 − 1/2; within one of two texts 1 − 1/2 for each, −1/2 between them.
    assert spread == pytest.approx(
        np.array([[1.0, -0.5, 0.0], [-0.5, 0.5, -0.5], [0.0, -0.5, 1.0]]), abs=0.04
    )
    alone = resampled(np.eye(3, dtype=np.int64), [0, 1, 2], seed=5, rounds=rounds)
    assert (alone.sum(axis=1) == 3).all()
    assert np.cov(alone.T) == pytest.approx(np.eye(3) - 1 / 3, abs=0.03)
    assert (resampled(np.eye(3, dtype=np.int64), "aaa", seed=5, rounds=50).sum(axis=1) == 3).all()


def test_what_belongs_together_makes_the_interval_wider() -> None:
    texts = [(GOLD, FOUND), (GOLD, GOLD), (GOLD, [])]
    many = [pair for pair in texts for _ in range(8)]
    together = score_spans(many, ["VES", "PRT"], groups=[k // 8 for k in range(24)])
    apart = score_spans(many, ["VES", "PRT"])
    assert None not in (together.f1_low, together.f1_high, apart.f1_low, apart.f1_high)
    assert together.f1_low < apart.f1_low  # type: ignore[operator] # none of them is None
    assert together.f1_high > apart.f1_high  # type: ignore[operator] # likewise


def test_much_to_draw_is_drawn_in_portions(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("urdaten.core.scoring.ledger._AT_ONCE", 7)
    weight = resampled(np.eye(3, dtype=np.int64), "aab", seed=5, rounds=50)
    assert weight.shape == (50, 3)
    assert len({tuple(row) for row in weight.tolist()}) > 5
