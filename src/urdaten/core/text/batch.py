"""Batch: many texts as one set of columns over their tokens."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise

import numpy as np

from urdaten.core.arrays import Ints
from urdaten.core.text.analysis import Analysis
from urdaten.core.text.pack import LanguagePack, language_pack
from urdaten.core.text.sentences import sentence_starts
from urdaten.core.text.tokens import cut_texts
from urdaten.core.text.vocabulary import Vocabulary

# Texts are joined to blocks of about this many code points: large enough to be quick, small in memory.
BLOCK = 1_000_000


@dataclass(frozen=True, eq=False)
class Batch:
    """Texts with the columns of their tokens, one text after the other.

    Columns are int32 of shape (n_tokens,): start and end, code points within the text's own body; word, a number of the
    vocabulary; sentence, numbered from 0 through the whole batch, so that no two texts share one.
    """

    bodies: tuple[str, ...]
    vocabulary: Vocabulary
    # Of shape (n_texts + 1,): text k has the tokens first[k] .. first[k + 1].
    first: Ints
    start: Ints
    end: Ints
    word: Ints
    sentence: Ints

    def __len__(self) -> int:
        """Number of texts."""
        return len(self.bodies)

    @cached_property
    def text(self) -> Ints:
        """Number of each token's text."""
        return np.repeat(np.arange(len(self), dtype=np.int32), np.diff(self.first))

    @cached_property
    def analyses(self) -> list[Analysis]:
        """Each text for itself; its columns are views of these where they can be."""
        return [self._analysis(k) for k in range(len(self))]

    def sentence_bounds(self) -> list[list[tuple[int, int]]]:
        """Half-open code point bounds of each text's sentences, from the first word of each to its last."""
        if not len(self.sentence):
            return [[] for _ in self.bodies]
        begins = np.flatnonzero(np.diff(self.sentence, prepend=self.sentence[0] - 1))
        ends = np.append(begins[1:], len(self.sentence)) - 1
        pairs = list(zip(self.start[begins].tolist(), self.end[ends].tolist(), strict=True))
        own = np.searchsorted(begins, self.first).tolist()
        return [pairs[a:b] for a, b in pairwise(own)]

    def only(self, texts: Sequence[int]) -> Batch:
        """Some of the texts, by number, in this order."""
        ranges = [np.arange(self.first[k], self.first[k + 1]) for k in texts]
        tokens = np.concatenate([np.zeros(0, dtype=np.int64), *ranges])
        sentence = self.sentence[tokens]
        begins = np.diff(sentence, prepend=-1) != 0
        return replace(
            self,
            bodies=tuple(self.bodies[k] for k in texts),
            first=np.append(0, np.cumsum([len(own) for own in ranges])).astype(np.int32),
            start=self.start[tokens],
            end=self.end[tokens],
            word=self.word[tokens],
            sentence=np.cumsum(begins, dtype=np.int32) - np.int32(1),
        )

    def _analysis(self, k: int) -> Analysis:
        at = slice(int(self.first[k]), int(self.first[k + 1]))
        sentence = self.sentence[at]
        return Analysis(
            body=self.bodies[k],
            vocabulary=self.vocabulary,
            start=self.start[at],
            end=self.end[at],
            word=self.word[at],
            sentence=sentence - sentence[:1] if len(sentence) else sentence,
        )

    def token_ranges(self, text: Ints, start: Ints, end: Ints) -> tuple[Ints, Ints]:
        """Of ranges of code points in the bodies of texts: the first token of the batch and one past the last that lie within
        each; int64 columns."""
        # As if all bodies stood end to end.
        lengths = np.array([len(body) for body in self.bodies], dtype=np.int64)
        shift = np.cumsum(lengths + 1) - (lengths + 1)
        own = shift[self.text]
        first = np.searchsorted(self.start + own, start + shift[text], side="left")
        last = np.searchsorted(self.end + own, np.minimum(end, lengths[text]) + shift[text], side="right")
        return first, np.maximum(first, last)

    def tokens_within(self, ranges: Sequence[tuple[int, int, int]]) -> set[int]:
        """Tokens of the batch that lie within ranges of a text, from a start to an end in code points."""
        columns = np.array(ranges, dtype=np.int64).reshape(-1, 3).T
        pairs = zip(*(column.tolist() for column in self.token_ranges(*columns)), strict=True)
        return {token for first, last in pairs for token in range(first, last)}

    def with_sentences(self, starts: Sequence[Sequence[int]]) -> Batch:
        """The same tokens in sentences that begin at the given offsets, of each text ascending and one at least; what
        stands before the first is of it."""
        # As if all bodies stood end to end.
        lengths = np.array([len(body) + 1 for body in self.bodies], dtype=np.int64)
        shift = np.cumsum(lengths) - lengths
        counts = np.array([len(own) for own in starts], dtype=np.int64)
        begin = np.concatenate([np.zeros(0, np.int64), *(np.asarray(own, np.int64) for own in starts)])
        begin += np.repeat(shift, counts)
        column = np.searchsorted(begin, self.start + shift[self.text], side="right") - 1
        own_first = np.cumsum(counts) - counts
        return replace(self, sentence=np.maximum(column, own_first[self.text]).astype(np.int32))

    @classmethod
    def joined(cls, analyses: Sequence[Analysis]) -> Batch:
        """Of texts that were analysed one by one with one vocabulary; one text at least."""
        sizes = np.array([len(analysis) for analysis in analyses], dtype=np.int64)
        first = np.append(0, np.cumsum(sizes)).astype(np.int32)
        sentences = [int(a.sentence[-1]) + 1 if len(a) else 0 for a in analyses]
        before = np.append(0, np.cumsum(sentences)[:-1])
        return cls(
            tuple(analysis.body for analysis in analyses),
            analyses[0].vocabulary,
            first,
            np.concatenate([a.start for a in analyses]),
            np.concatenate([a.end for a in analyses]),
            np.concatenate([a.word for a in analyses]),
            np.concatenate([a.sentence for a in analyses]) + np.repeat(before, sizes).astype(np.int32),
        )


def batch_of(
    bodies: Sequence[str],
    language: str = "en",
    vocabulary: Vocabulary | None = None,
    abbreviations: frozenset[str] = frozenset(),
) -> Batch:
    """Split bodies into tokens and sentences; many short ones at once are quicker.

    Texts that were analysed with the same vocabulary share their word numbers. `abbreviations` are a project's own, folded
    and without their stop; they add to those of the language.
    """
    vocabulary = Vocabulary() if vocabulary is None else vocabulary
    pack = language_pack(language).with_abbreviations(abbreviations)
    blocks: list[_Block] = []
    block: list[str] = []
    size = 0
    for body in bodies:
        if block and size + len(body) > BLOCK:
            blocks.append(_Block(block, vocabulary, pack))
            block, size = [], 0
        block.append(body)
        size += len(body) + 1
    if block:
        blocks.append(_Block(block, vocabulary, pack))
    none = np.zeros(0, dtype=np.int32)
    starts = np.concatenate([none.astype(bool), *(made.begins for made in blocks)])
    counts = np.concatenate([none, *(made.counts for made in blocks)])
    return Batch(
        tuple(bodies),
        vocabulary,
        np.append(0, np.cumsum(counts)).astype(np.int32),
        np.concatenate([none, *(made.start for made in blocks)]),
        np.concatenate([none, *(made.end for made in blocks)]),
        np.concatenate([none, *(made.word for made in blocks)]),
        np.cumsum(starts, dtype=np.int32) - np.int32(1),
    )


class _Block:
    """Some texts, cut as one: columns as those of a batch, and which tokens begin a sentence."""

    def __init__(self, bodies: Sequence[str], vocabulary: Vocabulary, pack: LanguagePack) -> None:
        cut = cut_texts(bodies)
        numbers = np.array(vocabulary.add_all(cut.forms), dtype=np.int32)
        self.word = numbers[cut.form]
        self.counts = np.diff(cut.first)
        text_first = np.unique(cut.first[:-1][self.counts > 0]).astype(np.int64)
        self.begins = sentence_starts(cut.joined, cut.start, cut.end, cut.form, cut.forms, text_first, pack)
        shift = np.repeat(cut.offset, self.counts)
        self.start, self.end = cut.start - shift, cut.end - shift


def analyse_many(
    bodies: Sequence[str],
    language: str = "en",
    vocabulary: Vocabulary | None = None,
    abbreviations: frozenset[str] = frozenset(),
) -> list[Analysis]:
    """As batch_of, each text for itself."""
    return batch_of(bodies, language, vocabulary, abbreviations).analyses


def analyse(
    body: str,
    language: str = "en",
    vocabulary: Vocabulary | None = None,
    abbreviations: frozenset[str] = frozenset(),
) -> Analysis:
    """As batch_of, of one body."""
    return analyse_many([body], language, vocabulary, abbreviations)[0]
