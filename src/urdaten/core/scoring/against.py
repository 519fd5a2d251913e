"""One answer against another on the same texts: how far their F1 lie apart, and how sure that is."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np

from urdaten.core.scoring.ledger import Ledger, f1_of, resampled
from urdaten.core.scoring.spans import INTERVAL
from urdaten.core.spans import Span

Spans = Sequence[Sequence[Span]]


@dataclass(frozen=True)
class Difference:
    """By how much the F1 of an answer is higher than that of another, -1 to 1, with a 95 % interval; None for fewer than two
    texts."""

    f1: float
    low: float | None
    high: float | None


def compare(
    gold: Spans,
    one: Spans,
    other: Spans,
    groups: Sequence[Hashable] | None = None,
    seed: int = 7,
    rounds: int = 2000,
) -> Difference:
    """How much better `one` is than `other`, all three by text.

    The interval is a percentile bootstrap of the difference: both answers are judged on the same draws of groups of texts
    and of texts within them, so that what is hard for both does not widen it (Efron and Tibshirani 1993, 16).
    """
    mine, theirs = (
        Ledger.aligned(list(zip(gold, own, strict=True)), ()).counts_by_text() for own in (one, other)
    )
    point = float((f1_of(mine.sum(axis=0)) - f1_of(theirs.sum(axis=0))).item())
    if len(gold) < 2:
        return Difference(point, None, None)
    own = range(len(gold)) if groups is None else groups
    # Equal seeds draw equal texts.
    drawn = f1_of(resampled(mine, own, seed, rounds)) - f1_of(resampled(theirs, own, seed, rounds))
    low, high = (float(bound) for bound in np.percentile(drawn, INTERVAL))
    return Difference(point, low, high)
