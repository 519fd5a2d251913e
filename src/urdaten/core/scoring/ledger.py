"""The ledger of a scoring: every span that gold or a source has, with what became of it."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from urdaten.core.spans import Span

Ints = NDArray[np.int64]
RIGHT, MISSED, SURPLUS = range(3)
# Weights of so many groups are held at once while they are drawn.
_AT_ONCE = 2_000_000


@dataclass(frozen=True, eq=False)
class Ledger:
    """One row per span, of those that differ in start, end or type: int64 columns of shape (n_spans,).

    text numbers the texts, type numbers `types`; outcome is RIGHT for a span that gold and the source have, MISSED for one
    of gold alone, SURPLUS for one of the source alone.
    """

    text: Ints
    type: Ints
    outcome: Ints
    types: tuple[str, ...]
    texts: int

    @classmethod
    def aligned(cls, pairs: Sequence[tuple[Sequence[Span], Sequence[Span]]], types: Sequence[str]) -> Ledger:
        """Of (gold, found) by text. The types come first as they are given, then others that occur, by code."""
        rows: list[tuple[int, str, int]] = []
        for number, (gold, found) in enumerate(pairs):
            wanted, had = keys(gold), keys(found)
            rows += [(number, key[2], RIGHT) for key in wanted & had]
            rows += [(number, key[2], MISSED) for key in wanted - had]
            rows += [(number, key[2], SURPLUS) for key in had - wanted]
        known = dict.fromkeys(types) | dict.fromkeys(sorted({code for _, code, _ in rows}))
        place = {code: k for k, code in enumerate(known)}
        columns = np.array([(n, place[code], outcome) for n, code, outcome in rows], dtype=np.int64)
        text, kind, outcome = columns.reshape(-1, 3).T
        return cls(text, kind, outcome, tuple(known), len(pairs))

    def counts(self) -> Ints:
        """How many spans of each type have each outcome: shape (n_types, 3)."""
        return np.bincount(self.type * 3 + self.outcome, minlength=len(self.types) * 3).reshape(-1, 3)

    def counts_by(self, groups: Sequence[Hashable]) -> Ints:
        """How many spans of each group of texts have each outcome, given the group of each text: shape (n_groups, 3)."""
        place: dict[Hashable, int] = {}
        own = np.array([place.setdefault(group, len(place)) for group in groups], dtype=np.int64)
        kind = own[self.text] * 3 + self.outcome
        return np.bincount(kind, minlength=len(place) * 3).reshape(-1, 3)


def keys(spans: Sequence[Span]) -> set[tuple[int, int, str]]:
    """What spans are compared by."""
    return {(span.start, span.end, span.type) for span in spans}


def f1_of(counts: NDArray[np.integer]) -> NDArray[np.float64]:
    """F1 of rows of counts by outcome, 0 where there is nothing: shape (n,) from (n, 3)."""
    right, missed, surplus = np.moveaxis(counts, -1, 0)
    return np.asarray(2 * right / np.maximum(2 * right + missed + surplus, 1))


def resampled(counts: Ints, seed: int, rounds: int) -> Ints:
    """Counts over as many groups as there are, drawn with replacement, once a round: shape (rounds, 3) from (n_groups, 3).

    The bootstrap of Efron (1979), with groups as what is drawn.
    """
    random = np.random.default_rng(seed)
    size = len(counts)
    drawn: list[Ints] = []
    for first in range(0, rounds, max(1, _AT_ONCE // size)):
        some = min(rounds - first, max(1, _AT_ONCE // size))
        chosen = random.integers(0, size, size=(some, size)) + np.arange(some)[:, None] * size
        weight = np.bincount(chosen.ravel(), minlength=some * size).reshape(some, size)
        drawn.append(weight @ counts)
    return np.concatenate(drawn)
