"""A seeded synthetic corpus: Zipf-like words, and names whose type the words around them decide."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from urdaten.core.spans import Span
from urdaten.core.tagger import GoldText, TaggerInput
from urdaten.core.text import Analysis, Vocabulary

SYLLABLES = (
    "ba be bo da de di ka ke ki la le lo ma mi mo na ne no ra ri ro sa se so ta te tu va vi vo".split()
)
ENDINGS = "an el ia or us in et ay um is on ar".split()
SENTENCES_PER_TEXT = 10
# Shares of names that are ambiguous, and of test names that training has not.
AMBIGUOUS, UNSEEN = 0.3, 0.6
# A name has a word of its type before it, or after it, or both; such words stand for several types, and
# stand elsewhere too.
CUED = 0.7
STRAY = 0.12
CAPITAL = 0.08


@dataclass(frozen=True)
class Corpus:
    """Texts by split over one vocabulary; `sentences` counts those of train."""

    types: tuple[str, ...]
    vocabulary: Vocabulary
    train: list[GoldText]
    dev: list[GoldText]
    test: list[GoldText]


class _Writer:
    """Words, names and how sentences are put together."""

    def __init__(self, types: int, seed: int) -> None:
        self.random = np.random.default_rng(seed)
        self.types = tuple(f"T{k:02d}" for k in range(types))
        self._used: set[str] = set()
        self.words = [self._new_word() for _ in range(14_000)]
        rank = np.arange(1, len(self.words) + 1)
        self._share = np.cumsum(1 / rank) / (1 / rank).sum()
        pool = [self._new_word() for _ in range(max(24, 5 * types))]
        # Each type has its own few of the pool, and shares each of them with two other types on average.
        self.cues = [
            [
                [
                    str(word)
                    for word in self.random.choice(pool, max(5, 3 * len(pool) // (2 * types)), replace=False)
                ]
                for _ in ("before", "after")
            ]
            for _ in self.types
        ]
        self._pool = pool
        self._shared = [self._name() for _ in range(1200)]
        self._known = [[self._name(k) for _ in range(max(60, 3000 // types))] for k in range(types)]
        self._fresh = [[self._name(k) for _ in range(max(40, 2000 // types))] for k in range(types)]

    def _new_word(self) -> str:
        while True:
            word = "".join(self.random.choice(SYLLABLES, self.random.integers(1, 5)))
            if self.random.random() < 0.3:
                word += str(self.random.choice(ENDINGS))
            if word not in self._used:
                self._used.add(word)
                return word

    def _name(self, kind: int | None = None) -> list[str]:
        """One to four words in capitals; a type has endings that it likes better than others."""
        parts = []
        for _ in range(int(self.random.choice(4, p=(0.4, 0.35, 0.15, 0.1))) + 1):
            ending = str(self.random.choice(ENDINGS))
            if kind is not None and self.random.random() < 0.4:
                ending = ENDINGS[kind % len(ENDINGS)]
            parts.append("".join(self.random.choice(SYLLABLES, self.random.integers(1, 4))).title() + ending)
        return parts

    def sentence(self, *, fresh: bool) -> tuple[list[str], list[tuple[int, int, int]]]:
        """Words, and spans (first, one past last, type)."""
        random = self.random
        length = int(random.integers(4, 17))
        drawn = np.searchsorted(self._share, random.random(length))
        words = [self.words[k] for k in drawn.tolist()]
        words[0] = words[0].title()
        spans: list[tuple[int, int, int]] = []
        out: list[str] = []
        names = set(random.choice(length, min(length, int(random.integers(0, 4))), replace=False).tolist())
        for place, word in enumerate(words):
            out.append(word)
            if place not in names:
                # Capitals that are no names.
                if random.random() < CAPITAL:
                    out[-1] = word.title()
                if random.random() < STRAY:
                    out[-1] = self._pool[int(random.integers(len(self._pool)))]
                continue
            kind = int(random.integers(len(self.types)))
            draw = random.random()
            if fresh and draw < UNSEEN:
                name = self._fresh[kind][int(random.integers(len(self._fresh[kind])))]
            elif draw < UNSEEN + (1 - UNSEEN) * AMBIGUOUS or (not fresh and draw < AMBIGUOUS):
                name = self._shared[int(random.integers(len(self._shared)))]
            else:
                name = self._known[kind][int(random.integers(len(self._known[kind])))]
            before, after = (side[int(random.integers(len(side)))] for side in self.cues[kind])
            if random.random() < CUED:
                out.append(before)
            spans.append((len(out), len(out) + len(name), kind))
            out += name
            if random.random() < CUED:
                out.append(after)
        out.append(".")
        return out, spans


def _texts(writer: _Writer, vocabulary: Vocabulary, sentences: int, *, fresh: bool) -> list[GoldText]:
    texts = []
    for at in range(0, sentences, SENTENCES_PER_TEXT):
        words: list[str] = []
        number: list[int] = []
        marked: list[tuple[int, int, int]] = []
        for k in range(min(SENTENCES_PER_TEXT, sentences - at)):
            own, spans = writer.sentence(fresh=fresh)
            marked += [(a + len(words), b + len(words), kind) for a, b, kind in spans]
            words += own
            number += [k] * len(own)
        texts.append(_text(words, number, marked, vocabulary, writer.types))
    return texts


def _text(
    words: Sequence[str],
    number: Sequence[int],
    marked: Sequence[tuple[int, int, int]],
    vocabulary: Vocabulary,
    types: Sequence[str],
) -> GoldText:
    lengths = np.array([len(word) for word in words], dtype=np.int32)
    end = np.cumsum(lengths + 1, dtype=np.int32) - 1
    start = end - lengths
    analysis = Analysis(
        " ".join(words),
        vocabulary,
        start,
        end,
        np.array([vocabulary.add(word) for word in words], dtype=np.int32),
        np.array(number, dtype=np.int32),
    )
    gold = [Span(int(start[a]), int(end[b - 1]), types[kind]) for a, b, kind in marked]
    return GoldText(TaggerInput(analysis, ()), gold)


def make_corpus(types: int, sentences: int, seed: int) -> Corpus:
    """`sentences` to train on, and a tenth as many each to choose on and to test on."""
    writer = _Writer(types, seed)
    vocabulary = Vocabulary()
    train = _texts(writer, vocabulary, sentences, fresh=False)
    held_out = [_texts(writer, vocabulary, sentences // 10, fresh=True) for _ in range(2)]
    return Corpus(writer.types, vocabulary, train, *held_out)
