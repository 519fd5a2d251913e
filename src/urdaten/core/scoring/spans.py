"""Strict span scores: a found span is right when start, end and type are those of a gold span."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from urdaten.core.scoring.ledger import Ledger, f1_of, keys, resampled
from urdaten.core.spans import Span

# Percentiles that bound 95 %.
INTERVAL = (2.5, 97.5)


@dataclass(frozen=True)
class Figures:
    """Counts of one type or of all; the derived figures are 0 to 1, or None where undefined."""

    right: int
    in_gold: int
    in_found: int

    @property
    def missed(self) -> int:
        return self.in_gold - self.right

    @property
    def surplus(self) -> int:
        return self.in_found - self.right

    @property
    def precision(self) -> float | None:
        return self.right / self.in_found if self.in_found else None

    @property
    def recall(self) -> float | None:
        return self.right / self.in_gold if self.in_gold else None

    @property
    def f1(self) -> float | None:
        total = self.in_gold + self.in_found
        return 2 * self.right / total if total else None


@dataclass(frozen=True)
class SpanScores:
    """Figures overall and per type, with a 95 % interval of the overall F1."""

    overall: Figures
    types: dict[str, Figures]
    f1_low: float | None
    f1_high: float | None


def count_matches(gold: Sequence[Span], found: Sequence[Span]) -> tuple[int, int, int]:
    """(right, in gold, in found) under strict matching."""
    wanted, had = keys(gold), keys(found)
    return len(wanted & had), len(wanted), len(had)


def score_spans(
    pairs: Sequence[tuple[Sequence[Span], Sequence[Span]]],
    types: Sequence[str],
    seed: int = 7,
    rounds: int = 2000,
    groups: Sequence[Hashable] | None = None,
) -> SpanScores:
    """Score (gold, found) pairs, one pair per text. A type that occurs and is not listed is told of after those listed.

    The interval is a percentile bootstrap over groups of texts and the texts within them, because what belongs together is
    not independent; `groups` names the group of each text, and without it each is its own. It is None for fewer than two
    texts.
    """
    ledger = Ledger.aligned(pairs, types)
    counts = ledger.counts()
    by_type = {code: _figures(row) for code, row in zip(ledger.types, counts, strict=True)}
    overall = _figures(counts.sum(axis=0))
    low = high = None
    if len(pairs) > 1 and overall.f1 is not None:
        own = range(len(pairs)) if groups is None else groups
        f1 = f1_of(resampled(ledger.counts_by_text(), own, seed, rounds))
        low, high = (float(x) for x in np.percentile(f1, INTERVAL))
    return SpanScores(overall, by_type, low, high)


def _figures(counts: NDArray[np.integer]) -> Figures:
    right, missed, surplus = counts.tolist()
    return Figures(right, right + missed, right + surplus)


def outcomes(gold: Sequence[Span], found: Sequence[Span]) -> list[tuple[str, str]]:
    """Every (type, outcome) of a sentence, outcome being right, missed or surplus."""
    wanted, had = keys(gold), keys(found)
    return sorted(
        {(key[2], "right") for key in wanted & had}
        | {(key[2], "missed") for key in wanted - had}
        | {(key[2], "surplus") for key in had - wanted}
    )
