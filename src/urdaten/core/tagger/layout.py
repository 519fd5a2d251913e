"""Sentences laid end to end as columns, with what stands between them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from urdaten.core.spans import Span
from urdaten.core.tagger.kernels.scores import WINDOW
from urdaten.core.text import Analysis

Ints = NDArray[np.int64]
# So many lists and rules are told apart: each has features for every type.
MOST_MAKERS = 80


@dataclass(frozen=True)
class TaggerInput:
    """One analysed text with the evidence that lists and rules give, and the sentences to use."""

    analysis: Analysis
    evidence: Sequence[Span]
    # Numbers of the sentences to use, ascending; None means all.
    sentences: Sequence[int] | None = None
    # Texts of one group are of one matter: what is found in one says something of the others. None is a group of its own.
    group: str | None = None

    def token_ranges(self) -> list[tuple[int, int]]:
        """First token and one past the last for each sentence in use."""
        left, right = self.token_bounds()
        return list(zip(left.tolist(), right.tolist(), strict=True))

    def token_bounds(self) -> tuple[Ints, Ints]:
        """As token_ranges, as two columns."""
        column = self.analysis.sentence
        if self.sentences is None:
            left = np.flatnonzero(np.diff(column, prepend=-1))
            return left, np.append(left[1:], len(column)) if len(left) else left
        left = np.searchsorted(column, np.asarray(self.sentences, dtype=np.int64), side="left")
        right = np.searchsorted(column, np.asarray(self.sentences, dtype=np.int64), side="right")
        held = right > left
        return left[held], right[held]


@dataclass(frozen=True)
class Layout:
    """Columns over positions: WINDOW positions of padding before each sentence and after the last one.

    word and text (P,) by position: row of the lexicon, 0 for padding, and number of the text. position
    (n_tokens,) lists the real ones in order. first and length (S,) give each sentence's first position
    and its number of tokens. Evidence hits: positions, and (source · n_types + type) · 2 + (0 begins, 1 inside).
    """

    word: Ints
    text: Ints
    position: Ints
    first: Ints
    length: Ints
    evidence_position: Ints
    evidence_kind: Ints
    # Number of the group of each text.
    group: Ints

    def __len__(self) -> int:
        """Number of sentences."""
        return len(self.length)

    @property
    def starts(self) -> NDArray[np.bool_]:
        """Flags of shape (n_tokens,): does the token begin a sentence?"""
        starts = np.zeros(len(self.position), dtype=bool)
        starts[np.cumsum(self.length) - self.length] = True
        return starts

    def falling(self, block: int) -> Ints:
        """Sentences by falling length within blocks of that many neighbours."""
        return np.lexsort((-self.length, np.arange(len(self)) // block))


def lay_out_words(word: NDArray[np.integer], length: Ints, text: Ints | None = None) -> Layout:
    """Columns for sentences whose word numbers stand end to end; `text` numbers each sentence's text."""
    sentences = len(length)
    text = np.zeros(sentences, dtype=np.int64) if text is None else text
    position = np.arange(len(word)) + np.repeat((np.arange(sentences) + 1) * WINDOW, length)
    padded = np.zeros(len(word) + (sentences + 1) * WINDOW, dtype=np.int64)
    padded[position] = word.astype(np.int64) + 1
    texts = np.zeros(len(padded), dtype=np.int64)
    texts[position] = np.repeat(text, length)
    first = np.cumsum(length) - length + (np.arange(sentences) + 1) * WINDOW
    none = np.zeros(0, dtype=np.int64)
    groups = np.arange(int(text.max(initial=-1)) + 1)
    return Layout(padded, texts, position, first, length, none, none, groups)


def lay_out(inputs: Sequence[TaggerInput], types: Sequence[str], sources: Sequence[str]) -> Layout:
    """Columns over the sentences in use of all inputs, which share a vocabulary."""
    words: list[NDArray[np.int32]] = []
    lengths: list[Ints] = []
    hits: list[Ints] = []
    kinds: list[Ints] = []
    tokens = 0
    sentences = 0
    for item in inputs:
        left, right = item.token_bounds()
        length = right - left
        if item.sentences is None:
            words.append(item.analysis.word)
        else:
            words += [item.analysis.word[a:b] for a, b in zip(left.tolist(), right.tolist(), strict=True)]
        lengths.append(length)
        if item.evidence and sources:
            token, kind = evidence_hits(item.analysis, item.evidence, types, sources)
            before = np.cumsum(length) - length
            at = np.searchsorted(left, token, side="right") - 1
            inside = (at >= 0) & (token < right[np.maximum(at, 0)]) if len(left) else at >= 0
            at, token, kind = at[inside], token[inside], kind[inside]
            place = tokens + before[at] + token - left[at] + (sentences + at + 1) * WINDOW
            hits.append(place)
            kinds.append(kind)
        tokens += int(length.sum())
        sentences += len(length)
    none = [np.zeros(0, dtype=np.int64)]
    text = np.repeat(np.arange(len(inputs)), [len(length) for length in lengths])
    made = lay_out_words(
        np.concatenate(words or none), np.concatenate(lengths or none).astype(np.int64), text
    )
    number: dict[str | int, int] = {}
    groups = [
        number.setdefault(k if item.group is None else item.group, len(number))
        for k, item in enumerate(inputs)
    ]
    return replace(
        made,
        evidence_position=np.concatenate(hits or none),
        evidence_kind=np.concatenate(kinds or none),
        group=np.array(groups, dtype=np.int64),
    )


def source_of(source: str, maker: str) -> str:
    """One list or rule as a source of its own, beside all of them."""
    return f"{source} “{maker}”"


def makers_apart(inputs: Sequence[TaggerInput], sources: Sequence[str]) -> list[str]:
    """The lists and rules, as sources of their own, that are not alone in finding spans of some type; of very many those
    with the most spans. In order."""
    makers: dict[tuple[str, str], Counter[str]] = {}
    for item in inputs:
        for span in item.evidence:
            if span.maker and span.source in sources:
                makers.setdefault((span.source, span.type), Counter())[span.maker] += 1
    spans: Counter[str] = Counter()
    for (source, _), several in makers.items():
        if len(several) > 1:
            spans.update({source_of(source, maker): count for maker, count in several.items()})
    most_first = sorted(spans, key=lambda name: (-spans[name], name))
    return sorted(most_first[:MOST_MAKERS])


def evidence_hits(
    analysis: Analysis, evidence: Sequence[Span], types: Sequence[str], sources: Sequence[str]
) -> tuple[Ints, Ints]:
    """Tokens in evidence, and what they are in it; a token may stand in several, each once."""
    type_number = {code: k for k, code in enumerate(types)}
    source_number = {name: k for k, name in enumerate(sources)}
    found: set[tuple[int, int]] = set()
    for span in evidence:
        if span.type not in type_number or span.source not in source_number:
            continue
        first, last = analysis.token_range(span.start, span.end)
        for name in (span.source, source_of(span.source, span.maker)):
            if (number := source_number.get(name)) is not None:
                kind = 2 * (number * len(types) + type_number[span.type])
                found.update((token, kind + (token > first)) for token in range(first, last))
    pairs = np.array(sorted(found), dtype=np.int64).reshape(-1, 2)
    return pairs[:, 0], pairs[:, 1]
