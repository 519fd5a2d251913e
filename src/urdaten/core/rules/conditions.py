"""Conditions: what has to stand, or must not, around what a rule marks."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Bools, Ints
from urdaten.core.rules import tree
from urdaten.core.rules.ground import Ground, runs
from urdaten.core.rules.rule import CompiledCondition, CompiledStands
from urdaten.core.text import fold

# Of a compiled pattern and some sentences (None for all): of each token of the batch whether a match begins there, and whether
# one ends with it.
Rows = Callable[[CompiledStands, Ints | None], tuple[Bools, Bools]]


def holding(condition: CompiledCondition, ground: Ground, first: Ints, last: Ints, rows: Rows) -> Bools:
    """Where a condition holds, for what is marked from the tokens `first` up to `last`."""
    match condition.what:
        case CompiledStands() as stands:
            met = _stands(stands, ground, first, last, rows)
        case tree.Inside(source, longer):
            met = _inside(ground, source, first, last, longer=longer)
        case tree.Repeats(part, source, where):
            met = _repeats(ground, part, source, where, first, last)
    return ~met if condition.negated else met


def _bounds(ground: Ground, scope: tree.Scope, tokens: Ints) -> tuple[Ints, Ints]:
    """First token of the sentence or text of each of these, and one past its last."""
    if scope == "text":
        text = ground.batch.text[tokens]
        return ground.batch.first[text], ground.batch.first[text + 1]
    sentence = ground.sentence_of[tokens]
    return ground.sentence_first[sentence], ground.sentence_first[sentence + 1]


def _window(
    ground: Ground, where: tree.Window, first: Ints, last: Ints
) -> tuple[tuple[Ints, Ints], tuple[Ints, Ints]]:
    """Tokens before and behind each of what is marked that a condition looks at."""
    low, _ = _bounds(ground, where.scope, first)
    _, high = _bounds(ground, where.scope, last - 1)
    if where.tokens is not None:
        low, high = np.maximum(low, first - where.tokens), np.minimum(high, last + where.tokens)
    before = (first if where.side == "after" else low), first
    after = last, (last if where.side == "before" else high)
    return before, after


def _stands(stands: CompiledStands, ground: Ground, first: Ints, last: Ints, rows: Rows) -> Bools:
    where = stands.where
    (low, first), (last, high) = _window(ground, where, first, last)
    begins, ends = rows(stands, _sentences(ground, where, first))
    return (_any(ends, low, first)) | (_any(begins, last, high))


def _sentences(ground: Ground, where: tree.Window, first: Ints) -> Ints | None:
    """Those that a condition looks at."""
    if where.scope == "sentence":
        return np.unique(ground.sentence_of[first])
    texts = np.unique(ground.batch.text[first])
    begin = ground.sentence_of[ground.batch.first[texts]]
    end = ground.sentence_of[ground.batch.first[texts + 1] - 1] + 1
    return runs(begin, end)


def _any(held: Bools, low: Ints, high: Ints) -> Bools:
    """Does any of the tokens [low, high) hold?"""
    total = np.concatenate([[0], np.cumsum(held)])
    return np.asarray(total[high] > total[low])


def _inside(ground: Ground, source: tree.Source, first: Ints, last: Ints, *, longer: bool) -> Bools:
    spans = ground.spans(source)
    at = np.searchsorted(spans.first, first, side="right") - 1
    known = at >= 0
    begin, end = np.append(spans.first, 0)[at], np.append(spans.last, 0)[at]
    same = (begin == first) & (end == last)
    return np.asarray(known & (last <= end) & ~(longer & same))


def _repeats(
    ground: Ground, part: tree.Part | None, source: tree.Source, where: tree.Window, first: Ints, last: Ints
) -> Bools:
    spans = ground.spans(source)
    _, word = ground.batch.vocabulary.image(fold)
    words = word[ground.batch.word]
    (low, first), (last, high) = _window(ground, where, first, last)
    starts: dict[tuple[int, ...], list[int]] = {}
    ends: dict[tuple[int, ...], list[int]] = {}
    for a, b in zip(spans.first.tolist(), spans.last.tolist(), strict=True):
        for key in _keys(part, words[a:b]):
            starts.setdefault(key, []).append(a)
            ends.setdefault(key, []).append(b)
    met = np.zeros(len(first), dtype=bool)
    for k, (a, b) in enumerate(zip(first.tolist(), last.tolist(), strict=True)):
        key = tuple(words[a:b].tolist())
        if key in starts:
            begin, end = np.array(starts[key]), np.array(ends[key])
            met[k] = _lies(begin, end, low[k], a) or _lies(begin, end, b, high[k])
    return met


def _keys(part: tree.Part | None, words: NDArray[np.integer]) -> set[tuple[int, ...]]:
    own = words.tolist()
    if part is None:
        return {tuple(own)}
    chosen = {"first": own[:1], "last": own[-1:], "part": own}[part]
    return {(word,) for word in chosen}


def _lies(begin: Ints, end: Ints, low: int, high: int) -> bool:
    return bool(((begin >= low) & (end <= high)).any())
