"""The ledger of a scoring: every span that gold or a source has, with what became of it."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.spans import Span

RIGHT, MISSED, SURPLUS = range(3)
# So many draws of groups are held at once.
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

    def counts_by_text(self) -> Ints:
        """How many spans of each text have each outcome: shape (n_texts, 3)."""
        return np.bincount(self.text * 3 + self.outcome, minlength=self.texts * 3).reshape(-1, 3)


def keys(spans: Sequence[Span]) -> set[tuple[int, int, str]]:
    """What spans are compared by."""
    return {(span.start, span.end, span.type) for span in spans}


def f1_of(counts: NDArray[np.integer]) -> NDArray[np.float64]:
    """F1 of rows of counts by outcome, 0 where there is nothing: shape (n,) from (n, 3)."""
    right, missed, surplus = np.moveaxis(counts, -1, 0)
    return np.asarray(2 * right / np.maximum(2 * right + missed + surplus, 1))


def resampled(counts: Ints, groups: Sequence[Hashable], seed: int, rounds: int) -> Ints:
    """Counts of as many groups of texts as there are, drawn with replacement, and of as many texts within each, drawn with
    replacement too; once a round: shape (rounds, 3) from (n_texts, 3).

    The bootstrap of Efron (1979) in two stages, for texts that belong together (Davison and Hinkley 1997, 3.8); where every
    text is a group of its own it is the plain one over texts, and where all are of one group too.
    """
    random = np.random.default_rng(seed)
    members: dict[Hashable, list[int]] = {}
    for text, group in enumerate(groups):
        members.setdefault(group, []).append(text)
    own = [counts[held] for held in members.values()]
    drawn: list[Ints] = []
    for first in range(0, rounds, max(1, _AT_ONCE // len(own))):
        some = min(rounds - first, max(1, _AT_ONCE // len(own)))
        times = random.multinomial(len(own), [1 / len(own)] * len(own), size=some)
        total = np.zeros((some, 3), dtype=np.int64)
        for number, texts in enumerate(own):
            weight = times[:, number, None]
            if len(texts) > 1:
                weight = random.multinomial(times[:, number] * len(texts), [1 / len(texts)] * len(texts))
            total += weight @ texts
        drawn.append(total)
    return np.concatenate(drawn)
