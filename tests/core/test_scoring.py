"""Strict span scores."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

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


def test_a_type_that_is_not_listed_counts_and_is_told_of() -> None:
    scores = score_spans([(GOLD, FOUND)], ["PRT"])
    assert (scores.overall.right, scores.overall.missed, scores.overall.surplus) == (1, 2, 2)
    assert list(scores.types) == ["PRT", "CGO", "VES"]
    assert scores.types["CGO"].surplus == 1


SPAN = st.builds(Span, st.integers(0, 3), st.integers(4, 6), st.sampled_from(["VES", "PRT"]))
PAIRS = st.lists(st.tuples(st.lists(SPAN, max_size=4), st.lists(SPAN, max_size=4)), min_size=1, max_size=5)


@given(PAIRS, st.data())
def test_figures_and_interval_are_those_of_a_slow_count(
    pairs: list[tuple[list[Span], list[Span]]], data: st.DataObject
) -> None:
    groups = data.draw(st.lists(st.sampled_from("abc"), min_size=len(pairs), max_size=len(pairs)))
    scores = score_spans(pairs, ["VES", "PRT"], seed=3, rounds=40, groups=groups)
    by_group: dict[str, Counter[str]] = {group: Counter() for group in groups}
    of_type: dict[str, Counter[str]] = {"VES": Counter(), "PRT": Counter()}
    for (gold, found), group in zip(pairs, groups, strict=True):
        for span in {*gold, *found}:
            outcome = "right" if span in gold and span in found else "missed" if span in gold else "surplus"
            by_group[group][outcome] += 1
            of_type[span.type][outcome] += 1
    for code, counts in of_type.items():
        made = scores.types[code]
        assert (made.right, made.missed, made.surplus) == (
            counts["right"],
            counts["missed"],
            counts["surplus"],
        )
    together = sum(by_group.values(), Counter())
    made = scores.overall
    assert (made.right, made.missed, made.surplus) == (
        together["right"],
        together["missed"],
        together["surplus"],
    )
    if len(by_group) < 2 or not together:
        assert (scores.f1_low, scores.f1_high) == (None, None)
        return
    held = list(by_group.values())
    drawn = np.random.default_rng(3).integers(0, len(held), size=(40, len(held)))
    f1s = []
    for row in drawn.tolist():
        total: Counter[str] = sum((held[k] for k in row), Counter())
        f1s.append(2 * total["right"] / max(1, 2 * total["right"] + total["missed"] + total["surplus"]))
    f1s.sort()
    for share, bound in ((0.025, scores.f1_low), (0.975, scores.f1_high)):
        # Between neighbours, by distance.
        at = share * (len(f1s) - 1)
        below = f1s[int(at)]
        above = f1s[min(int(at) + 1, len(f1s) - 1)]
        assert bound == pytest.approx(below + (at - int(at)) * (above - below))


def test_texts_of_a_group_are_drawn_together() -> None:
    texts = [(GOLD, FOUND), (GOLD, GOLD), (GOLD, [])]
    twice = [pair for pair in texts for _ in range(2)]
    alone = score_spans(texts, ["VES", "PRT"])
    together = score_spans(twice, ["VES", "PRT"], groups=[0, 0, 1, 1, 2, 2])
    apart = score_spans(twice, ["VES", "PRT"])
    assert (together.f1_low, together.f1_high) == (alone.f1_low, alone.f1_high)
    assert apart.f1_low is not None
    assert alone.f1_low is not None
    assert apart.f1_low > alone.f1_low


def test_much_to_draw_is_drawn_in_portions(monkeypatch: pytest.MonkeyPatch) -> None:
    texts = [(GOLD, FOUND), (GOLD, GOLD), (GOLD, [])]
    whole = score_spans(texts, ["VES"])
    monkeypatch.setattr("urdaten.core.scoring.ledger._AT_ONCE", 7)
    assert score_spans(texts, ["VES"]) == whole
