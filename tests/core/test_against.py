"""How far two answers lie apart, and how sure that is."""

from __future__ import annotations

import numpy as np
import pytest

from urdaten.core.scoring import compare, score_spans
from urdaten.core.spans import Span

Texts = list[list[Span]]


def texts(count: int, share: float, seed: int) -> Texts:
    """Of ten places in each text those that chance takes."""
    random = np.random.default_rng(seed)
    return [[Span(k, k + 1, "VES") for k in range(10) if random.random() < share] for _ in range(count)]


GOLD = texts(60, 1.0, 0)
GOOD, POOR = texts(60, 0.9, 1), texts(60, 0.6, 2)


def f1(found: Texts) -> float:
    scores = score_spans(list(zip(GOLD, found, strict=True)), ["VES"], rounds=1)
    return scores.overall.f1 or 0.0


def test_a_difference_is_that_of_the_two_and_turns_round() -> None:
    there, back = compare(GOLD, GOOD, POOR), compare(GOLD, POOR, GOOD)
    assert there.f1 == pytest.approx(f1(GOOD) - f1(POOR))
    assert back.f1 == -there.f1
    assert back.low is not None
    assert there.high is not None
    assert back.low == pytest.approx(-there.high)
    assert there.low is not None
    assert 0 < there.low < there.f1 < there.high


def test_what_is_the_same_differs_in_nothing() -> None:
    same = compare(GOLD, GOOD, [list(reversed(own)) for own in GOOD])
    assert (same.f1, same.low, same.high) == (0, 0, 0)


def test_both_are_judged_on_the_same_draws() -> None:
    """What is hard for both says nothing of which is better: the interval is narrower than those of the two would have it."""
    hard = [own if k % 2 else own[:1] for k, own in enumerate(GOOD)]
    better = [[*own, Span(90, 91, "VES")] if k % 2 else own for k, own in enumerate(hard)]
    gold = [[*own, Span(90, 91, "VES")] for own in GOLD]
    one = score_spans(list(zip(gold, hard, strict=True)), ["VES"])
    made = compare(gold, better, hard)
    assert one.f1_low is not None
    assert one.f1_high is not None
    assert made.low is not None
    assert made.high is not None
    assert made.high - made.low < (one.f1_high - one.f1_low) / 3
    assert made.low > 0


def test_texts_that_belong_together_make_it_less_sure() -> None:
    mixed = [good if k < 30 else poor for k, (good, poor) in enumerate(zip(GOOD, POOR, strict=True))]
    single = compare(GOLD, mixed, POOR)
    grouped = compare(GOLD, mixed, POOR, groups=[k // 15 for k in range(60)])
    assert None not in (single.low, single.high, grouped.low, grouped.high)
    assert (grouped.high or 0) - (grouped.low or 0) > (single.high or 0) - (single.low or 0)


def test_one_text_has_no_interval() -> None:
    assert compare(GOLD[:1], GOOD[:1], POOR[:1]).low is None
