"""Rules offered from gold: what is common to spans of a type and to the words around them.

Sequential covering (Fürnkranz 1999, Separate-and-conquer rule learning): again and again the rule that finds most of what is
not found yet, as far as it is right, is taken. A rule is what may be marked, as signatures of gold spans say it, and up to three
words of its surroundings, added one by one along a beam.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from urdaten.core.arrays import Bools, Ints
from urdaten.core.rules.base import WordBase
from urdaten.core.rules.many import match_rules
from urdaten.core.rules.material import LEAST, Mark, Material, Range
from urdaten.core.rules.rule import Rule
from urdaten.core.spans import SpanTable
from urdaten.core.text import Batch

# What one wrong find costs in right ones.
_WRONG = 3.0
# The share of finds that has to be right, counted with one of each more.
_PRECISION = 0.8
_BEAM = 24
_MOST_SURROUNDINGS = 3


@dataclass(frozen=True)
class Offer:
    """A pattern with what it finds in signed sentences: right and wrong spans, and those among the right ones that neither rules
    that there are nor offers before it find."""

    pattern: str
    right: int
    wrong: int
    adds: int


class Offers:
    """What gold has in common. Ranges are text, start and end in code points: `signed` of the sentences whose gold is known, `gold`
    of spans of one type in them."""

    def __init__(
        self,
        batch: Batch,
        spans: SpanTable,
        signed: Sequence[Range],
        gold: Sequence[Range],
        *,
        type: str,
        base: WordBase | None = None,
        lists: Sequence[str] = (),
    ) -> None:
        """spans: those of lists, of which `lists` may be named, and of rules that there are."""
        self._batch, self._spans, self._base, self._type = batch, spans, base, type
        self._made_of = Material(batch, spans, signed, gold, type=type, base=base, lists=lists)

    def found(self, most: int) -> Iterator[Offer]:
        """Up to so many rules, the one that adds most first; each is sought when it is asked for."""
        if not len(self._made_of.gold):
            return
        keys = self._keys(self._made_of.gold[:, 0], self._made_of.gold[:, 1])
        covered = np.isin(keys, self._keys(*self._by_rules))
        tried: set[str] = set()
        offered = 0
        while offered < most:
            best = self._best(keys, covered, tried)
            if best is None:
                return
            tried.add(best)
            told = self._told(best, keys, covered)
            if told is None:
                continue
            offer, finds = told
            covered |= finds
            offered += 1
            yield offer

    @cached_property
    def _by_rules(self) -> tuple[Ints, Ints]:
        """What rules that there are find of the type."""
        rules = self._spans.of_sources(("rules",))
        number = [k for k, name in enumerate(rules.types) if name == self._type]
        own = rules.at(np.isin(rules.type, number))
        return self._batch.token_ranges(own.text, own.start, own.end)

    def _keys(self, first: Ints, last: Ints) -> Ints:
        return np.asarray(first, dtype=np.int64) * (len(self._batch.word) + 1) + last

    def _told(self, pattern: str, keys: Ints, covered: Bools) -> tuple[Offer, Bools] | None:
        """What a rule really finds; None where that is too little or too often wrong."""
        rule = Rule(name="offer", type=self._type, text=pattern).compiled(None, self._base)
        (finds,) = match_rules([rule], self._batch, self._spans)
        first, last = finds.first, finds.last
        judged = self._made_of.signed[first]
        hit = np.isin(keys, self._keys(first[judged], last[judged]))
        right, wrong = int(hit.sum()), int(judged.sum() - hit.sum())
        adds = int((hit & ~covered).sum())
        if adds < LEAST or (right + 1) / (right + wrong + 2) < _PRECISION:
            return None
        return Offer(pattern, right, wrong, adds), hit

    # The search

    def _best(self, keys: Ints, covered: Bools, tried: set[str]) -> str | None:
        best, most = None, 0.0
        for mark, around in self._marks_around:
            worth = self._worth(mark, keys, covered)
            for pattern, value in self._along(mark, around, *worth):
                if value > most and pattern not in tried:
                    best, most = pattern, value
        return best

    def _worth(self, mark: Mark, keys: Ints, covered: Bools) -> tuple[Bools, Bools]:
        """Of each place where a mark may be: is it gold, and gold that is not found yet?"""
        own = self._keys(mark.first, mark.last)
        return np.isin(own, keys), np.isin(own, keys[~covered])

    @cached_property
    def _marks_around(self) -> list[tuple[Mark, tuple[Ints, Ints]]]:
        return [(mark, self._made_of.surroundings(mark)) for mark in self._made_of.marks if len(mark.first)]

    def _along(
        self, mark: Mark, around: tuple[Ints, Ints], right: Bools, new: Bools
    ) -> Iterator[tuple[str, float]]:
        """Rules with a mark, and what each is worth."""
        yield from _valued(f"[ {mark.pattern} ]", np.ones(len(right), bool), right, new)
        row, feature = around
        beam: list[tuple[float, tuple[int, ...], Bools]] = [(0.0, (), np.ones(len(right), dtype=bool))]
        seen: set[tuple[int, ...]] = set()
        for _ in range(_MOST_SURROUNDINGS):
            grown: list[tuple[float, tuple[int, ...], Bools]] = []
            for _, asked, holds in beam:
                places = {self._made_of.asked[k].place for k in asked}
                in_use = holds[row]
                found, own = feature[in_use], row[in_use]
                count = np.bincount(found, minlength=len(self._made_of.asked))
                hits = np.bincount(found, weights=new[own], minlength=len(self._made_of.asked))
                wrong = np.bincount(found, weights=~right[own], minlength=len(self._made_of.asked))
                value = hits - _WRONG * wrong
                # What is wrong still may be parted off by another word.
                promising = np.flatnonzero((hits >= LEAST) & (count < holds.sum()))
                order = promising[np.argsort(-(hits - wrong / 2)[promising], kind="stable")]
                for k in order.tolist()[:_BEAM]:
                    both = tuple(sorted((*asked, k)))
                    if self._made_of.asked[k].place in places or both in seen:
                        continue
                    seen.add(both)
                    kept = holds & self._has(k, row, feature, len(right))
                    grown.append((float(hits[k] - wrong[k] / 2), both, kept))
                    if value[k] > 0:
                        yield from _valued(self._written(mark, both), kept, right, new)
            beam = sorted(grown, key=lambda one: (-one[0], one[1]))[:_BEAM]
            if not beam:
                return

    def _has(self, wanted: int, row: Ints, feature: Ints, size: int) -> Bools:
        held = np.zeros(size, dtype=bool)
        held[row[feature == wanted]] = True
        return held

    def _written(self, mark: Mark, asked: Sequence[int]) -> str:
        at = {self._made_of.asked[k].place: self._made_of.asked[k].pattern for k in asked}
        before = [at.get(place, "any") for place in (-2, -1)]
        behind = [at.get(place, "any") for place in (1, 2)]
        while before and before[0] == "any":
            before.pop(0)
        while behind and behind[-1] == "any":
            behind.pop()
        return " ".join([*before, "[", mark.pattern, "]", *behind])


def _valued(pattern: str, holds: Bools, right: Bools, new: Bools) -> Iterator[tuple[str, float]]:
    hits, all_right = int((holds & new).sum()), int((holds & right).sum())
    wrong = int(holds.sum()) - all_right
    if hits >= LEAST and (all_right + 1) / (all_right + wrong + 2) >= _PRECISION:
        yield pattern, hits - _WRONG * wrong
