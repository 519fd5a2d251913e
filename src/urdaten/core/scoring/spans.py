"""Strict span scores: a found span is right when start, end and type are those of a gold span."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from urdaten.core.spans.span import Span


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


def _keys(spans: Sequence[Span]) -> set[tuple[int, int, str]]:
    return {(span.start, span.end, span.type) for span in spans}


def count_matches(gold: Sequence[Span], found: Sequence[Span]) -> tuple[int, int, int]:
    """(right, in gold, in found) under strict matching."""
    wanted, had = _keys(gold), _keys(found)
    return len(wanted & had), len(wanted), len(had)


def score_spans(
    groups: Sequence[tuple[Sequence[Span], Sequence[Span]]],
    types: Sequence[str],
    seed: int = 7,
    rounds: int = 2000,
) -> SpanScores:
    """Score (gold, found) pairs, one pair per text.

    The interval is a percentile bootstrap over texts (Efron 1979), because spans of one text are not
    independent; it is None when there are fewer than two texts.
    """
    counts = np.zeros((len(groups), len(types), 3), dtype=np.int64)
    for g, (gold, found) in enumerate(groups):
        for k, code in enumerate(types):
            counts[g, k] = count_matches(
                [s for s in gold if s.type == code], [s for s in found if s.type == code]
            )
    by_type = {code: Figures(*map(int, counts[:, k].sum(axis=0))) for k, code in enumerate(types)}
    per_text = counts.sum(axis=1)
    overall = Figures(*map(int, per_text.sum(axis=0)))
    low = high = None
    if len(groups) > 1 and overall.f1 is not None:
        drawn = np.random.default_rng(seed).integers(0, len(groups), size=(rounds, len(groups)))
        right, in_gold, in_found = np.moveaxis(per_text[drawn].sum(axis=1), 1, 0)
        f1 = 2 * right / np.maximum(in_gold + in_found, 1)
        low, high = (float(x) for x in np.percentile(f1, [2.5, 97.5]))
    return SpanScores(overall, by_type, low, high)


def outcomes(gold: Sequence[Span], found: Sequence[Span]) -> list[tuple[str, str]]:
    """Every (type, outcome) of a sentence, outcome being right, missed or surplus."""
    wanted, had = _keys(gold), _keys(found)
    return sorted(
        {(key[2], "right") for key in wanted & had}
        | {(key[2], "missed") for key in wanted - had}
        | {(key[2], "surplus") for key in had - wanted}
    )
