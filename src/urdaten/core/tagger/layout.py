"""Sentences laid end to end as columns, with what stands between them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from urdaten.core.arrays import Bools, Ints
from urdaten.core.spans import Span, SpanTable
from urdaten.core.tagger.kernels.scores import WINDOW
from urdaten.core.text import Analysis, Batch

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
    if not inputs:
        none = np.zeros(0, dtype=np.int64)
        return lay_out_words(none, none)
    batch = Batch.joined([item.analysis for item in inputs])
    in_use = np.ones(len(batch.word), dtype=bool)
    for item, first, last in zip(inputs, batch.first[:-1].tolist(), batch.first[1:].tolist(), strict=True):
        if item.sentences is not None:
            in_use[first:last] = np.isin(item.analysis.sentence, np.asarray(item.sentences, dtype=np.int64))
    evidence = SpanTable.of_spans([item.evidence if sources else () for item in inputs])
    return lay_out_batch(batch, evidence, types, sources, [item.group for item in inputs], in_use)


def lay_out_batch(
    batch: Batch,
    evidence: SpanTable,
    types: Sequence[str],
    sources: Sequence[str],
    groups: Sequence[str | None] = (),
    in_use: Bools | None = None,
) -> Layout:
    """Columns over the sentences of a batch, or over those whose tokens are in use; groups as those of TaggerInput."""
    new = np.flatnonzero(np.diff(batch.sentence, prepend=-1))
    length = np.diff(np.append(new, len(batch.word)))
    word, number = batch.word, np.arange(len(batch.word))
    if in_use is not None:
        held = in_use[new]
        new, length = new[held], length[held]
        word, number = word[in_use], np.where(in_use, np.cumsum(in_use) - 1, -1)
    made = lay_out_words(word, length, batch.text[new])
    token, kind = evidence_hits(batch, evidence, types, sources)
    seen = number[token] >= 0
    group_number: dict[str | int, int] = {}
    return replace(
        made,
        evidence_position=made.position[number[token[seen]]],
        evidence_kind=kind[seen],
        group=np.array(
            [
                group_number.setdefault(k if group is None else group, len(group_number))
                for k, group in enumerate(groups or [None] * len(batch))
            ],
            dtype=np.int64,
        ),
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
    batch: Batch, evidence: SpanTable, types: Sequence[str], sources: Sequence[str]
) -> tuple[Ints, Ints]:
    """Tokens in evidence, and what they are in it; a token may stand in several, each once."""
    type_number = _numbers(evidence.types, types)[evidence.type]
    source_number = _numbers(evidence.sources, sources)[evidence.source]
    # A list or rule of its own, beside all of them.
    pair = evidence.source.astype(np.int64) * max(1, len(evidence.makers)) + evidence.maker
    distinct, which = np.unique(pair, return_inverse=True)
    named = [divmod(one, max(1, len(evidence.makers))) for one in distinct.tolist()]
    made_by = [source_of(evidence.sources[source], evidence.makers[maker]) for source, maker in named]
    maker_number = _numbers(made_by, sources)[which]
    first, last = batch.token_ranges(evidence.text, evidence.start, evidence.end)
    kept = np.flatnonzero((type_number >= 0) & (last > first))
    hits = [np.zeros(0, dtype=np.int64)]
    kinds = 2 * len(types) * len(sources)
    for number in (source_number, maker_number):
        rows = kept[number[kept] >= 0]
        size = (last - first)[rows]
        inside = np.arange(int(size.sum())) - np.repeat(np.cumsum(size) - size, size)
        kind = 2 * (number[rows] * len(types) + type_number[rows])
        token = np.repeat(first[rows], size) + inside
        hits.append(token * kinds + np.repeat(kind, size) + (inside > 0))
    found = np.unique(np.concatenate(hits))
    return found // max(1, kinds), found % max(1, kinds)


def _numbers(names: Sequence[str], among: Sequence[str]) -> NDArray[np.int64]:
    """The place of each name among others, or −1."""
    number = {name: k for k, name in enumerate(among)}
    return np.array([number.get(name, -1) for name in names], dtype=np.int64)
