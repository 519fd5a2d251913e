"""Rules offered from gold: what is common to spans of a type and to the words around them.

Sequential covering (Fürnkranz 1999, Separate-and-conquer rule learning): again and again the rule that finds most of what is
not found yet, as far as it is right, is taken. A rule is what may be marked, as signatures of gold spans say it, and up to three
words of its surroundings, added one by one along a beam.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import groupby
from typing import TypeAlias

import numpy as np

from urdaten.core.arrays import Bools, Ints
from urdaten.core.rules import tree
from urdaten.core.rules.base import WordBase
from urdaten.core.rules.ground import Ground, runs
from urdaten.core.rules.many import match_rules
from urdaten.core.rules.rule import Rule
from urdaten.core.spans import SpanTable
from urdaten.core.text import TAGS, Batch, fold

Range: TypeAlias = tuple[int, int, int]
# What one wrong find costs in right ones.
_WRONG = 3.0
# A rule that adds fewer is not offered.
LEAST = 3
# The share of finds that has to be right, counted with one of each more.
_PRECISION = 0.8
_BEAM = 24
_MOST_SURROUNDINGS = 3
# Of the ways in which spans of a type are written so many are tried; of their words so many are listed.
_MOST_MARKS = 14
_MOST_WORDS = 40
# Longer spans are hardly like each other.
_LONGEST = 6
# Looked at before and behind what is marked.
_REACH = (-2, -1, 1, 2)
_SHAPES: tuple[tree.Shape, ...] = ("figure", "code", "capitals", "initial", "capital", "small", "sign")


@dataclass(frozen=True)
class Offer:
    """A pattern with what it finds in signed sentences: right and wrong spans, and those among the right ones that neither rules
    that there are nor offers before it find."""

    pattern: str
    right: int
    wrong: int
    adds: int


@dataclass(frozen=True)
class _Element:
    """Tokens of one kind, so many of them."""

    pattern: str
    holds: Bools = field(repr=False, compare=False)
    most: int = 1


@dataclass(frozen=True)
class _Mark:
    """What may be marked: elements one behind the other; `first` and `last` are the tokens of what they match, from wherever it
    may begin."""

    pattern: str
    first: Ints = field(repr=False, compare=False)
    last: Ints = field(repr=False, compare=False)


@dataclass(frozen=True)
class _Column:
    """What may be asked of one token: names, of each token the number of its own, -1 for none, and whether before what is
    marked (-1), behind it (1) or both."""

    names: list[str]
    number: Ints = field(repr=False, compare=False)
    sides: tuple[int, ...] = (-1, 1)


@dataclass(frozen=True)
class _Found:
    """Where something may be asked for and what: a place of _REACH, and a pattern."""

    place: int
    pattern: str


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
        self._lists = lists
        self._ground = Ground(batch, spans, base)
        self._size = len(batch.word)
        self._signed = np.zeros(self._size, dtype=bool)
        self._signed[runs(*_tokens(batch, signed))] = True
        self._gold = np.unique(np.stack(_tokens(batch, gold), axis=1), axis=0)

    def found(self, most: int) -> Iterator[Offer]:
        """Up to so many rules, the one that adds most first; each is sought when it is asked for."""
        if not len(self._gold):
            return
        keys = self._keys(self._gold[:, 0], self._gold[:, 1])
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
        return np.asarray(first, dtype=np.int64) * (self._size + 1) + last

    def _told(self, pattern: str, keys: Ints, covered: Bools) -> tuple[Offer, Bools] | None:
        """What a rule really finds; None where that is too little or too often wrong."""
        rule = Rule(name="offer", type=self._type, text=pattern).compiled(None, self._base)
        (finds,) = match_rules([rule], self._batch, self._spans)
        first, last = finds.first, finds.last
        judged = self._signed[first]
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

    def _worth(self, mark: _Mark, keys: Ints, covered: Bools) -> tuple[Bools, Bools]:
        """Of each place where a mark may be: is it gold, and gold that is not found yet?"""
        own = self._keys(mark.first, mark.last)
        return np.isin(own, keys), np.isin(own, keys[~covered])

    @cached_property
    def _marks_around(self) -> list[tuple[_Mark, tuple[Ints, Ints]]]:
        return [(mark, self._surroundings(mark)) for mark in self._marks if len(mark.first)]

    def _along(
        self, mark: _Mark, around: tuple[Ints, Ints], right: Bools, new: Bools
    ) -> Iterator[tuple[str, float]]:
        """Rules with a mark, and what each is worth."""
        yield from _valued(f"[ {mark.pattern} ]", np.ones(len(right), bool), right, new)
        row, feature = around
        beam: list[tuple[float, tuple[int, ...], Bools]] = [(0.0, (), np.ones(len(right), dtype=bool))]
        seen: set[tuple[int, ...]] = set()
        for _ in range(_MOST_SURROUNDINGS):
            grown: list[tuple[float, tuple[int, ...], Bools]] = []
            for _, asked, holds in beam:
                places = {self._features[k].place for k in asked}
                in_use = holds[row]
                found, own = feature[in_use], row[in_use]
                count = np.bincount(found, minlength=len(self._features))
                hits = np.bincount(found, weights=new[own], minlength=len(self._features))
                wrong = np.bincount(found, weights=~right[own], minlength=len(self._features))
                value = hits - _WRONG * wrong
                # What is wrong still may be parted off by another word.
                promising = np.flatnonzero((hits >= LEAST) & (count < holds.sum()))
                order = promising[np.argsort(-(hits - wrong / 2)[promising], kind="stable")]
                for k in order.tolist()[:_BEAM]:
                    both = tuple(sorted((*asked, k)))
                    if self._features[k].place in places or both in seen:
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

    def _written(self, mark: _Mark, asked: Sequence[int]) -> str:
        at = {self._features[k].place: self._features[k].pattern for k in asked}
        before = [at.get(place, "any") for place in (-2, -1)]
        behind = [at.get(place, "any") for place in (1, 2)]
        while before and before[0] == "any":
            before.pop(0)
        while behind and behind[-1] == "any":
            behind.pop()
        return " ".join([*before, "[", mark.pattern, "]", *behind])

    # What may be marked

    @cached_property
    def _marks(self) -> list[_Mark]:
        lengths = self._gold[:, 1] - self._gold[:, 0]
        short = self._gold[lengths <= _LONGEST]
        patterns: Counter[tuple[tuple[str, int], ...]] = Counter()
        for told in (self._shape_of, self._tag_of):
            if told is None:
                continue
            for a, b in short.tolist():
                runs = [(name, len(list(run))) for name, run in groupby(told[a:b])]
                patterns[tuple(runs)] += 1
        merged: dict[tuple[str, ...], list[int]] = {}
        for runs_of, count in patterns.most_common():
            if count >= LEAST:
                names = tuple(name for name, _ in runs_of)
                held = merged.setdefault(names, [1] * len(names))
                merged[names] = [max(most, own) for most, (_, own) in zip(held, runs_of, strict=True)]
        marks = [
            self._run_of(
                [_Element(name, self._holds(name), most) for name, most in zip(names, bounds, strict=True)]
            )
            for names, bounds in list(merged.items())[:_MOST_MARKS]
        ]
        marks += self._wholes()
        marks += self._words()
        return marks

    def _run_of(self, elements: Sequence[_Element]) -> _Mark:
        """From wherever it may begin, as long as each element can be; within sentences and signed ones."""
        begin = np.flatnonzero(self._signed)
        at = begin.copy()
        for element in elements:
            reach = np.minimum(self._run_length(element.holds)[at], element.most)
            kept = reach > 0
            begin, at = begin[kept], at[kept] + reach[kept]
            at = np.minimum(at, self._size)
            inside = at < self._size
            if element is not elements[-1]:
                begin, at = begin[inside], at[inside]
                same = self._batch.sentence[begin] == self._batch.sentence[at]
                begin, at = begin[same], at[same]
        pattern = " ".join(
            one.pattern if one.most == 1 else f"1 to {one.most} {one.pattern}" for one in elements
        )
        return _Mark(pattern, begin, at)

    def _run_length(self, holds: Bools) -> Ints:
        """From each token how many from it on hold, within its sentence; shape (n_tokens + 1,)."""
        size = self._size
        ends = np.ones(size + 1, dtype=bool)
        ends[:size] = ~holds
        turns = np.flatnonzero(np.diff(self._batch.sentence)) + 1
        stop = np.where(ends, np.arange(size + 1), size)
        stop = np.minimum.accumulate(stop[::-1])[::-1]
        if len(turns):
            follows = np.searchsorted(turns, np.arange(size + 1), side="right")
            stop = np.minimum(stop, np.append(turns, size)[follows])
        length: Ints = np.maximum(0, stop - np.arange(size + 1))
        return length

    def _wholes(self) -> list[_Mark]:
        sources: list[tuple[str, tree.Source]] = [
            (f"list({_quoted(name)})", tree.OfList((name,))) for name in self._lists
        ]
        kinds = sorted({*self._spans.types} - {self._type})
        sources += [(f"found({kind})", tree.OfFound((kind,))) for kind in kinds]
        marks = []
        for pattern, source in sources:
            held = self._ground.spans(source)
            kept = self._signed[held.first]
            marks.append(_Mark(pattern, held.first[kept].astype(np.int64), held.last[kept].astype(np.int64)))
        return marks

    def _words(self) -> list[_Mark]:
        """Words that hardly are anything else, together."""
        forms = self._batch.vocabulary.forms
        alone = self._gold[self._gold[:, 1] - self._gold[:, 0] == 1, 0]
        folds = np.array([fold(forms[k]) for k in self._batch.word.tolist()], dtype=object)
        right = Counter(folds[alone].tolist())
        every = Counter(folds[self._signed].tolist())
        sure = [word for word, count in right.most_common() if count >= 2 and count >= 0.9 * every[word]]
        if not sure:
            return []
        listed = sure[:_MOST_WORDS]
        at = np.flatnonzero(np.isin(folds.astype(str), listed) & self._signed)
        pattern = ", ".join(_letters(word) for word in listed)
        return [_Mark(f"({pattern})" if len(listed) > 1 else pattern, at, at + 1)]

    # What is asked of words

    @cached_property
    def _shape_of(self) -> list[str]:
        told = np.full(self._size, "any", dtype=object)
        for shape in reversed(_SHAPES):
            told[self._holds(shape)] = shape
        return list(told)

    @cached_property
    def _tag_of(self) -> list[str] | None:
        if self._base is None:
            return None
        return [f"tag({TAGS[k]})" for k in self._base.tags(self._batch).tolist()]

    def _holds(self, pattern: str) -> Bools:
        every = np.arange(self._size)
        if pattern == "any":
            return np.ones(self._size, dtype=bool)
        if pattern.startswith("tag("):
            return self._ground.ask(tree.Within("part", tree.OfTag((pattern[4:-1],))), every)
        return self._ground.ask(tree.OfShape(pattern), every)  # type: ignore[arg-type]

    @cached_property
    def _columns(self) -> list[_Column]:
        forms = self._batch.vocabulary.forms
        letters = [_letters(fold(form)) for form in forms]
        columns = [
            self._numbered([letters[k] for k in self._batch.word.tolist()]),
            self._numbered(self._shape_of),
        ]
        if self._tag_of is not None:
            columns.append(self._numbered(self._tag_of))
        for kind in sorted(self._spans.types):
            held = self._ground.spans(tree.OfFound((kind,)))
            # Of a span the last word stands before what is marked, and the first behind it.
            for name, at, side in (("last", held.last - 1, -1), ("first", held.first, 1)):
                number = np.full(self._size, -1, dtype=np.int64)
                number[at] = 0
                columns.append(_Column([f"{name} of found({kind})"], number, (side,)))
        return columns

    def _numbered(self, told: Sequence[str]) -> _Column:
        """Those that are told of often enough."""
        counts = Counter(told)
        names = [name for name, count in counts.items() if count >= LEAST and name != "any"]
        place = {name: k for k, name in enumerate(names)}
        return _Column(names, np.array([place.get(one, -1) for one in told], dtype=np.int64))

    @cached_property
    def _features(self) -> list[_Found]:
        return [_Found(place, name) for place in _REACH for column in self._columns for name in column.names]

    def _surroundings(self, mark: _Mark) -> tuple[Ints, Ints]:
        """What may be asked around each place of a mark: rows, ascending, and numbers of features."""
        rows, features = [], []
        shift = 0
        size = len(mark.first)
        for place in _REACH:
            at = mark.first + place if place < 0 else mark.last + place - 1
            inside = (at >= 0) & (at < self._size)
            inside[inside] = self._batch.sentence[at[inside]] == self._batch.sentence[mark.first[inside]]
            for column in self._columns:
                if np.sign(place) in column.sides:
                    number = np.full(size, -1, dtype=np.int64)
                    number[inside] = column.number[at[inside]]
                    held = np.flatnonzero(number >= 0)
                    rows.append(held)
                    features.append(number[held] + shift)
                shift += len(column.names)
        row, feature = np.concatenate(rows), np.concatenate(features)
        order = np.argsort(row, kind="stable")
        return row[order], feature[order]


def _tokens(batch: Batch, ranges: Sequence[Range]) -> tuple[Ints, Ints]:
    """First token, and one past the last, of those that hold any."""
    first, last = batch.token_ranges(*np.array(ranges, dtype=np.int64).reshape(-1, 3).T)
    held = last > first
    return first[held], last[held]


def _valued(pattern: str, holds: Bools, right: Bools, new: Bools) -> Iterator[tuple[str, float]]:
    hits, all_right = int((holds & new).sum()), int((holds & right).sum())
    wrong = int(holds.sum()) - all_right
    if hits >= LEAST and (all_right + 1) / (all_right + wrong + 2) >= _PRECISION:
        yield pattern, hits - _WRONG * wrong


def _letters(word: str) -> str:
    return "'" + word.replace("\\", "\\\\").replace("'", "\\'") + "'"


def _quoted(name: str) -> str:
    if set(name) & set('(),"#') or name != " ".join(name.split()):
        return '"' + name.replace("\\", "\\\\").replace('"', '\\"') + '"'
    return name
