"""What rules can be made of: how gold spans of a type are written, and what stands around the places where they may be."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import groupby
from typing import TypeAlias

import numpy as np

from urdaten.core.arrays import Bools, Ints
from urdaten.core.rules import tree
from urdaten.core.rules.base import WordBase
from urdaten.core.rules.ground import Ground, runs
from urdaten.core.rules.mentions import written_name
from urdaten.core.spans import SpanTable
from urdaten.core.text import TAGS, Batch, fold

Range: TypeAlias = tuple[int, int, int]
# What is met less often says nothing.
LEAST = 3
# Of the ways in which spans of a type are written so many are tried; of their words so many are listed.
_MOST_MARKS = 14
_MOST_WORDS = 40
# Longer spans are hardly like each other.
_LONGEST = 6
# Looked at before and behind what is marked.
_REACH = (-2, -1, 1, 2)
_SHAPES: tuple[tree.Shape, ...] = ("figure", "code", "capitals", "initial", "capital", "small", "sign")


@dataclass(frozen=True)
class _Element:
    """Tokens of one kind, so many of them."""

    pattern: str
    holds: Bools = field(repr=False, compare=False)
    most: int = 1


@dataclass(frozen=True)
class Mark:
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
class Asked:
    """What may be asked of a word, and of which: so many before what is marked, counted below 0, or behind it."""

    place: int
    pattern: str


class Material:
    """The parts of rules for one type. Ranges are text, start and end in code points: `signed` of the sentences whose gold is known,
    `gold` of spans of the type in them."""

    def __init__(
        self,
        batch: Batch,
        spans: SpanTable,
        signed: Sequence[Range],
        gold: Sequence[Range],
        *,
        type: str,
        base: WordBase | None,
        lists: Sequence[str],
    ) -> None:
        """spans: those of lists, of which `lists` may be named, and of rules that there are."""
        self._batch, self._spans, self._base, self._type = batch, spans, base, type
        self._lists = lists
        self._ground = Ground(batch, spans, base)
        self._size = len(batch.word)
        # Of each token of the batch, and tokens [first, last) of each gold span, each once.
        self.signed: Bools = np.zeros(self._size, dtype=bool)
        self.signed[runs(*_tokens(batch, signed))] = True
        self.gold: Ints = np.unique(np.stack(_tokens(batch, gold), axis=1), axis=0)

    # What may be marked

    @cached_property
    def marks(self) -> list[Mark]:
        lengths = self.gold[:, 1] - self.gold[:, 0]
        short = self.gold[lengths <= _LONGEST]
        patterns: Counter[tuple[tuple[str, int], ...]] = Counter()
        for told in (self._shape_of, self._tag_of):
            if told is None:
                continue
            for a, b in short.tolist():
                patterns[tuple((name, len(list(run))) for name, run in groupby(told[a:b]))] += 1
        merged: dict[tuple[str, ...], list[int]] = {}
        for signature, count in patterns.most_common():
            if count >= LEAST:
                names = tuple(name for name, _ in signature)
                held = merged.setdefault(names, [1] * len(names))
                merged[names] = [max(most, own) for most, (_, own) in zip(held, signature, strict=True)]
        marks = [
            self._run_of(
                [_Element(name, self._holds(name), most) for name, most in zip(names, bounds, strict=True)]
            )
            for names, bounds in list(merged.items())[:_MOST_MARKS]
        ]
        marks += self._wholes()
        marks += self._words()
        return marks

    def _run_of(self, elements: Sequence[_Element]) -> Mark:
        """From wherever it may begin, as long as each element can be; within sentences and signed ones."""
        begin = np.flatnonzero(self.signed)
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
        return Mark(pattern, begin, at)

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

    def _wholes(self) -> list[Mark]:
        sources: list[tuple[str, tree.Source]] = [
            (f"list({written_name(name)})", tree.OfList((name,))) for name in self._lists
        ]
        kinds = sorted({*self._spans.types} - {self._type})
        sources += [(f"found({kind})", tree.OfFound((kind,))) for kind in kinds]
        marks = []
        for pattern, source in sources:
            held = self._ground.spans(source)
            kept = self.signed[held.first]
            marks.append(Mark(pattern, held.first[kept].astype(np.int64), held.last[kept].astype(np.int64)))
        return marks

    def _words(self) -> list[Mark]:
        """Words that hardly are anything else, together."""
        forms = self._batch.vocabulary.forms
        alone = self.gold[self.gold[:, 1] - self.gold[:, 0] == 1, 0]
        folds = np.array([fold(forms[k]) for k in self._batch.word.tolist()], dtype=object)
        right = Counter(folds[alone].tolist())
        every = Counter(folds[self.signed].tolist())
        sure = [word for word, count in right.most_common() if count >= 2 and count >= 0.9 * every[word]]
        if not sure:
            return []
        listed = sure[:_MOST_WORDS]
        at = np.flatnonzero(np.isin(folds.astype(str), listed) & self.signed)
        pattern = ", ".join(_letters(word) for word in listed)
        return [Mark(f"({pattern})" if len(listed) > 1 else pattern, at, at + 1)]

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
    def asked(self) -> list[Asked]:
        return [Asked(place, name) for place in _REACH for column in self._columns for name in column.names]

    def surroundings(self, mark: Mark) -> tuple[Ints, Ints]:
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


def _letters(word: str) -> str:
    return "'" + word.replace("\\", "\\\\").replace("'", "\\'") + "'"
