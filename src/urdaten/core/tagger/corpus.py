"""What a tagger learns from: texts with gold spans, as label columns under a coding."""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Ints
from urdaten.core.spans import Coding, Span, overlapping_pairs, span_ranges
from urdaten.core.tagger.layout import Layout, TaggerInput


@dataclass(frozen=True)
class GoldText:
    """A text with its gold spans; `item.sentences` names the sentences that were signed."""

    item: TaggerInput
    gold: Sequence[Span]
    # How much this text counts: 1 for gold, less for what only lists say.
    weight: float = 1.0
    # The types that were looked for; None means all. Of the others nothing is known.
    signed_types: frozenset[str] | None = None
    # Half-open ranges of code points that nobody has judged.
    unread: Sequence[tuple[int, int]] = ()


@dataclass(frozen=True)
class Labels:
    """Gold of a layout under one coding. gold (P,): a label, or −1 − m where only the labels of masks[m]
    are possible; weight by sentence."""

    gold: Ints
    masks: NDArray[np.bool_]
    weight: NDArray[np.float32]


def find_layers(texts: Sequence[GoldText], types: Sequence[str]) -> list[tuple[str, ...]]:
    """Types in as few layers as a greedy colouring finds, so that no two of a layer overlap anywhere.

    Spans of one type that overlap each other cannot be told apart by layers; the longer one is learnt.
    """
    clashes: dict[str, set[str]] = {code: set() for code in types}
    for text in texts:
        for one, other in overlapping_pairs(text.gold):
            if one.type in clashes and other.type in clashes and one.type != other.type:
                clashes[one.type].add(other.type)
                clashes[other.type].add(one.type)
    layers: list[list[str]] = []
    for code in types:
        home = next((layer for layer in layers if not clashes[code].intersection(layer)), None)
        if home is None:
            layers.append([code])
        else:
            home.append(code)
    return [tuple(layer) for layer in layers]


class GoldColumns:
    """All gold spans of some texts as columns, found at once: looking up each text's own would take longest of all.

    text, first token, one past the last, number of the type, by span; and whether it stands on the bounds of tokens.
    """

    def __init__(self, texts: Sequence[GoldText], types: Sequence[str]) -> None:
        number = {code: k for k, code in enumerate(types)}
        spans = [
            (k, span.start, span.end, number[span.type])
            for k, text in enumerate(texts)
            for span in text.gold
            if span.type in number
        ]
        self.text, start, end, self.kind = np.array(spans, dtype=np.int64).reshape(-1, 4).T
        analyses = [text.item.analysis for text in texts]
        # As if all bodies stood end to end.
        lengths = np.array([len(analysis.body) + 1 for analysis in analyses], dtype=np.int64)
        sizes = np.array([len(analysis) for analysis in analyses], dtype=np.int64)
        shift = np.cumsum(lengths) - lengths
        self.tokens_before = np.cumsum(sizes) - sizes
        none = [np.zeros(0, dtype=np.int32)]
        starts = np.concatenate(none + [a.start for a in analyses]) + np.repeat(shift, sizes)
        ends = np.concatenate(none + [a.end for a in analyses]) + np.repeat(shift, sizes)
        start, end = start + shift[self.text], end + shift[self.text]
        first = np.searchsorted(starts, start, side="left")
        last = np.maximum(first, np.searchsorted(ends, end, side="right"))
        held = last > first
        self.exact = held.copy()
        self.exact[held] = (starts[first[held]] == start[held]) & (ends[last[held] - 1] == end[held])
        self.first = first - self.tokens_before[self.text]
        self.last = last - self.tokens_before[self.text]

    def ranges(self, part: slice) -> Ints:
        """First token, one past the last, and type, of the spans in a part that hold a token, by first token."""
        found = np.stack([self.first[part], self.last[part], self.kind[part]], axis=1).astype(np.int32)
        found = found[found[:, 1] > found[:, 0]]
        return found[np.argsort(found[:, 0], kind="stable")]


def label_texts(texts: Sequence[GoldText], layout: Layout, coding: Coding) -> Labels:
    """Label columns of all texts, whose inputs the layout was made of."""
    gold_columns = GoldColumns(texts, coding.types)
    by_text = np.searchsorted(gold_columns.text, np.arange(len(texts) + 1))
    shift = gold_columns.tokens_before
    found: list[Ints] = [np.zeros((0, 3), dtype=np.int32)]
    for k, text in enumerate(texts):
        analysis = text.item.analysis
        ranges = gold_columns.ranges(slice(by_text[k], by_text[k + 1]))
        if (ranges[1:, 0] < ranges[:-1, 1]).any():
            ranges = np.array(span_ranges(text.gold, analysis, coding.types), dtype=np.int32).reshape(-1, 3)
        # A span over a sentence's end can be neither learnt nor found.
        ranges = ranges[analysis.sentence[ranges[:, 0]] == analysis.sentence[ranges[:, 1] - 1]]
        found.append(ranges + np.array([shift[k], shift[k], 0], dtype=np.int32))
    tokens = sum(len(text.item.analysis) for text in texts)
    first_token, past, kind = np.concatenate(found).T
    everything = coding.encode(first_token, past, kind, tokens)
    masks = [np.ones(coding.count, dtype=bool)]
    mask_number: dict[frozenset[str], int] = {}
    columns: list[Ints] = []
    weight: list[NDArray[np.float32]] = []
    for k, text in enumerate(texts):
        analysis = text.item.analysis
        labels = everything[shift[k] : shift[k] + len(analysis)]
        missing = (
            frozenset(coding.types) - text.signed_types if text.signed_types is not None else frozenset()
        )
        if missing:
            if missing not in mask_number:
                mask_number[missing] = len(masks)
                masks.append(_possible(coding, missing))
            labels[labels == coding.outside] = -1 - mask_number[missing]
        for start, end in text.unread:
            first, last = analysis.token_range(start, end)
            labels[first:last] = -1
        bounds = text.item.token_ranges()
        columns += [labels[a:b] for a, b in bounds]
        weight.append(np.full(len(bounds), text.weight, dtype=np.float32))
    gold = np.zeros(len(layout.word), dtype=np.int64)
    if columns:
        gold[layout.position] = np.concatenate(columns)
    return Labels(gold, np.stack(masks), np.concatenate([np.zeros(0, np.float32), *weight]))


def _possible(coding: Coding, types: frozenset[str]) -> NDArray[np.bool_]:
    """The labels that a token may have of which only spans of other types were signed."""
    possible = np.zeros(coding.count, dtype=bool)
    possible[coding.outside] = True
    for kind, code in enumerate(coding.types):
        if code in types:
            possible[coding.roles[kind]] = True
    return possible


class SpanKeys:
    """Gold spans of a layout as sorted whole numbers, so that found ones are counted without a loop."""

    def __init__(self, texts: Sequence[GoldText], types: Sequence[str]) -> None:
        self._number = {code: k for k, code in enumerate(types)}
        columns = GoldColumns(texts, types)
        bounds = [text.item.token_bounds() for text in texts]
        none = [np.zeros(0, dtype=np.int64)]
        sizes = np.array([len(left) for left, _ in bounds], dtype=np.int64)
        shift = np.repeat(columns.tokens_before, sizes)
        left = np.concatenate(none + [left for left, _ in bounds]) + shift
        right = np.concatenate(none + [right for _, right in bounds]) + shift
        before = np.cumsum(right - left) - (right - left)
        own = columns.tokens_before[columns.text]
        first, last = columns.first + own, columns.last + own
        at = np.searchsorted(left, first, side="right") - 1
        # In a sentence in use.
        held = (at >= 0) & (first < np.append(right, 0)[at])
        whole = held & columns.exact & (last <= np.append(right, 0)[at])
        base = (before[at] + first - left[at]) if len(left) else at
        # First tokens of those that no tagger can find: they cut a token, or run over the end of a sentence.
        self._unreachable = base[held & ~whole]
        base = base[whole]
        self.keys = np.unique(_span_key(base, base + (last - first)[whole], columns.kind[whole]))
        self._judged = _Judged.of(texts, types)

    def __len__(self) -> int:
        return len(self.keys) + len(self._unreachable)

    def before(self, tokens: int) -> SpanKeys:
        """Only those that lie within the first so many tokens."""
        kept = copy(self)
        kept.keys = self.keys[(self.keys >> 31) < tokens]
        kept._unreachable = self._unreachable[self._unreachable < tokens]
        return kept

    def is_judged(self, first: Ints, last: Ints, kind: Ints, types: Sequence[str]) -> NDArray[np.bool_]:
        """Flags: is it known whether the found span is right? Not where nobody has read, nor of types that nobody looked for."""
        own = np.array([self._number[code] for code in types], dtype=np.int64)[kind]
        return (
            np.ones(len(first), dtype=bool)
            if self._judged is None
            else self._judged.of_spans(first, last, own)
        )

    @property
    def columns(self) -> tuple[Ints, Ints, Ints]:
        """First token, one past the last, and type of the spans that can be found."""
        first = self.keys >> 31
        return first, first + ((self.keys >> 11) & (2**20 - 1)), self.keys & (2**11 - 1)

    def count_right(self, first: Ints, last: Ints, kind: Ints, types: Sequence[str]) -> int:
        """How many found spans are in gold; `kind` numbers `types`."""
        return int(self.is_right(first, last, kind, types).sum())

    def is_right(self, first: Ints, last: Ints, kind: Ints, types: Sequence[str]) -> NDArray[np.bool_]:
        """Flags: is the found span in gold?"""
        own = np.array([self._number[code] for code in types], dtype=np.int64)[kind]
        return np.isin(_span_key(first, last, own), self.keys)


@dataclass(frozen=True, eq=False)
class _Judged:
    """What has been judged of the tokens in use: unread (n_tokens + 1,) counts those before that nobody has read; `looked`
    (n_tokens,) is the row of `types` (n_rows, n_types) that flags which types were looked for at a token."""

    unread: Ints
    looked: Ints
    types: NDArray[np.bool_]

    @classmethod
    def of(cls, texts: Sequence[GoldText], types: Sequence[str]) -> _Judged | None:
        """None where everything has been judged."""
        if not any(text.unread or text.signed_types is not None for text in texts):
            return None
        row: dict[frozenset[str] | None, int] = {}
        unread: list[NDArray[np.bool_]] = []
        looked: list[Ints] = []
        for text in texts:
            analysis = text.item.analysis
            flags = np.zeros(len(analysis), dtype=bool)
            for start, end in text.unread:
                flags[slice(*analysis.token_range(start, end))] = True
            parts = [flags[a:b] for a, b in text.item.token_ranges()]
            unread += parts
            number = row.setdefault(text.signed_types, len(row))
            looked.append(np.full(sum(map(len, parts)), number, dtype=np.int64))
        return cls(
            np.append(0, np.cumsum(np.concatenate(unread))),
            np.concatenate(looked),
            np.array([[signed is None or code in signed for code in types] for signed in row]),
        )

    def of_spans(self, first: Ints, last: Ints, kind: Ints) -> NDArray[np.bool_]:
        return np.asarray((self.unread[last] == self.unread[first]) & self.types[self.looked[first], kind])


def _span_key(first: Ints, last: Ints, kind: Ints) -> Ints:
    return (first << 31) | ((last - first) << 11) | kind
