"""What one layer of a tagger finds in a layout: best labels, the spans they make, and probabilities."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from urdaten.core.arrays import Floats, Ints
from urdaten.core.spans import Coding
from urdaten.core.tagger.kernels.decode import BLOCK, best_paths, likely_spans, probabilities
from urdaten.core.tagger.kernels.kinds import Chain, Tokens
from urdaten.core.tagger.kernels.passes import Exponentials, exponentials
from urdaten.core.tagger.kernels.scores import WINDOW, run_scores
from urdaten.core.tagger.layout import Layout

# So many scores are held at a time, for best paths and probabilities alike; a block of sentences at least.
_SCORES = 300_000
SINGLE, DOUBLE = np.empty(0, dtype=np.float32), np.empty(0, dtype=np.float64)


@dataclass(frozen=True)
class FoundSpans:
    """Spans of a layout as columns; first and last count tokens over all sentences, kind numbers types."""

    types: tuple[str, ...]
    sentence: Ints
    first: Ints
    last: Ints
    kind: Ints
    probability: Floats | None = None


@dataclass(frozen=True)
class _Run:
    """Sentences from number `begin` on, numbered and with positions counted from the first, and the scores of their tokens."""

    begin: int
    tokens: Tokens
    scores: Floats

    def blocks(self, sentences: Ints) -> Iterator[Ints]:
        """The sentences in blocks, by falling length within each."""
        block = np.arange(len(sentences)) // BLOCK
        order = sentences[np.lexsort((-self.tokens.length[sentences], block))]
        for at in range(0, len(order), BLOCK):
            yield order[at : at + BLOCK]


class Inference:
    """Form scores by row (n_rows, REACH · L), the weights of tokens' features, and a chain, over a layout and the features
    (pointer, column) that its tokens have."""

    def __init__(
        self,
        form_scores: Floats,
        token_weights: Floats,
        chain: Chain,
        layout: Layout,
        own: tuple[Ints, Ints],
        precisions: Sequence[Floats] = (SINGLE, DOUBLE),
    ) -> None:
        # The second where the first feels its floor.
        self._precisions = precisions
        self._form_scores, self._token_weights = form_scores, token_weights
        self._chain = chain
        self._layout = layout
        self._tokens = Tokens(layout.word, layout.first, layout.length, *own)
        self._begins = np.cumsum(layout.length) - layout.length

    @cached_property
    def _exponentials(self) -> tuple[Exponentials, ...]:
        return tuple(exponentials(self._chain, precision) for precision in self._precisions)

    def _runs(self) -> Iterator[_Run]:
        layout, labels = self._layout, len(self._chain.closing)
        begin = 0
        while begin < len(layout):
            last = layout.first[begin] + _SCORES // labels
            end = max(begin + BLOCK, int(np.searchsorted(layout.first, last)))
            first, length = layout.first[begin:end], layout.length[begin:end]
            low, high = int(first[0]) - WINDOW, int(first[-1] + length[-1]) + WINDOW
            scores = np.empty((high - low + 2 * WINDOW, labels), dtype=self._form_scores.dtype)
            tokens = self._tokens._replace(first=first, length=length)
            run_scores(tokens, low, high, self._form_scores, self._token_weights, scores)
            yield _Run(begin, tokens._replace(first=first - low), scores)
            begin = end

    def spans(self, coding: Coding, *, with_probabilities: bool) -> FoundSpans:
        """The spans of the best label sequences, with their raw probabilities where wanted."""
        parts = [self._spans(run, coding, with_probabilities) for run in self._runs()]
        if not parts:
            none = np.zeros(0, dtype=np.int64)
            return FoundSpans(coding.types, none, none, none, none, np.zeros(0))
        columns = zip(*((p.sentence, p.first, p.last, p.kind) for p in parts), strict=True)
        made = FoundSpans(coding.types, *(np.concatenate(column) for column in columns))
        given = [part.probability for part in parts if part.probability is not None]
        return replace(made, probability=np.concatenate(given)) if given else made

    def _spans(self, run: _Run, coding: Coding, with_probabilities: bool) -> FoundSpans:
        tokens, length = run.tokens, run.tokens.length
        sentences = len(length)
        labels = np.zeros(len(run.scores), dtype=np.int64)
        best_paths(run.scores, tokens, self._chain, labels)
        begin = int(self._begins[run.begin])
        begins = self._begins[run.begin : run.begin + sentences] - begin
        place = np.arange(int(length.sum())) + np.repeat(tokens.first - begins, length)
        starts = np.zeros(len(place), dtype=bool)
        starts[begins] = True
        first, last, kind = (column.astype(np.int64) for column in coding.decode(labels[place], starts))
        sentence = np.searchsorted(begins, first, side="right") - 1
        found = FoundSpans(coding.types, sentence + run.begin, first + begin, last + begin, kind)
        if not with_probabilities:
            return found
        pointer = np.searchsorted(sentence, np.arange(sentences + 1))
        raw = np.empty(len(first), dtype=np.float64)
        spans = (labels, pointer, first - begins[sentence], last - begins[sentence], raw)
        # Passes over what holds no span would say nothing.
        for chosen in run.blocks(np.flatnonzero(np.diff(pointer))):
            for exponential, precision in zip(self._exponentials, self._precisions, strict=True):
                if not probabilities(chosen, run.scores, tokens, exponential, self._chain, *spans, precision):
                    break
        return replace(found, probability=np.clip(raw, 0, 1))

    def likely(self, coding: Coding, least: float) -> Iterator[FoundSpans]:
        """All spans of at least this raw probability, a block of sentences at a time; they may overlap."""
        for run in self._runs():
            for chosen in run.blocks(np.arange(len(run.tokens.first))):
                lengths = run.tokens.length[chosen]
                most = len(coding.types) * int((lengths * (lengths + 1) // 2).sum())
                room = min(int(lengths.sum() / least), most) + 1
                rows, raw = np.empty((room, 4), dtype=np.int64), np.empty(room)
                wanted = (coding.roles, coding.steps, least, rows, raw)
                counts = (
                    likely_spans(chosen, run.scores, run.tokens, exponential, self._chain, *wanted, precision)
                    for exponential, precision in zip(self._exponentials, self._precisions, strict=True)
                )
                count = next(count for count in counts if count >= 0)
                sentence, first, last, kind = rows[:count].T
                sentence = sentence + run.begin
                begins = self._begins[sentence]
                yield FoundSpans(
                    coding.types, sentence, first + begins, last + begins, kind, np.clip(raw[:count], 0, 1)
                )
